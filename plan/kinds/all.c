/* The kinds of outputs, one line each. */
#include "plan/kinds/kinds.h"

#define KINDS                                                                                                \
    KIND(relay)                                                                                              \
    KIND(lamp)                                                                                               \
    KIND(stepper)                                                                                            \
    KIND(strip)                                                                                              \
    KIND(part)                                                                                               \
    KIND(sender)                                                                                             \
    KIND(servo)                                                                                              \
    KIND(motor)                                                                                              \
    KIND(drive)                                                                                              \
    KIND(keyboard)                                                                                           \
    KIND(call)

#define KIND(name) extern const output_kind name##_kind;
KINDS
#undef KIND

#define KIND(name) &name##_kind,
const output_kind *const output_kinds[] = {KINDS NULL};
