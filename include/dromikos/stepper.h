/* The stepper: runs, turns, goes to a place, and stops; speeds up and brakes; knows where it is, and finds
 * home.
 *
 * Two coils at a time are on, in the order in which the pins are listed, so any wiring will do. */
#ifndef DROMIKOS_STEPPER_H
#define DROMIKOS_STEPPER_H

#include "outputs.h"

typedef enum drom_stepper_verb {
    DROM_STEPPER_STOP, /**< brakes, and stays where it then is */
    DROM_STEPPER_RUN,  /**< `value` 1: forward, 0: backward; until it is stopped */
    DROM_STEPPER_TURN, /**< by `value` steps, an int32_t, from where it was going to stand */
    DROM_STEPPER_GO, /**< to `value`, an int32_t; it was at 0 when the engine started, or when it came home */
    DROM_STEPPER_HOME, /**< back until its switch is closed, then forward, step by step, until it is open:
                          that place is 0, to the next four steps */
} drom_stepper_verb;

/** The farthest place, in steps from 0, and the most that it turns at a time. */
#define DROM_STEPPER_FARTHEST INT32_C(1000000000)

/** A motor that speeds up by a steps/s² has its first step after 1000000 * sqrt(2 / a) µs. It is at full
 * speed v after v / a seconds and v² / 2a steps, and brakes likewise. */
typedef struct drom_stepper_settings {
    uint8_t pins[4];     /**< in the order in which the coils take over from each other */
    uint32_t first_us;   /**< from standing to the first step; up to 10,000,000, not less than fastest_us */
    uint32_t fastest_us; /**< between steps at full speed; 200 or more */
    bool holds_still;    /**< keeps its coils on when it stands; else they go off after a step's rest */
    const bool *home;    /**< true where home is, and farther back: `is_closed` of one of the plan's touches
                            (contacts.h); null, with `home_max` 0: it has no home */
    int32_t home_max;    /**< steps either way, after which it looks for home no longer, and stands: 1 to
                             DROM_STEPPER_FARTHEST */
} drom_stepper_settings;

typedef struct drom_stepper_state {
    int32_t position; /**< in steps; that of the newest timed edge */
    int32_t target;
    int32_t home_end;      /**< it gives up there */
    drom_us next_at;       /**< the next step */
    drom_deadline settled; /**< the rotor, after its last step: then the coils go off, unless they hold it */
    uint32_t interval_us;
    uint32_t ramp;       /**< how many steps it takes to stop; 0: it stands */
    uint32_t rest;       /**< of the division that changed the interval last */
    uint8_t homing;      /**< DROM_STEPPER_SEEKS, DROM_STEPPER_LEAVES; 0: it isn't on its way home */
    bool is_moving : 1;  /**< a next step is coming */
    bool is_forward : 1; /**< of what moves */
    bool is_on : 1;      /**< the coils are */
} drom_stepper_state;

enum { DROM_STEPPER_SEEKS = 1, DROM_STEPPER_LEAVES };

extern const drom_output_kind DROM_FLASH drom_stepper;

/** A row of the outputs table. `settings_of` is a drom_stepper_settings in flash, `state_of` a
 * drom_stepper_state. */
#define DROM_STEPPER(settings_of, state_of)                                                                  \
    {                                                                                                        \
        .kind = &drom_stepper,                                                                               \
        .settings = 1 ? &(settings_of) : (const drom_stepper_settings DROM_FLASH *)NULL,                     \
        .state = 1 ? &(state_of) : (drom_stepper_state *)NULL                                                \
    }

#endif
