/* The plan: constant tables that say what is received, what the keys do, and what is connected; and the
 * memory that these need. One plan runs on one engine at a time. C only.
 *
 * `dromikos bake` writes these tables from a plan file; docs/by-hand.md shows how to write them yourself, and
 * docs/meaning.md says exactly what rules do. */
#ifndef DROMIKOS_PLAN_H
#define DROMIKOS_PLAN_H

#include "fault.h"
#include "internal/layouts.h"
#include "internal/tables.h"
#include "output.h"
#include "protocols.h"

/* Reception */

DROM_DEFINE_TABLE(drom_protocol_table, drom_protocol_ref);

extern const drom_fingerprinting DROM_FLASH drom_fingerprints;

struct drom_receive_plan {
    drom_protocol_table protocols; /**< the protocols to receive */
    drom_decoder *decoders;        /**< one per protocol */
    drom_interval_ring *intervals; /**< required if the port measures intervals; else null */
    drom_filter *fine;             /**< required if a protocol's glitch_us is below DROM_FINE_US; else null */
    struct {
        const drom_fingerprinting DROM_FLASH *functions;
        drom_fingerprint *memory; /**< null: unknown bursts aren't reported */
    } unknown;                    /**< see DROM_FINGERPRINTS */
};

/** For `unknown`: reports bursts of unknown protocols. `memory_of` is a drom_fingerprint. */
#define DROM_FINGERPRINTS(memory_of)                                                                         \
    {                                                                                                        \
        .functions = &drom_fingerprints, .memory = 1 ? &(memory_of) : (drom_fingerprint *)NULL               \
    }

/** Protocols with a smaller glitch_us have a filter of their own, so that others don't get their noise. */
#define DROM_FINE_US 100

/* Handsets and buttons */

DROM_DEFINE_TABLE(drom_code_table, drom_code);

/** A handset: the code of each key. A key's row is its number. */
typedef struct drom_handset {
    drom_code_table codes;
    drom_row_table by_code;  /**< the same rows, ascending by command, address, protocol: for binary search.
                                Empty:  codes are searched one by one */
    bool needs_second_frame; /**< a press counts only after a second equal frame: for protocols without
                                redundancy */
} drom_handset;

DROM_DEFINE_TABLE(drom_handset_table, drom_handset);

/** A key, by its rows. */
typedef struct drom_key_ref {
    uint8_t handset;
    uint8_t key;
} drom_key_ref;

DROM_DEFINE_TABLE(drom_key_ref_table, drom_key_ref);

/** The keys. Times of 0 are the defaults. */
struct drom_keys_plan {
    drom_handset_table handsets;
    drom_ms_table hold_ms;      /**< times after which a key counts as held; 1 or more, ascending */
    drom_key_ref_table doubles; /**< keys with double taps; their single taps are reported after double_ms */
    drom_hold *holds;           /**< one per handset */
    drom_tapped *taps;          /**< one per handset if there are doubles; else null */
    drom_ticking *ticks;        /**< one per handset if repeat_after_ms isn't 0; else null */
    uint16_t tap_ms;            /**< longest tap; 0: 500 */
    uint16_t double_ms;         /**< longest pause between the two taps of a double; 0: 350 */
    uint16_t repeat_after_ms; /**< from the press to the first repeat; 0: repeats are the handset's frames */
    uint16_t repeat_every_ms; /**< first interval between repeats */
    uint16_t
        repeat_fastest_ms; /**< each interval is an eighth shorter than the last, down to this; 0: constant */
    uint8_t gestures;      /**< gestures to report; 0: all */
};

/** A contact between a pin and ground; the pin has a pull-up, so that a closed contact reads low. */
typedef struct drom_contact {
    uint8_t pin;
    uint8_t handset; /**< of a button: row of its handset; DROM_NONE: a switch */
    uint8_t row;     /**< of a button: its key; else row of the rules' switches */
} drom_contact;

DROM_DEFINE_TABLE(drom_contact_table, drom_contact);

/** Contacts are sampled every 4 ms; four equal samples are a change, 12 to 16 ms after it. They may bounce
 * for 12 ms. */
enum { DROM_MAX_CONTACTS = 16, DROM_CONTACT_LOOK_US = 4000, DROM_CONTACT_LOOKS = 4 };

/** The contacts. A button's code is {.protocol = DROM_NO_PROTOCOL}. */
typedef struct drom_contacts_plan {
    drom_contact_table contacts; /**< at most DROM_MAX_CONTACTS */
    drom_touch *touches;         /**< one per contact */
    drom_deadline *next;         /**< the next sample */
} drom_contacts_plan;

DROM_DEFINE_MEMORY(drom_posts_memory, drom_posts);

