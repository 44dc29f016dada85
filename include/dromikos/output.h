/* Outputs: the row of an output, and the interface of a kind. C only.
 *
 * A kind is a const row of functions, referenced only by a plan's outputs: kinds that no plan names are not
 * linked. outputs/ has a header for each kind. */
#ifndef DROMIKOS_OUTPUT_H
#define DROMIKOS_OUTPUT_H

#include "fault.h"
#include "internal/scheduler.h"
#include "internal/tables.h"

/** A level or a speed of 100 %. Levels count in half percents, so that whole percents and their sums are
 * exact. */
#define DROM_FULL_LEVEL 200

typedef struct drom_output_kind drom_output_kind;

/** A row of a plan's outputs. Write it with the kind's macro, such as DROM_RELAY, which checks the types. */
typedef struct drom_output {
    const drom_output_kind DROM_FLASH *kind;
    const void DROM_FLASH *settings;
    void *state;
} drom_output;

/** For a kind's macro: a row of the outputs, with settings and state of the kind's types. */
#define DROM_OUTPUT_OF(name, settings_of, state_of)                                                          \
    {                                                                                                        \
        .kind = &drom_##name,                                                                                \
        .settings = 1 ? &(settings_of) : (const drom_##name##_settings DROM_FLASH *)NULL,                    \
        .state = 1 ? &(state_of) : (drom_##name##_state *)NULL                                               \
    }

/** A kind of output. Its functions receive the output's settings and state, and run in main. `act` and `poll`
 * never wait, and take at most 100 µs on an ATmega328P. */
struct drom_output_kind {
    /** Features that each output of this kind needs: DROM_USES(TIMED_EDGES) and so on. */
    uint32_t needs;

    /** Returns the features that an output with these settings needs in addition: DROM_USES(COLOUR) and so
     * on. Null: none. */
    uint32_t (*uses)(const void DROM_FLASH *settings);

    /** The verb that ends a held order: off, stop, release. Its value is 0. */
    uint8_t undo;

    /** Checks the settings for a port with these facts. DROM_REASON_NONE, or the fault; `item` is the row of
     * a table in the settings, if the fault is there. */
    drom_reason (*check_settings)(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item);

    /** True if an output with these settings accepts this order. Null: each order is accepted. */
    bool (*accepts_action)(const void DROM_FLASH *settings, uint8_t verb, uint32_t value);

    /** Enters the rest state from any state, at once if possible. No timed edge is pending. */
    void (*rest)(const void DROM_FLASH *settings, void *state, drom_timing *timing);

    /** True when the rest state is reached. Null: rest() reaches it at once. */
    bool (*is_at_rest)(const void *state);

    /** Begins an action; doesn't wait for its end. */
    void (*act)(const void DROM_FLASH *settings, void *state, drom_timing *timing, uint8_t verb,
                uint32_t value);

    /** True if the output is on, by its newest order. Null: the kind has no such state and counts as off. */
    bool (*is_on)(const void *state);

    /** True while an action is in progress that ends by itself, or that must be stopped. Null: never. */
    bool (*is_busy)(const void *state);

    /** Bars the load from being driven, or lifts the bar. Orders given meanwhile are delayed, also at rest; a
     * load that is driven already stays so. False: no change. Null: the kind can't be in an interlock. */
    bool (*bar)(void *state, bool is_barred);

    /** True while the load is driven. Null if `bar` is; else is_on isn't null either. */
    bool (*is_driven)(const void *state);

    /** True if this output gives orders directly to the output with this state. Null: to none. */
    bool (*drives)(const void DROM_FLASH *settings, const void *state);

    /** Does what is due. Returns the wait in µs until the next call; DROM_LONG: none needed. Null: never
     * called. */
    drom_wait (*poll)(const void DROM_FLASH *settings, void *state, drom_timing *timing);

    /** For outputs with timed edges: writes the time of the next one to `at`; false if there is none. When
     * the answer changes other than by take_edge(), set timing->edges_from to DROM_ANY_OUTPUT. Null: no timed
     * edges. */
    bool (*next_edge)(const void *state, drom_us *at);

    /** Queues that timed edge: returns the bits that it inverts. `at` is the edge's time, which is later than
     * requested if the ring has later edges already, or main was late. */
    uint32_t (*take_edge)(const void DROM_FLASH *settings, void *state, drom_timing *timing, drom_us at);

    /** Called when the engine stops and discards the newest timed edge, possibly of this output, as `toggles`
     * tells. Null: not needed. */
    void (*untake_edge)(const void DROM_FLASH *settings, void *state, drom_timing *timing, uint32_t toggles);

    /** For outputs whose refresh blocks the processor: returns its duration in µs; 0: none is needed;
     * DROM_LONG: not ready yet. Null: no refresh. */
    drom_wait (*wants)(const void DROM_FLASH *settings, const void *state, const drom_timing *timing);

    /** Refreshes the output. Blocks until done. */
    void (*refresh)(const void DROM_FLASH *settings, void *state, drom_timing *timing);
};

#endif
