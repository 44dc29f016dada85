/* Rules: from events to actions. What each part means is said in docs/meaning.md. */
#ifndef DROMIKOS_RULES_H
#define DROMIKOS_RULES_H

#include "events.h"
#include "keys.h"
#include "outputs.h"

/** What an action is about. */
typedef enum drom_target {
    DROM_TO_OUTPUT,   /**< `row` of the outputs does `verb` */
    DROM_TO_WAIT,     /**< the rest of the list comes `value` ms later */
    DROM_TO_WAIT_FOR, /**< the rest comes when `row` is as `verb`, a drom_awaited, says, or `value` ms later
                       */
    DROM_TO_MODE,     /**< mode `row` begins */
    DROM_TO_VALUE,    /**< value `row` goes `value` up or down, or to it: `verb` is a drom_value_verb */
    DROM_TO_TIMER,    /**< timer `row` gets `value` ms: `verb` is a drom_timer_verb */
    DROM_TO_SCENE,    /**< scene `row`: `verb` is a drom_scene_verb */
    DROM_TARGETS
} drom_target;

/** What an action does with its number: changes a value, or an intermediate sum. Both are int16_t; sums
 * saturate. */
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

/** How an action is meant. Bits. */
enum {
    DROM_WHILE_HELD = 1, /**< an output's: undone when the rule's key is let go; without DROM_OF_EVENT */
    DROM_OF_VALUE = 2,   /**< `value` holds the row of a value, whose number is used */
    DROM_OF_EVENT = 4,   /**< the event's number is used; it is kept for waits */
    DROM_FORM = 0x38,    /**< mask of the drom_number_form */
    DROM_INTO_SUM = 64, /**< of a value: stores the result as the sum for the next action, not in the value */
    DROM_OF_SUM = 128,  /**< of a value: starts from that sum instead of the value's number */
};

/** How the number of a value or an event is placed in an action's `value`. Negative numbers count as 0 unless
 * stated otherwise. The row of a value takes 8 bits. */
typedef enum drom_number_form {
    DROM_AS_COUNT = 0,    /**< replaces the low 16 bits, which hold the row */
    DROM_AS_PERCENT = 8,  /**< replaces the low 8 bits by 0 to DROM_FULL; more than 100 counts as 100 */
    DROM_AS_SIGNED = 16,  /**< like a count, but an int16_t */
    DROM_AS_DEGREES = 24, /**< replaces the low 8 bits, 0 to 255 */
    DROM_AS_MULTIPLE =
        32,            /**< is multiplied by the upper 24 bits, both signed, and replaces all of `value` */
    DROM_AS_TURN = 40, /**< likewise, divided by 360 and rounded */
    DROM_AS_TIME = 48  /**< is multiplied by the upper 16 bits and placed above the low 8 bits; the row is in
                          bits 8 to 15 */
} drom_number_form;

/** One thing to do. Write it with the macros below. */
typedef struct drom_action {
    uint8_t row;    /**< of the outputs, modes, values, timers or scenes */
    uint8_t verb;   /**< of the output's kind, such as DROM_RELAY_ON, or of the target */
    uint32_t value; /**< what the verb needs, else 0 */
    uint8_t target; /**< one drom_target */
    uint8_t flags;
} drom_action;

/** An order to a row of the outputs: with a verb of its kind, and what that needs. */
#define DROM_ORDER(output, verb_of_kind, value_of_verb)                                                      \
    {                                                                                                        \
        .row = (output), .verb = (verb_of_kind), .value = (value_of_verb), .target = DROM_TO_OUTPUT          \
    }
/** The same, undone when the key is let go. */
#define DROM_ORDER_WHILE_HELD(output, verb_of_kind, value_of_verb)                                           \
    {                                                                                                        \
        .row = (output), .verb = (verb_of_kind), .value = (value_of_verb), .target = DROM_TO_OUTPUT,         \
        .flags = DROM_WHILE_HELD                                                                             \
    }
/** Waits 1 to DROM_LONGEST_MS; of a value that is 0, 1. */
#define DROM_WAIT(ms)                                                                                        \
    {                                                                                                        \
        .value = (ms), .target = DROM_TO_WAIT                                                                \
    }
/** Waits until an output isn't busy: 1 ms at least, and at most 1 to DROM_LONGEST_MS. Of a switch `.verb`
 * says what it is to be. */
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

