/* The drive: two motors, left and right, that move and steer together. */
#ifndef DROMIKOS_OUTPUTS_DRIVE_H
#define DROMIKOS_OUTPUTS_DRIVE_H

#include "../config.h"

/** The values are levels, 0 to DROM_FULL_LEVEL, as in DROM_MOTOR_AT(). */
typedef enum drom_drive_verb {
    DROM_DRIVE_STOP, /**< by the ramps */
    DROM_DRIVE_COAST,
    DROM_DRIVE_BRAKE, /**< if both motors can */
    DROM_DRIVE_FORWARD,
    DROM_DRIVE_BACK,
    DROM_DRIVE_LEFT,      /**< forward in a left turn: the left side stands still */
    DROM_DRIVE_RIGHT,     /**< forward in a right turn */
    DROM_DRIVE_SPIN_LEFT, /**< on the spot: the left side runs back */
    DROM_DRIVE_SPIN_RIGHT,
} drom_drive_verb;

#ifndef __cplusplus

#include "motor.h"

/** A motor of the drive, which is an output of the plan as well. */
typedef struct drom_drive_side {
    const drom_motor_settings DROM_FLASH *settings;
    drom_motor_state *state;
} drom_drive_side;

/** If one side ends at a limit or a switch, or by another order, the other side ends too: no side runs on
 * alone. */
typedef struct drom_drive_settings {
    drom_drive_side left;
    drom_drive_side right;
} drom_drive_settings;

typedef struct drom_drive_state {
    bool moves_left; /**< by the newest order */
    bool moves_right;
} drom_drive_state;

extern const drom_output_kind DROM_FLASH drom_drive;

/** A row of the outputs, after those of its motors. `settings_of` is a drom_drive_settings in flash,
 * `state_of` a drom_drive_state. */
#define DROM_DRIVE(settings_of, state_of) DROM_OUTPUT_OF(drive, settings_of, state_of)

#endif
#endif
