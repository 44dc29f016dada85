/* The motor behind a bridge: either way at any speed, by a ramp, never the other way without a pause; with
 * limits of speed and time, and switches at which it stops. */
#ifndef DROMIKOS_MOTOR_H
#define DROMIKOS_MOTOR_H

#include "outputs.h"

typedef enum drom_motor_verb {
    DROM_MOTOR_STOP,    /**< by the ramp */
    DROM_MOTOR_COAST,   /**< no drive, at once: it runs out */
    DROM_MOTOR_BRAKE,   /**< no drive, at once, and the winding shorted; with a speed pin and two others */
    DROM_MOTOR_RUN,     /**< DROM_MOTOR_AT(level) or DROM_MOTOR_BACK_AT(level) */
    DROM_MOTOR_FASTER,  /**< by `value` of DROM_FULL; from standing, at the lowest speed or at that */
    DROM_MOTOR_SLOWER,  /**< by `value` of DROM_FULL, down to the lowest speed */
    DROM_MOTOR_FORWARD, /**< the direction alone, under way or for when it runs next */
    DROM_MOTOR_BACK,
    DROM_MOTOR_REVERSE,
    DROM_MOTOR_RESUME, /**< as fast as it ran last, in the direction that it has; at first, at full speed */
    DROM_MOTOR_TOGGLE, /**< stop, or resume */
} drom_motor_verb;

/** The value of DROM_MOTOR_RUN: 0 stops, DROM_FULL is full speed. What the settings don't allow is brought
 * within their limits. */
#define DROM_MOTOR_AT(level) ((uint32_t)(level))
#define DROM_MOTOR_BACK_AT(level) ((uint32_t)(level) | UINT32_C(0x100))

/** No such pin. */
#define DROM_NO_PIN 255

/** Its pins are those of a bridge: forward, back and, with PWM, speed; or forward and back, both with PWM
 * (no speed); or speed alone (no forward, no back), of a motor that runs one way. Forward and back are never
 * on together: with a bridge of single transistors that would be a short. */
typedef struct drom_motor_settings {
    uint16_t ramp_ms; /**< from standing to full speed, and back: 0 to 60,000 */
    uint32_t max_ms;  /**< it runs for so long at a time, one way: up to DROM_LONGEST_MS; 0: on and on */
    const bool
        *stops_forward;     /**< it doesn't run forward while that is true: `is_closed` of one of the plan's
                               touches (contacts.h), which waits for no event; null: there is none */
    const bool *stops_back; /**< likewise */
    uint16_t dead_ms;       /**< no drive before it is driven the other way: 1 to 10,000 */
    uint8_t forward_pin;
    uint8_t back_pin;
    uint8_t speed_pin;
    uint8_t slowest; /**< of DROM_FULL, 1 to `fastest` */
    uint8_t fastest;
} drom_motor_settings;

typedef struct drom_motor_state {
    drom_deadline next;  /**< step of the ramp */
    drom_deadline dead;  /**< until then it isn't driven in the barred directions */
    drom_deadline limit; /**< it is stopped then */
    int16_t speed;       /**< as it is driven: DROM_FULL full, less than 0 back */
    int16_t target;
    uint8_t last;   /**< what RESUME goes back to */
    uint8_t barred; /**< DROM_MOTOR_BARS_FORWARD, _BACK */
    bool is_back;   /**< the direction that it has, standing, too */
    bool is_braking;
    bool waits_for_others; /**< of its interlock */
} drom_motor_state;

enum { DROM_MOTOR_BARS_FORWARD = 1, DROM_MOTOR_BARS_BACK = 2 };

extern const drom_output_kind DROM_FLASH drom_motor;

/** A row of the outputs table. `settings_of` is a drom_motor_settings in flash, `state_of` a
 * drom_motor_state. Its pins belong into the plan's guard, too, so that it doesn't run on where the program
 * hangs. */
#define DROM_MOTOR(settings_of, state_of)                                                                    \
    {                                                                                                        \
        .kind = &drom_motor, .settings = 1 ? &(settings_of) : (const drom_motor_settings DROM_FLASH *)NULL,  \
        .state = 1 ? &(state_of) : (drom_motor_state *)NULL                                                  \
    }

#endif
