/* The motor behind a bridge: in both directions at any speed, with a ramp and a dead time before each change
 * of direction; with limits of speed and time, and end switches. */
#ifndef DROMIKOS_OUTPUTS_MOTOR_H
#define DROMIKOS_OUTPUTS_MOTOR_H

#include "../config.h"

typedef enum drom_motor_verb {
    DROM_MOTOR_STOP,    /**< by the ramp */
    DROM_MOTOR_COAST,   /**< stops driving at once */
    DROM_MOTOR_BRAKE,   /**< stops driving at once and shorts the winding; requires a speed pin and two others
                         */
    DROM_MOTOR_RUN,     /**< DROM_MOTOR_AT(level) or DROM_MOTOR_BACK_AT(level) */
    DROM_MOTOR_FASTER,  /**< by `value` of DROM_FULL_LEVEL; from standstill at least at the lowest speed */
    DROM_MOTOR_SLOWER,  /**< by `value` of DROM_FULL_LEVEL, down to the lowest speed */
    DROM_MOTOR_FORWARD, /**< sets the direction, of a running motor or for the next run */
    DROM_MOTOR_BACK,
    DROM_MOTOR_REVERSE,
    DROM_MOTOR_RESUME, /**< runs at the last speed, at first full speed, in the set direction */
    DROM_MOTOR_TOGGLE, /**< stops or resumes */
} drom_motor_verb;

/** The value of DROM_MOTOR_RUN: 0 stops, DROM_FULL_LEVEL is full speed. Levels are limited as the settings
 * say. */
#define DROM_MOTOR_AT(level) ((uint32_t)(level))
#define DROM_MOTOR_BACK_AT(level) ((uint32_t)(level) | UINT32_C(0x100))

#ifndef __cplusplus

#include "../output.h"

/** The pins are those of a bridge: forward, back and, with PWM, speed; or forward and back, both with PWM (no
 * speed); or speed alone, of a motor with one direction. DROM_NONE: no such pin. Forward and back are never
 * on together: with a bridge of single transistors that would be a short. */
typedef struct drom_motor_settings {
    uint16_t ramp_ms;          /**< from standstill to full speed, and back: 0 to 60,000 */
    uint32_t max_ms;           /**< longest run in one direction, up to DROM_LONGEST_MS; 0: no limit */
    const bool *stops_forward; /**< doesn't run forward while this is true: `is_closed` of a drom_touch of the
                                  plan; null: no end switch */
    const bool *stops_back;    /**< likewise, back */
    uint16_t dead_ms;          /**< pause before a change of direction: 1 to 10,000 */
    uint8_t forward_pin;
    uint8_t back_pin;
    uint8_t speed_pin;
    uint8_t slowest; /**< level, 1 to `fastest` */
    uint8_t fastest;
} drom_motor_settings;

typedef struct drom_motor_state {
    drom_deadline next;  /**< step of the ramp */
    drom_deadline dead;  /**< end of the dead time: until then not driven in the barred directions */
    drom_deadline limit; /**< end of the longest run */
    int16_t speed;       /**< as driven: DROM_FULL_LEVEL full, negative back */
    int16_t target;
    uint8_t last;   /**< speed for RESUME */
    uint8_t barred; /**< DROM_MOTOR_BARS_FORWARD, DROM_MOTOR_BARS_BACK */
    bool is_back;   /**< the set direction */
    bool is_braking;
    bool waits_for_others; /**< of its interlock */
} drom_motor_state;

enum { DROM_MOTOR_BARS_FORWARD = 1, DROM_MOTOR_BARS_BACK = 2 };

extern const drom_output_kind DROM_FLASH drom_motor;

/** A row of the outputs. `settings_of` is a drom_motor_settings in flash, `state_of` a drom_motor_state. List
 * its pins in the plan's guard, so that the motor stops when the program hangs. */
#define DROM_MOTOR(settings_of, state_of) DROM_OUTPUT_OF(motor, settings_of, state_of)

#endif
#endif