/** What a condition looks at. Each is a number: that of a value; 1 where an output is on, a switch closed, a
 * timer running or a mode the present one, else 0. */
typedef enum drom_subject {
    DROM_IF_VALUE,
    DROM_IF_OUTPUT,
    DROM_IF_SWITCH,
    DROM_IF_TIMER,
    DROM_IF_MODE,
    DROM_SUBJECTS
} drom_subject;

/** How the number may compare with the condition's. Bits: less or equal is both. */
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

/** What happens to a rule that still waits when it fires again. */
typedef enum drom_again {
    DROM_AGAIN_RESTARTS, /**< it begins anew; what it has done stays done */
    DROM_AGAIN_IGNORED,
    DROM_AGAIN_QUEUED, /**< it begins anew when it has ended: once, however often it has fired */
    DROM_AGAIN_STOPS,  /**< what it has yet to do isn't done */
    DROM_AGAINS
} drom_again;

/** In the place of a rule's key: any key of the handset that no other rule of the mode names. */
#define DROM_ANY_OTHER_KEY 255

/** When this happens, do these. A code and its actions are one row: they can't fall out of step. */
typedef struct drom_rule {
    uint8_t source; /**< one drom_source; `row` and `key` as in an event of it */
    uint8_t row;
    uint8_t key;
    uint8_t gestures; /**< of a key: one drom_gesture or several */
    uint8_t hold;     /**< with DROM_HOLD, the row of the plan's hold times */
    uint8_t mode;     /**< 1 more than the row of the mode in which alone it fires; 0: in any */
    uint8_t sequence; /**< 1 more than the row of its sequence; 0: it has no wait. Rules with one sequence,
                         and the same `again`, are one rule that several events fire; a scene has its own */
    uint8_t again;    /**< one drom_again, where it has a wait */
    DROM_TABLE(drom_condition) conditions; /**< all of them must hold, */
    DROM_TABLE(drom_action) actions;
    DROM_TABLE(drom_action) otherwise; /**< or else these are done */
} drom_rule;

/** A row of the rules: a key's gestures, and an array of actions. */
#define DROM_WHEN_KEY(handset_row, key_row, gesture_bits, array)                                             \
    {                                                                                                        \
        .source = DROM_SOURCE_KEY, .row = (handset_row), .key = (key_row), .gestures = (gesture_bits),       \
        .actions = DROM_ROWS(array)                                                                          \
    }
/** The same for a key that is held for longer than a row of the hold times. */
#define DROM_WHEN_HELD(handset_row, key_row, hold_row, array)                                                \
    {                                                                                                        \
        .source = DROM_SOURCE_KEY, .row = (handset_row), .key = (key_row), .gestures = DROM_HOLD,            \
        .hold = (hold_row), .actions = DROM_ROWS(array)                                                      \
    }
/** What is done at start. */
#define DROM_AT_START(array)                                                                                 \
    {                                                                                                        \
        .source = DROM_SOURCE_START, .actions = DROM_ROWS(array)                                             \
    }

/** Returns an action's `value` with this number placed in it, as its form says. */
uint32_t drom_rules_with_number(const drom_action *action, int16_t number);

/** Returns the row of the value whose number an action uses. */
uint8_t drom_rules_row_of_number(const drom_action *action);

typedef struct drom_rules_plan drom_rules_plan;

/** What a plan's rules make use of: bits of DROM_USES_WAITS and so on. */
uint32_t drom_rules_uses(const drom_rules_plan DROM_FLASH *plan);

/** Are there rules about any frame that is heard? They stand last. */
bool drom_rules_hear(const drom_rules_plan DROM_FLASH *plan);

/** How many rules may answer one event. */
enum { DROM_MAX_ANSWERS = 16 };

typedef struct drom_mode {
    uint32_t back_after_ms; /**< ends when no key has come for so long; 0: never; DROM_TIMER_LONGEST_MS at
                               most */
} drom_mode;

typedef struct drom_value {
    int16_t min;
    int16_t max;
    int16_t start;
    bool wraps; /**< beyond its limits it goes on at the other one; else it stops there */
} drom_value;

/** What of an event a rule that it has fired needs to the end. */
typedef struct drom_owner {
    int16_t number;
    uint8_t key;
} drom_owner;

