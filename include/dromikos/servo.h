/* The servo: a motor with an arm that goes where the width of a pulse says, fifty times a second. */
#ifndef DROMIKOS_SERVO_H
#define DROMIKOS_SERVO_H

#include "outputs.h"

typedef enum drom_servo_verb {
    DROM_SERVO_OFF,     /**< no more pulses, after the one that is going out: the arm is loose */
    DROM_SERVO_GO,      /**< DROM_SERVO_TO(degrees, ms) */
    DROM_SERVO_FORWARD, /**< likewise, relative to the newest target (0 before the first), at most to 180 */
    DROM_SERVO_BACK,    /**< likewise, towards 0 */
} drom_servo_verb;

/** A target or a distance of 0 to 180 degrees, reached within 0 to 1,800,000 ms. The first order moves at
 * once.
 */
#define DROM_SERVO_TO(degrees, ms) ((uint32_t)(degrees) | (uint32_t)(ms) << 8)
/** Eighths of a degree, 0 to 7, which may be added to that. */
#define DROM_SERVO_EIGHTHS(eighths) ((uint32_t)(eighths) << 29)

/** The farthest place, in degrees. */
#define DROM_SERVO_FARTHEST 180

typedef struct drom_servo_settings {
    uint16_t min_us; /**< the pulse for 0 degrees: 400 to 2600 */
    uint16_t max_us; /**< for 180 degrees, likewise, and not the same */
    uint8_t pin;
} drom_servo_settings;

typedef struct drom_servo_state {
    drom_us next_at; /**< the next edge */
    drom_us rose_at; /**< the pulse that goes out, or the newest one */
    uint32_t left;   /**< pulses until it is where it goes */
    uint16_t width_us;
    uint16_t target;    /**< where it goes, in eighths of a degree */
    bool is_on : 1;     /**< pulses go out */
    bool is_ending : 1; /**< the one that goes out is the last */
    bool is_high : 1;   /**< after the newest edge that was made */
} drom_servo_state;

extern const drom_output_kind DROM_FLASH drom_servo;

/** A row of the outputs table. `settings_of` is a drom_servo_settings in flash, `state_of` a
 * drom_servo_state.
 */
#define DROM_SERVO(settings_of, state_of)                                                                    \
    {                                                                                                        \
        .kind = &drom_servo, .settings = 1 ? &(settings_of) : (const drom_servo_settings DROM_FLASH *)NULL,  \
        .state = 1 ? &(state_of) : (drom_servo_state *)NULL                                                  \
    }

#endif
