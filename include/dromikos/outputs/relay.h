/* The relay: on, off, toggle, or on for a time; never faster than its minimum times. */
#ifndef DROMIKOS_OUTPUTS_RELAY_H
#define DROMIKOS_OUTPUTS_RELAY_H

#include "../config.h"

typedef enum drom_relay_verb {
    DROM_RELAY_OFF,
    DROM_RELAY_ON,
    DROM_RELAY_TOGGLE, /**< inverts the newest order */
    DROM_RELAY_PULSE,  /**< on for `value` ms (1 to DROM_LONGEST_MS) after it has switched on, then off */
} drom_relay_verb;

#ifndef __cplusplus

#include "../output.h"

/** If an order comes before the minimum time is over, the relay switches after it; only the newest order
 * counts. The times also run from the start, as the relay's state before is unknown. */
typedef struct drom_relay_settings {
    uint32_t min_on_ms;  /**< 0 to DROM_LONGEST_MS */
    uint32_t min_off_ms; /**< 0 to DROM_LONGEST_MS */
    uint32_t max_on_ms;  /**< switches off after this time, whatever the orders: `min_on_ms` to
                            DROM_LONGEST_MS; 0: no  limit */
    uint8_t pin;
    bool is_active_low; /**< low is on */
    bool rests_on;
} drom_relay_settings;

typedef struct drom_relay_state {
    drom_us switched_at;
    bool has_min;            /**< the minimum time isn't over */
    bool has_max;            /**< the longest time runs */
    drom_deadline pulse_end; /**< end of the pulse; before it begins, `at` is its length in ms */
    bool has_pulse;          /**< a pulse hasn't begun */
    bool is_on;
    bool is_wanted_on;
    bool is_barred; /**< by its interlock */
} drom_relay_state;

extern const drom_output_kind DROM_FLASH drom_relay;

/** A row of the outputs. `settings_of` is a drom_relay_settings in flash, `state_of` a drom_relay_state. */
#define DROM_RELAY(settings_of, state_of) DROM_OUTPUT_OF(relay, settings_of, state_of)

#endif
#endif
