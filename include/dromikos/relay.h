/* The relay: on, off, toggle, or on for a time; never faster than its minimum times. */
#ifndef DROMIKOS_RELAY_H
#define DROMIKOS_RELAY_H

#include "outputs.h"

typedef enum drom_relay_verb {
    DROM_RELAY_OFF,
    DROM_RELAY_ON,
    DROM_RELAY_TOGGLE, /**< the opposite of what was asked for last */
    DROM_RELAY_PULSE,  /**< on for `value` ms (1 to DROM_LONGEST_MS) from the moment it switches, then off */
} drom_relay_verb;

/** A relay that is asked to switch before its minimum time is over switches as soon as it is; only the last
 * wish counts. The times run from the start too, since what the relay did before is unknown. */
typedef struct drom_relay_settings {
    uint32_t min_on_ms;  /**< 0 to DROM_LONGEST_MS */
    uint32_t min_off_ms; /**< 0 to DROM_LONGEST_MS */
    uint32_t max_on_ms;  /**< it goes off by itself after so long, whatever was asked for: `min_on_ms` to
                            DROM_LONGEST_MS; 0: it doesn't */
    uint8_t pin;
    bool is_active_low; /**< on is low */
    bool rests_on;
} drom_relay_settings;

typedef struct drom_relay_state {
    drom_us switched_at;
    bool has_min;            /**< its minimum time isn't over */
    bool has_max;            /**< its longest time runs */
    drom_deadline pulse_end; /**< then it goes off; where a pulse hasn't begun, `at` is its length in ms */
    bool has_pulse;          /**< one that hasn't begun */
    bool is_on;
    bool is_wanted_on;
    bool is_barred; /**< by others of its interlock */
} drom_relay_state;

extern const drom_output_kind DROM_FLASH drom_relay;

/** A row of the outputs table. `settings_of` is a drom_relay_settings in flash, `state_of` a
 * drom_relay_state. */
#define DROM_RELAY(settings_of, state_of)                                                                    \
    {                                                                                                        \
        .kind = &drom_relay, .settings = 1 ? &(settings_of) : (const drom_relay_settings DROM_FLASH *)NULL,  \
        .state = 1 ? &(state_of) : (drom_relay_state *)NULL                                                  \
    }

#endif
