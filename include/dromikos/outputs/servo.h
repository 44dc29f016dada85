/* The servo: an arm whose position is the width of a pulse, sent fifty times per second. */
#ifndef DROMIKOS_OUTPUTS_SERVO_H
#define DROMIKOS_OUTPUTS_SERVO_H

#include "../config.h"

typedef enum drom_servo_verb {
    DROM_SERVO_OFF,     /**< ends the pulses, after the current one: the arm is loose */
    DROM_SERVO_GO,      /**< DROM_SERVO_TO(degrees, ms) */
    DROM_SERVO_FORWARD, /**< likewise, relative to the newest target (at first 0), up to 180 */
    DROM_SERVO_BACK,    /**< likewise, down to 0 */
} drom_servo_verb;

/** A target or a distance of 0 to 180 degrees, reached within 0 to 1,800,000 ms. The first order moves at
 * once. */
#define DROM_SERVO_TO(degrees, ms) ((uint32_t)(degrees) | (uint32_t)(ms) << 8)

/** Eighths of a degree, 0 to 7, to be added to DROM_SERVO_TO. */
#define DROM_SERVO_EIGHTHS(eighths) ((uint32_t)(eighths) << 29)

/** The largest position, in degrees. */
#define DROM_SERVO_FARTHEST 180

#ifndef __cplusplus

#include "../output.h"

typedef struct drom_servo_settings {
    uint16_t min_us; /**< pulse at 0 degrees: 400 to 2600 */
    uint16_t max_us; /**< pulse at 180 degrees, likewise, and different */
    uint8_t pin;
} drom_servo_settings;

typedef struct drom_servo_state {
    drom_us next_at; /**< the next edge */
    drom_us rose_at; /**< start of the newest pulse */
    uint32_t left;   /**< pulses until the target is reached */
    uint16_t width_us;
    uint16_t target;    /**< in eighths of a degree */
    bool is_on : 1;     /**< pulses are sent */
    bool is_ending : 1; /**< the current pulse is the last */
    bool is_high : 1;   /**< after the newest edge that was made */
} drom_servo_state;

extern const drom_output_kind DROM_FLASH drom_servo;

/** A row of the outputs. `settings_of` is a drom_servo_settings in flash, `state_of` a drom_servo_state. */
#define DROM_SERVO(settings_of, state_of) DROM_OUTPUT_OF(servo, settings_of, state_of)

#endif
#endif
