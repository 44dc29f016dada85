/* What every kind of output has in common, and the table of a plan's outputs.
 *
 * A kind is a const row of functions, reached through the plan's own table alone: a kind that no plan names
 * is not linked. */
#ifndef DROMIKOS_OUTPUTS_H
#define DROMIKOS_OUTPUTS_H

#include "air.h"
#include "fault.h"

/** A level or a speed in full. It counts in half percents, so that whole percents, and what they add up to,
 * are exact: ten times a tenth more is all. */
#define DROM_FULL 200

typedef struct drom_output_kind drom_output_kind;

/** An output of a plan. Write it with the kind's macro (DROM_RELAY), which checks the types. */
typedef struct drom_output {
    const drom_output_kind DROM_FLASH *kind;
    const void DROM_FLASH *settings;
    void *state;
} drom_output;

/** A kind of output. Its functions get the output's own settings and state; all run in main. `act` and `poll`
 * never wait, and take at most 100 µs on an ATmega328P. */
struct drom_output_kind {
    /** What it needs of the port besides the clock and the pins: bits of DROM_USES_TIMED_EDGES and so on,
     * which fit into 8. */
    uint8_t needs;

    /** What an output of such settings makes use of besides: bits of DROM_USES_COLOUR and so on. Null:
     * nothing. */
    uint32_t (*uses)(const void DROM_FLASH *settings);

    /** The verb that undoes one which was held: off, stop, let go. Its value is 0. */
    uint8_t undo;

    /** What is wrong with the settings, on a machine with these facts; DROM_REASON_NONE: nothing. `item` is
     * the row of a table in them, where that is wrong. */
    drom_reason (*check_settings)(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item);

    /** True when an output with these settings can do this. Null: it can do all. */
    bool (*accepts_action)(const void DROM_FLASH *settings, uint8_t verb, uint32_t value);

    /** Enters the rest state, whatever went before, and at once where it can. No timed edge is pending. */
    void (*rest)(const void DROM_FLASH *settings, void *state, drom_timing *timing);

    /** Of an output whose rest state takes a while to be shown: true when it is. Null: rest() has shown it.
     */
    bool (*is_at_rest)(const void *state);

    /** Begins an action, and never waits for its end. */
    void (*act)(const void DROM_FLASH *settings, void *state, drom_timing *timing, uint8_t verb,
                uint32_t value);

    /** Is it on, by what it was asked for last? Null: that can't be said, and counts as off. */
    bool (*is_on)(const void *state);

    /** Is it about something that will end by itself, or must it be stopped? Null: never. */
    bool (*is_busy)(const void *state);

    /** Keeps its load from being driven, or does so no longer: an order that it is given meanwhile waits, at
     * rest, too. What is driven already stays so. False: that is so already. Null: it can't be in an
     * interlock. */
    bool (*bar)(void *state, bool is_barred);

    /** Is its load driven just now? Null where bar is; else is_on isn't, either. */
    bool (*is_driven)(const void *state);

    /** Does it give orders to an output with this state, past the rules? Null: to none. */
    bool (*drives)(const void DROM_FLASH *settings, const void *state);

    /** Does what is due, and gives the wait in µs until there is more to do; DROM_LONG when there is
     * nothing. Null: there never is. */
    drom_wait (*poll)(const void DROM_FLASH *settings, void *state, drom_timing *timing);

    /** Of an output with exact times: when its next timed edge is to be, as a time; false when none is. An
     * output whose answer changes otherwise than by take_edge() sets timing->edges_from to DROM_ANY_OUTPUT.
     * Null: never. */
    bool (*next_edge)(const void *state, drom_us *at);

    /** Makes that timed edge: what is to turn over then. It isn't undone. `at` is when it will be, which is
     * later than asked for where the ring had later ones already, or main was late. */
    uint32_t (*take_edge)(const void DROM_FLASH *settings, void *state, drom_timing *timing, drom_us at);

    /** The engine stops, and the newest timed edge that was made will not be: it may have been this output's,
     * which `toggles` says. Null: no need to know. */
    void (*untake_edge)(const void DROM_FLASH *settings, void *state, drom_timing *timing, uint32_t toggles);

    /** Of an output that keeps the processor busy: for how many µs it wants to; 0: not at all; DROM_LONG: it
     * isn't ready yet. Null: never. */
    drom_wait (*wants)(const void DROM_FLASH *settings, const void *state, const drom_timing *timing);

    /** Does so. */
    void (*refresh)(const void DROM_FLASH *settings, void *state, drom_timing *timing);
};

/** The most outputs of an interlock: an order to one may turn all others off, in one poll. */
enum { DROM_INTERLOCKED = 8 };

typedef struct drom_interlock_state {
    drom_deadline pause; /**< since one was driven last; then another may be */
    uint8_t driven;      /**< the one that was driven last */
} drom_interlock_state;

/** Outputs of which only one may be on. Where another is to be, they go off, and it comes on when they are
 * and the pause is over, which runs from the start, too, and from a stop where one rests on. The newest order
 * wins; one that is taken back before never comes on. */
typedef struct drom_interlock {
    DROM_TABLE(uint8_t) outputs; /**< their rows, DROM_INTERLOCKED at most; each is in one interlock alone */
    uint16_t pause_ms;
    drom_interlock_state *state;
} drom_interlock;

/** What a plan says to the outputs. */
typedef struct drom_outputs_plan {
    DROM_TABLE(drom_output) outputs; /**< at most 254 */
    DROM_TABLE(drom_interlock) interlocks;
} drom_outputs_plan;

/** Takes back the timed edges that are made. The alarm must be off. Main only. */
void drom_outputs_take_edges_back(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing);

/** Puts every output into its rest state. No timed edge may be pending. `is_start`: what they did before
 * isn't known. Main only. */
void drom_outputs_rest(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, bool is_start);

/** Lets the outputs do what their rest states still take; false when all of them are shown. `wait` is the
 * time in µs until there is more to do. Main only. */
bool drom_outputs_come_to_rest(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing,
                               drom_wait *wait);

/** True when an output is to be on, and others of its interlock must go off before, or the pause pass. */
bool drom_outputs_keep_back(const drom_outputs_plan DROM_FLASH *plan, uint8_t row);

/** Begins what an output's verb says. Main only. */
void drom_outputs_act(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row,
                      uint8_t verb, uint32_t value);

/** True when a timed edge would be late if something else, be it a key, went before it. Main only. */
bool drom_outputs_are_pressed(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing);

/** Lets up to four outputs do what is due, each in its turn, and makes a timed edge if it is time for one; or
 * makes up to three timed edges, where few are made ahead. The wait in µs until there is more to do: 0 within
 * a round, DROM_LONG when no output has anything. Main only. */
drom_wait drom_outputs_poll(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing);

/** For how long an output wants the processor, in µs; 0: none does, or a timed edge would be late for it.
 * They are asked by turns, from the one after the newest that had it on. Its row goes to `row`;
 * DROM_NO_OUTPUT: none wants it. Main only. */
drom_wait drom_outputs_want(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t *row);

/** Lets that output have the processor. Main only. */
void drom_outputs_refresh(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row);

#endif