typedef struct drom_events_plan {
    drom_posts_memory posts; /**< one per interrupt or thread that calls drom_engine_post_from() */
} drom_events_plan;

/* Actions */

/** What an action acts on. */
typedef enum drom_target {
    DROM_TO_OUTPUT,   /**< output `row` does `verb` */
    DROM_TO_WAIT,     /**< delays the rest of the list by `value` ms */
    DROM_TO_WAIT_FOR, /**< delays the rest until `row` is as `verb`, a drom_awaited, says; at most `value` ms
                       */
    DROM_TO_MODE,     /**< mode `row` begins */
    DROM_TO_VALUE,    /**< changes value `row` by `value`; `verb` is a drom_value_verb */
    DROM_TO_TIMER,    /**< changes timer `row` by `value` ms; `verb` is a drom_timer_verb */
    DROM_TO_SCENE,    /**< begins or stops scene `row`; `verb` is a drom_scene_verb */
    DROM_TARGETS
} drom_target;

/** How an action changes a value or a sum. Both are int16_t; sums saturate. */
typedef enum drom_value_verb {
    DROM_VALUE_UP,
    DROM_VALUE_DOWN,
    DROM_VALUE_TO,
    DROM_VALUE_TIMES,
    DROM_VALUE_OVER, /**< divides, rounding towards 0; dividing by 0 changes nothing */
    DROM_VALUE_VERBS
} drom_value_verb;
typedef enum drom_timer_verb { DROM_TIMER_START, DROM_TIMER_ADD, DROM_TIMER_CANCEL } drom_timer_verb;
typedef enum drom_scene_verb { DROM_SCENE_BEGIN, DROM_SCENE_STOP } drom_scene_verb;
/** What DROM_TO_WAIT_FOR waits for: an output that isn't busy, a switch that is closed or open. */
typedef enum drom_awaited { DROM_UNTIL_IDLE, DROM_UNTIL_CLOSED, DROM_UNTIL_OPEN, DROM_UNTILS } drom_awaited;

/** Flags of an action. */
enum {
    DROM_WHILE_HELD = 1, /**< an output's: undone when the rule's key is released; without DROM_OF_EVENT */
    DROM_OF_VALUE = 2,   /**< `value` holds the row of a value, whose number is used */
    DROM_OF_EVENT = 4,   /**< uses the event's number, which is kept during waits */
    DROM_FORM = 0x38,    /**< mask of the drom_number_form */
    DROM_INTO_SUM = 64, /**< of a value: stores the result as the sum for the next action, not in the value */
    DROM_OF_SUM = 128,  /**< of a value: starts from that sum instead of the value's number */
};

/** How the number of a value or an event is placed in an action's `value`. Negative numbers count as 0 unless
 * stated otherwise. The row of a value takes 8 bits. */
typedef enum drom_number_form {
    DROM_AS_COUNT = 0,    /**< replaces the low 16 bits, which hold the row */
    DROM_AS_PERCENT = 8,  /**< replaces the low 8 bits by 0 to DROM_FULL_LEVEL; more than 100 counts as 100 */
    DROM_AS_SIGNED = 16,  /**< like a count, but an int16_t */
    DROM_AS_DEGREES = 24, /**< replaces the low 8 bits, 0 to 255 */
    DROM_AS_MULTIPLE =
        32,            /**< is multiplied by the upper 24 bits, both signed, and replaces all of `value` */
    DROM_AS_TURN = 40, /**< likewise, divided by 360 and rounded */
    DROM_AS_TIME = 48  /**< is multiplied by the upper 16 bits and placed above the low 8 bits; the row is in
                          bits 8  to 15 */
} drom_number_form;

/** An action. Write it with the macros below. */
struct drom_action {
    uint8_t row;    /**< of the outputs, modes, values, timers or scenes */
    uint8_t verb;   /**< of the output's kind, such as DROM_RELAY_ON, or of the target */
    uint32_t value; /**< of the verb; else 0 */
    uint8_t target; /**< one drom_target */
    uint8_t flags;
};

DROM_DEFINE_TABLE(drom_action_table, drom_action);

/** An order to row `output` of the outputs. */
#define DROM_ORDER(output, verb_of_kind, value_of_verb)                                                      \
    {                                                                                                        \
        .row = (output), .verb = (verb_of_kind), .value = (value_of_verb), .target = DROM_TO_OUTPUT          \
    }
/** An order that is undone when the key is released. */
#define DROM_ORDER_WHILE_HELD(output, verb_of_kind, value_of_verb)                                           \
    {                                                                                                        \
        .row = (output), .verb = (verb_of_kind), .value = (value_of_verb), .target = DROM_TO_OUTPUT,         \
        .flags = DROM_WHILE_HELD                                                                             \
    }
