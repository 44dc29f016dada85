/* What every kind of output has in common, and the table of a plan's outputs.
 *
 * A kind is a const row of functions, reached through the plan's own table alone: a kind that no plan names
 * is not linked. */
#ifndef DROMIKOS_OUTPUTS_H
#define DROMIKOS_OUTPUTS_H

#include "air.h"

typedef struct drom_output_kind drom_output_kind;

/** An output of a plan. Write it with the kind's macro (DROM_RELAY), which checks the types. */
typedef struct drom_output {
    const drom_output_kind DROM_FLASH *kind;
    const void DROM_FLASH *settings;
    void *state;
} drom_output;

/** What an output is asked to do. The verbs are those of its kind, such as DROM_RELAY_ON. */
typedef struct drom_action {
    uint8_t output; /**< row of the plan's outputs */
    uint8_t verb;
    uint32_t value; /**< what the verb needs, else 0 */
} drom_action;

/** What a kind needs of a port besides the clock and the pins. Bits. */
typedef enum drom_need {
    DROM_NEEDS_PWM = 1,
    DROM_NEEDS_STEPS = 2,   /**< toggle_pin, arm_alarm */
    DROM_NEEDS_CARRIER = 4, /**< ready_carrier, arm_alarm */
    DROM_NEEDS_PIXELS = 8,
} drom_need;

/** A kind of output. Its functions get the output's own settings and state; all run in main. `act` and `poll`
 * never wait, and take at most 100 µs on an ATmega328P. */
struct drom_output_kind {
    /** Bits of drom_need. */
    uint8_t needs;

    /** True when the settings make sense. Null: they always do. */
    bool (*accepts_settings)(const void DROM_FLASH *settings);

    /** True when an output with these settings can do this. Null: it can do all. */
    bool (*accepts_action)(const void DROM_FLASH *settings, uint8_t verb, uint32_t value);

    /** Enters the rest state, at once and whatever went before. No cue is pending. */
    void (*rest)(const void DROM_FLASH *settings, void *state, drom_timing *timing);

    /** Begins an action, and never waits for its end. */
    void (*act)(const void DROM_FLASH *settings, void *state, drom_timing *timing, uint8_t verb,
                uint32_t value);

    /** Does what is due, and gives the wait in µs until there is more to do; DROM_LONG when there is
     * nothing. Null: there never is. */
    drom_wait (*poll)(const void DROM_FLASH *settings, void *state, drom_timing *timing);

    /** Of an output with exact times: when its next cue is to be, as a time; false when none is. An output
     * whose answer changes otherwise than by take_cue() sets timing->cue_from to DROM_ANY_OUTPUT. Null:
     * never. */
    bool (*next_cue)(const void *state, drom_us *at);

    /** Makes that cue: what is to turn over then. It isn't undone. `at` is when it will be, which is later
     * than asked for where the ring had later ones already, or main was late. */
    uint32_t (*take_cue)(const void DROM_FLASH *settings, void *state, drom_timing *timing, drom_us at);

    /** Of an output that keeps the processor busy: for how many µs it wants to; 0: not now. Null: never. */
    drom_wait (*wants)(const void DROM_FLASH *settings, const void *state);

    /** Does so. */
    void (*refresh)(const void DROM_FLASH *settings, void *state, drom_timing *timing);
};

/** What a plan says to the outputs. */
typedef struct drom_outputs_plan {
    DROM_TABLE(drom_output) outputs; /**< at most 254 */
} drom_outputs_plan;

/** Puts every output into its rest state. Main only. */
void drom_outputs_rest(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing);

/** Begins an action. Main only. */
void drom_outputs_act(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing,
                      const drom_action *action);

/** Lets one output do what is due, each in its turn, and makes a cue if it is time for one. The wait in µs
 * until there is more to do: 0 within a round, DROM_LONG when nobody has anything. Main only. */
drom_wait drom_outputs_poll(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing);

/** For how long the first output that wants the processor wants it, in µs; 0: none does, or a cue would be
 * late for it. Its row goes to `row`. Main only. */
drom_wait drom_outputs_want(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t *row);

#endif