/** A rule that is being carried out. */
typedef struct drom_run {
    drom_owner owner;
    uint8_t rule; /**< its row */
    uint8_t done; /**< actions */
    bool is_otherwise : 1;
    bool is_going : 1; /**< some are yet to be done */
} drom_run;

/** A rule that has waits. */
typedef struct drom_sequence {
    drom_deadline until;
    drom_run run;      /**< where it waits: what is left then */
    drom_run queued;   /**< where it is going: the run that follows */
    uint8_t mode;      /**< in which it began */
    uint8_t waits_for; /**< an output or a switch; DROM_NO_OUTPUT: for the time alone */
    bool is_waiting : 1;
    bool is_for_switch : 1; /**< `waits_for` is a switch, */
    bool is_for_closed : 1; /**< which must be closed, or else open */
    uint16_t from;          /**< since when, in µs: the low bits */
} drom_sequence;

/** An order that holds as long as its owner is down. */
typedef struct drom_held {
    uint8_t rule;
    uint8_t action;
    uint8_t output; /**< that it is an order to */
    uint8_t key;    /**< of the rule's handset */
    bool is_otherwise : 1;
    bool is_over : 1; /**< and is to be undone */
} drom_held;

/** What the rules know of a handset. */
typedef struct drom_hand {
    uint8_t key;  /**< the newest that was pressed */
    uint8_t mode; /**< in which it was pressed */
    bool is_down;
} drom_hand;

/** What a plan says to the rules. */
struct drom_rules_plan {
    DROM_TABLE(drom_rule) rules; /**< ascending by source, row, key; of one event, in the order of firing */
    DROM_TABLE(drom_mode) modes; /**< the first is the one at the start, and has no end; none: one mode */
    DROM_TABLE(drom_value) values;
    DROM_MEMORY(drom_hand) hands; /**< as many as handsets */
    DROM_MEMORY(drom_sequence) sequences;
    DROM_MEMORY(drom_held)
    held; /**< as many as there are actions with DROM_WHILE_HELD, a rule's counted for
             that rule */
    DROM_MEMORY(drom_timer) timers;
    DROM_MEMORY(bool) switches; /**< true: closed */
    int16_t *numbers;           /**< as many as values */
};

typedef struct drom_rules {
    const drom_rules_plan DROM_FLASH *plan;
    const drom_outputs_plan DROM_FLASH *outputs;
    drom_events *events;
    drom_timing *timing;
    const struct drom_observer *observer;
    drom_timer back;   /**< the mode's end */
    drom_us passed_at; /**< up to when time has passed for `back` */
    drom_run run;
    int16_t sum;      /**< what an action with DROM_INTO_SUM has left */
    drom_event event; /**< whose rules have fired, or are yet to be looked for */
    uint8_t mode;
    uint8_t back_to;    /**< the newest mode that had no end */
    uint8_t held_count; /**< the newest one last */
    uint8_t answer_count;
    uint8_t answers_done;
    uint8_t resumes_from;              /**< the sequence that is the next to go on, if its wait is over */
    bool has_over : 1;                 /**< some of what is held is over */
    bool has_event : 1;                /**< its rules are looked for when that is undone */
    bool has_resumed : 1;              /**< since the newest event was taken, a sequence has gone on */
    uint16_t otherwise;                /**< bits: the answers whose conditions don't hold */
    uint8_t answers[DROM_MAX_ANSWERS]; /**< rows of the rules that have fired and aren't begun */
} drom_rules;

/** Begins in the first mode, with nothing held and nothing running. Main only. */
void drom_rules_init(drom_rules *rules);

/** Nothing of an event is left to do. Main only. */
bool drom_rules_are_done(const drom_rules *rules);

/** Rules have fired, and nothing of them is done as yet. Main only. */
bool drom_rules_have_fired(const drom_rules *rules);

/** Takes an event, when nothing of the one before is left to do: all conditions of its rules are read. Does
 * nothing as yet. Main only. */
void drom_rules_take(drom_rules *rules, const drom_event *event);

/** Does one thing that is left to do, or that a wait which is over has left; false: nothing was, or an event
 * is to be taken before the next wait. Main only. */
bool drom_rules_act(drom_rules *rules);

/** Posts what time brings: ends of timers, and of modes where nothing is left to do and no event waits. The
 * wait in µs until it must be called again. Main only. */
drom_wait drom_rules_pass(drom_rules *rules);

#endif