/** A wait of 1 to DROM_LONGEST_MS; a value of 0 counts as 1. */
#define DROM_WAIT(ms)                                                                                        \
    {                                                                                                        \
        .value = (ms), .target = DROM_TO_WAIT                                                                \
    }
/** A wait until an output isn't busy: at least 1 ms, at most `at_most_ms` (1 to DROM_LONGEST_MS). For a
 * switch, set
 * `.verb` to DROM_UNTIL_CLOSED or DROM_UNTIL_OPEN. */
#define DROM_WAIT_FOR(output, at_most_ms)                                                                    \
    {                                                                                                        \
        .row = (output), .value = (at_most_ms), .target = DROM_TO_WAIT_FOR                                   \
    }
#define DROM_ENTER(mode_row)                                                                                 \
    {                                                                                                        \
        .row = (mode_row), .target = DROM_TO_MODE                                                            \
    }
/** A drom_value_verb, and 0 to 32767; with DROM_VALUE_TO an int16_t. */
#define DROM_COUNT(value_row, verb_of_value, number)                                                         \
    {                                                                                                        \
        .row = (value_row), .verb = (verb_of_value), .value = (uint16_t)(int16_t)(number),                   \
        .target = DROM_TO_VALUE                                                                              \
    }
/** A drom_timer_verb, and 1 to DROM_TIMER_LONGEST_MS. */
#define DROM_TIME(timer_row, verb_of_timer, ms)                                                              \
    {                                                                                                        \
        .row = (timer_row), .verb = (verb_of_timer), .value = (ms), .target = DROM_TO_TIMER                  \
    }
#define DROM_SCENE(scene_row, verb_of_scene)                                                                 \
    {                                                                                                        \
        .row = (scene_row), .verb = (verb_of_scene), .target = DROM_TO_SCENE                                 \
    }

/* Rules */

/** What a condition tests. Each is a number: that of a value; 1 if an output is on, a switch closed, a timer
 * running or a mode active, else 0. */
typedef enum drom_subject {
    DROM_IF_VALUE,
    DROM_IF_OUTPUT,
    DROM_IF_SWITCH,
    DROM_IF_TIMER,
    DROM_IF_MODE,
    DROM_SUBJECTS
} drom_subject;

/** How the number must compare with the condition's. Bits: less or equal is both. */
enum {
    DROM_LESS = 1,
    DROM_EQUAL = 2,
    DROM_GREATER = 4,
    DROM_THAN_VALUE = 8 /**< compares with the number of a value; `number` is its row */
};

typedef struct drom_condition {
    uint8_t subject; /**< one drom_subject */
    uint8_t row;
    uint8_t compare;
    int16_t number;
} drom_condition;

DROM_DEFINE_TABLE(drom_condition_table, drom_condition);

/** What happens if a rule fires again while it waits. */
typedef enum drom_again {
    DROM_AGAIN_RESTARTS, /**< starts from the beginning; actions already done stay done */
    DROM_AGAIN_IGNORED,
    DROM_AGAIN_QUEUED, /**< starts again after the end: once, however often it has fired */
    DROM_AGAIN_STOPS,  /**< cancels the remaining actions */
    DROM_AGAINS
} drom_again;

/** In place of a rule's key: any key of the handset that no other rule of the mode names. */
#define DROM_ANY_OTHER_KEY 255

/** A rule: an event, conditions, and the actions. */
typedef struct drom_rule {
    uint8_t source; /**< one drom_source; `row` and `key` as in its events */
    uint8_t row;
    uint8_t key;
    uint8_t gestures; /**< of a key: one or more drom_gesture */
    uint8_t hold;     /**< with DROM_HOLD: row of the hold times */
    uint8_t mode;     /**< DROM_IN_ROW(mode); 0: fires in any mode */
    uint8_t sequence; /**< DROM_IN_ROW(sequence), if the actions have a wait; else 0. Rules that share a
                         sequence and `again` are one rule with several events. A scene has its own */
    uint8_t again;    /**< one drom_again, if the actions have a wait */
    drom_condition_table conditions; /**< all must be true */
    drom_action_table actions;
    drom_action_table otherwise; /**< done if a condition is false */
} drom_rule;

DROM_DEFINE_TABLE(drom_rule_table, drom_rule);

/** A row in a member for which 0 means "none". */
#define DROM_IN_ROW(row) ((row) + 1)

/** A rule for gestures of a key. */
#define DROM_WHEN_KEY(handset_row, key_row, gesture_bits, array)                                             \
    {                                                                                                        \
        .source = DROM_SOURCE_KEY, .row = (handset_row), .key = (key_row), .gestures = (gesture_bits),       \
        .actions = DROM_ROWS(array)                                                                          \
    }
