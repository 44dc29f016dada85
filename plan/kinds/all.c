/* The kinds of outputs. A new one is a line here. */
#include "../kinds.h"

extern const output_kind relay_kind;
extern const output_kind lamp_kind;
extern const output_kind stepper_kind;
extern const output_kind strip_kind;
extern const output_kind part_kind;
extern const output_kind sender_kind;
extern const output_kind servo_kind;
extern const output_kind motor_kind;
extern const output_kind drive_kind;
extern const output_kind keyboard_kind;
extern const output_kind call_kind;

const output_kind *const output_kinds[] = {
    &relay_kind, &lamp_kind,  &stepper_kind, &strip_kind,    &part_kind, &sender_kind,
    &servo_kind, &motor_kind, &drive_kind,   &keyboard_kind, &call_kind, NULL,
};
