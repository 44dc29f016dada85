/* The stepper: runs, turns, goes to a position, accelerates and brakes; keeps its position and finds home.
 *
 * Two coils at a time are on, in the order of the pins, so that any wiring can be used. */
#ifndef DROMIKOS_OUTPUTS_STEPPER_H
#define DROMIKOS_OUTPUTS_STEPPER_H

#include "../config.h"

typedef enum drom_stepper_verb {
    DROM_STEPPER_STOP, /**< brakes, and stays where it then is */
    DROM_STEPPER_RUN,  /**< until it is stopped; `value` 1: forward, 0: backward */
    DROM_STEPPER_TURN, /**< by `value` steps, an int32_t, from its target */
    DROM_STEPPER_GO,   /**< to position `value`, an int32_t; 0 is the position at start, or home */
    DROM_STEPPER_HOME, /**< back until its switch closes, then forward step by step until it opens: there the
                          position is 0, within four steps */
} drom_stepper_verb;

/** The largest position, in steps from 0, and the longest turn. */
#define DROM_STEPPER_FARTHEST INT32_C(1000000000)

#ifndef __cplusplus

#include "../output.h"

/** With an acceleration of a steps/s², the first step comes after 1000000 * sqrt(2 / a) µs. Full speed v is
 * reached after v / a seconds and v² / 2a steps, and braking takes as long. */
typedef struct drom_stepper_settings {
    uint8_t pins[4];     /**< in the order in which the coils are energised */
    uint32_t first_us;   /**< from standstill to the first step: fastest_us to 10,000,000 */
    uint32_t fastest_us; /**< between steps at full speed: 200 or more */
    bool holds_still;    /**< keeps its coils on at standstill; else they go off after the time of a step */
    const bool *home;    /**< true at home and behind it: `is_closed` of a drom_touch of the plan; null, with
                            `home_max`    0: no home */
    int32_t home_max;    /**< steps in either direction after which the search for home ends: 1 to
                            DROM_STEPPER_FARTHEST */
} drom_stepper_settings;

typedef struct drom_stepper_state {
    int32_t position; /**< in steps, after the newest timed edge */
    int32_t target;
    int32_t home_end;      /**< position at which the search for home ends */
    drom_us next_at;       /**< the next step */
    drom_deadline settled; /**< when the rotor has settled after the last step and the coils may go off */
    uint32_t interval_us;
    uint32_t ramp;       /**< steps needed to stop; 0: it stands still */
    uint32_t rest;       /**< remainder of the division that last changed interval_us */
    uint8_t homing;      /**< DROM_STEPPER_SEEKS, DROM_STEPPER_LEAVES; 0: not searching home */
    bool is_moving : 1;  /**< a next step follows */
    bool is_forward : 1; /**< direction of the movement */
    bool is_on : 1;      /**< the coils are on */
} drom_stepper_state;

enum { DROM_STEPPER_SEEKS = 1, DROM_STEPPER_LEAVES };

extern const drom_output_kind DROM_FLASH drom_stepper;

/** A row of the outputs. `settings_of` is a drom_stepper_settings in flash, `state_of` a drom_stepper_state.
 */
#define DROM_STEPPER(settings_of, state_of) DROM_OUTPUT_OF(stepper, settings_of, state_of)

#endif
#endif