/** A rule for a key that is held for longer than a row of the hold times. */
#define DROM_WHEN_HELD(handset_row, key_row, hold_row, array)                                                \
    {                                                                                                        \
        .source = DROM_SOURCE_KEY, .row = (handset_row), .key = (key_row), .gestures = DROM_HOLD,            \
        .hold = (hold_row), .actions = DROM_ROWS(array)                                                      \
    }
/** A rule for the start of the engine. */
#define DROM_AT_START(array)                                                                                 \
    {                                                                                                        \
        .source = DROM_SOURCE_START, .actions = DROM_ROWS(array)                                             \
    }

typedef struct drom_mode {
    uint32_t
        back_after_ms; /**< ends after this time without a key, at most DROM_TIMER_LONGEST_MS; 0: no end */
} drom_mode;

DROM_DEFINE_TABLE(drom_mode_table, drom_mode);

typedef struct drom_value {
    int16_t min;
    int16_t max;
    int16_t start;
    bool wraps; /**< continues at the other limit; else stops at the limit */
} drom_value;

DROM_DEFINE_TABLE(drom_value_table, drom_value);

DROM_DEFINE_MEMORY(drom_last_press_memory, drom_last_press);
DROM_DEFINE_MEMORY(drom_sequence_memory, drom_sequence);
DROM_DEFINE_MEMORY(drom_held_memory, drom_held);
DROM_DEFINE_MEMORY(drom_timer_memory, drom_timer);
DROM_DEFINE_MEMORY(drom_switch_memory, bool);

struct drom_rules_plan {
    drom_rule_table rules; /**< ascending by source, row and key; those of one event in order of firing */
    drom_mode_table modes; /**< the first is active at start and has no end; none: one mode */
    drom_value_table values;
    drom_last_press_memory last_presses; /**< one per handset */
    drom_sequence_memory sequences;
    drom_held_memory held; /**< one per action with DROM_WHILE_HELD */
    drom_timer_memory timers;
    drom_switch_memory switches; /**< true: closed */
    int16_t *numbers;            /**< one per value */
};

/* Outputs */

DROM_DEFINE_TABLE(drom_output_table, drom_output);

/** The most outputs of an interlock. */
enum { DROM_INTERLOCKED = 8 };

/** Outputs of which only one may be on. An order to switch another one on switches these off; the ordered
 * output comes on when they are off and the pause is over. The pause also begins at start, and at a stop if
 * one rests on. The newest order wins. */
typedef struct drom_interlock {
    drom_row_table outputs; /**< at most DROM_INTERLOCKED; an output is in one interlock only */
    uint16_t pause_ms;
    drom_interlock_state *state;
} drom_interlock;

DROM_DEFINE_TABLE(drom_interlock_table, drom_interlock);

struct drom_outputs_plan {
    drom_output_table outputs; /**< at most 254 */
    drom_interlock_table interlocks;
};

DROM_DEFINE_TABLE(drom_rest_pin_table, drom_rest_pin);

/** Pins that go to rest when the program hangs, that is, doesn't poll for `ms`. USB is detached as well. */
typedef struct drom_guard_plan {
    drom_rest_pin_table pins;
    uint16_t ms; /**< DROM_GUARD_MIN_MS to DROM_GUARD_MAX_MS; 0: no guard */
} drom_guard_plan;

/** Bytes of a record besides two per value: its number and its checksum; and the most values that a plan
 * keeps. */
enum { DROM_KEPT_BYTES = 4, DROM_KEPT_VALUES = 32 };

/** Values that are kept without power. */
typedef struct drom_kept_plan {
    drom_row_table values; /**< rows of the rules' values; none: all members below may be null */
    uint8_t *record;       /**< DROM_KEPT_BYTES and two per value */
    int16_t *seen;         /**< one per value: numbers when last compared */
    drom_kept_state *state;
    uint16_t mark; /**< identifies plan and values: records with another mark are ignored */
} drom_kept_plan;

/* All of it */

struct drom_plan {
    drom_receive_plan receive;
    drom_keys_plan keys;
    drom_contacts_plan contacts;
    drom_events_plan events;
    drom_rules_plan rules;
    drom_outputs_plan outputs;
    drom_guard_plan guard;
    drom_kept_plan kept;
};

/** Returns the features that a plan uses: bits of DROM_USES(). The plan's tables must be valid. Main only. */
uint32_t drom_plan_uses(const drom_plan DROM_FLASH *plan);

#if DROM_WITH_CHECKS
/** Checks a plan, row by row, for a port with these facts. DROM_OK, or DROM_BAD_PLAN and the first fault in
 * `fault` (which may be null). Main only. */
drom_status drom_plan_check(const drom_plan DROM_FLASH *plan, const drom_port_facts *facts,
                            drom_fault *fault);
#endif

#endif
