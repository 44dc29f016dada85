/* The state of each part, so that a program can reserve the memory. Layouts only: not an interface, except
 * for the two rings that ports use. */
#ifndef DROMIKOS_INTERNAL_LAYOUTS_H
#define DROMIKOS_INTERNAL_LAYOUTS_H

#include "../events.h"
#include "air.h"
#include "intervals.h"
#include "ring.h"
#include "scheduler.h"

typedef struct drom_plan drom_plan;
typedef struct drom_receive_plan drom_receive_plan;
typedef struct drom_keys_plan drom_keys_plan;
typedef struct drom_rules_plan drom_rules_plan;
typedef struct drom_outputs_plan drom_outputs_plan;

/* receive/ */

/** A change of the receiver's output. */
typedef struct drom_edge {
    drom_us at;      /**< on the port's clock */
    bool is_mark;    /**< a mark begins, else a mark ends */
    bool after_loss; /**< edges may have been lost before this one */
} drom_edge;

/** The line without glitches, for the protocols with the same limit. */
typedef struct drom_filter {
    drom_interval run;     /**< the current mark or space; its length is set at its end */
    drom_us pending_at;    /**< an edge that may turn out to be a glitch */
    uint16_t glitch_us;    /**< smallest glitch_us of the protocols */
    uint16_t awaited_us;   /**< shortest silence that a decoder waits for; 65535: none */
    uint8_t tolerant_runs; /**< number of marks and spaces for which the tolerance still counts */
    uint8_t age;           /**< of the run: src/receive/receiver.c */
    uint8_t row;           /**< decoder that receives the end of the run next; 0: none */
    bool is_pending;
} drom_filter;

/** The fingerprint of an unknown burst: src/receive/fingerprint.c. */
typedef struct drom_fingerprint {
    drom_us began_at; /**< start of the burst */
    drom_us mark_at;
    uint16_t periods[64]; /**< from mark to mark, in µs */
    uint16_t intervals;   /**< marks and spaces of this burst */
    uint8_t count;
    bool is_reported; /**< the burst has produced a frame, or part of it was lost */
} drom_fingerprint;

/** The functions of fingerprints: referenced only by a plan that uses them. */
typedef struct drom_fingerprinting {
    void (*take_run)(drom_fingerprint *fingerprint, const drom_interval *run, drom_us ended_at);
    bool (*end_burst)(drom_fingerprint *fingerprint, drom_us ended_at, drom_frame *frame);
} drom_fingerprinting;

typedef struct drom_receiver {
    const drom_receive_plan DROM_FLASH *plan;
    const drom_protocol DROM_FLASH *repeat_of; /**< protocol whose dittos are valid */
    drom_deadline repeat_until;
    drom_filter usual;
} drom_receiver;

typedef struct drom_input {
    bool has_edge : 1;     /**< `edge` is to be passed to the receiver */
    bool has_frame : 1;    /**< `frame` is to be handled */
    bool has_more : 1;     /**< more edges were queued with the newest */
    drom_edge edge;        /**< the newest */
    uint16_t tolerance_us; /**< correction of the time of `edge` */
    uint16_t masked_us;    /**< duration of the newest refresh with all interrupts masked */
    drom_us masked_from;   /**< and its start */
    drom_frame frame;
    drom_receiver receiver;
    drom_ring ring;
} drom_input;

/* keys/ */

/** A press, of a handset or a button. */
typedef struct drom_press {
    drom_us pressed_at;
    drom_us still_at; /**< when the key was last known to be down */
    uint8_t key;
    uint8_t next_hold; /**< next row of the hold times */
    bool is_down;
} drom_press;

/** The key of a handset that is, or was last, down. */
typedef struct drom_hold {
    drom_press press;
    drom_rhythm rhythm;
    drom_deadline release;
    const drom_protocol DROM_FLASH *protocol;
    uint8_t key;
    bool toggle : 1;
    uint8_t state : 2; /**< DROM_KEY_UP and so on */
} drom_hold;

enum {
    DROM_KEY_UP,
    DROM_KEY_UNSURE, /**< one frame was received, and a second is needed */
    DROM_KEY_DOWN,
};

/** A handset's repeats, if the plan sets their times. */
typedef struct drom_ticking {
    drom_deadline next;
    uint16_t every_ms;
} drom_ticking;

/** A handset's tap that may become a double. */
typedef struct drom_tapped {
    drom_deadline until;
    uint8_t key;
    bool is_second; /**< the current press followed a tap of the same key */
} drom_tapped;

/** Receives key events, within drom_keys_frame() and drom_keys_advance(). */
typedef void drom_key_sink(void *context, const drom_key_event *event);

typedef struct drom_keys {
    const drom_keys_plan DROM_FLASH *plan;
    drom_key_sink *sink;
    void *context;
    uint8_t repeat_owner; /**< handset of the newest whole frame; DROM_NONE */
} drom_keys;

/* events/ */

/** The state of a contact. */
typedef struct drom_touch {
    uint8_t looks;   /**< consecutive samples that differ from is_closed */
    bool is_closed;  /**< debounced: stops a motor at its end switch */
    bool was_closed; /**< as reported by the newest event */
} drom_touch;

/** Places of the queue, and those reserved for keys and contacts: one frame or contact causes up to five
 * events. */
enum { DROM_EVENTS = 13, DROM_EVENTS_SPARE = 5 };

/** The event queue: first in, first out. */
typedef struct drom_events {
    drom_event rows[DROM_EVENTS];
    uint16_t dropped; /**< events dropped because the queue was full; stays at 65535 */
    uint8_t count;
} drom_events;

/** Events that one source has posted and the engine hasn't taken. One producer, one consumer, no lock. */
enum { DROM_POSTS = 4 };
typedef struct drom_posts {
    struct {
        int16_t value;
        uint8_t row;
    } rows[DROM_POSTS];
    uint8_t head; /**< written by the producer; free-running */
    uint8_t tail; /**< written by the consumer; free-running */
} drom_posts;

/* rules/ */

/** What a running rule keeps of its event. */
typedef struct drom_owner {
    int16_t number;
    uint8_t key;
} drom_owner;

/** A rule in progress. */
typedef struct drom_run {
    drom_owner owner;
    uint8_t rule; /**< its row */
    uint8_t done; /**< number of actions done */
    bool is_otherwise : 1;
    bool is_going : 1; /**< actions are left */
} drom_run;

/** A rule with waits. */
typedef struct drom_sequence {
    drom_deadline until;
    drom_run run;      /**< while waiting: the actions left */
    drom_run queued;   /**< while running: the next run */
    uint8_t mode;      /**< in which it began */
    uint8_t waits_for; /**< an output or a switch; DROM_NONE: a time */
    bool is_waiting : 1;
    bool is_for_switch : 1; /**< `waits_for` is a switch */
    bool is_for_closed : 1; /**< which must be closed, else open */
    uint16_t from;          /**< start of the wait in µs: the low bits */
} drom_sequence;

/** An order that lasts while a key is held. */
typedef struct drom_held {
    uint8_t rule;
    uint8_t action;
    uint8_t output; /**< of the order */
    uint8_t key;    /**< of the rule's handset */
    bool is_otherwise : 1;
    bool is_over : 1; /**< is to be undone */
} drom_held;

/** The newest press of a handset, for its rules. */
typedef struct drom_last_press {
    uint8_t key;
    uint8_t mode; /**< in which it was pressed */
    bool is_down;
} drom_last_press;

/** How many rules may answer one event. */
enum { DROM_MAX_ANSWERS = 16 };

typedef struct drom_rules {
    const drom_rules_plan DROM_FLASH *plan;
    const drom_outputs_plan DROM_FLASH *outputs;
    drom_events *events;
    drom_timing *timing;
    const drom_observer *observer;
    drom_timer back;   /**< end of the mode */
    drom_us passed_at; /**< time up to which `back` has advanced */
    drom_run run;
    int16_t sum;      /**< of an action with DROM_INTO_SUM */
    drom_event event; /**< whose rules have fired, or are to be found */
    uint8_t mode;
    uint8_t back_to;    /**< last mode entered that has no end */
    uint8_t held_count; /**< rows of `held` in use; the newest is last */
    uint8_t answer_count;
    uint8_t answers_done;
    uint8_t resumes_from;              /**< sequence to resume next, if its wait is over */
    bool has_over : 1;                 /**< a held order is to be undone */
    bool has_event : 1;                /**< after that, the rules of `event` are to be found */
    bool has_resumed : 1;              /**< a sequence was resumed since the newest event */
    uint16_t otherwise;                /**< bits: answers whose conditions are false */
    uint8_t answers[DROM_MAX_ANSWERS]; /**< rules that have fired and haven't begun */
} drom_rules;

/* outputs/ */

typedef struct drom_interlock_state {
    drom_deadline pause; /**< since the last output was driven */
    uint8_t driven;      /**< the output that was driven last */
} drom_interlock_state;

/* store/ */

typedef struct drom_kept_state {
    drom_deadline due; /**< when changes are written */
    uint16_t slot;     /**< of the newest record, or of the one being written */
    uint16_t number;   /**< of that record */
    uint16_t tries;    /**< slots that may still be tried */
    uint8_t step;
} drom_kept_state;

/** An engine. The most used fields come first: an 8-bit chip reaches the first 64 bytes of a struct at half
 * the cost. */
struct drom_engine {
    const drom_plan DROM_FLASH *plan;
    uint8_t state;         /**< DROM_STOPPED and so on */
    uint8_t ends_as;       /**< state after DROM_STOPPING */
    uint8_t turn;          /**< polls since the outputs' last */
    drom_us rested_at;     /**< the newest refresh, or time at which none was needed */
    drom_deadline next;    /**< when time alone may cause something */
    uint16_t caught_up_at; /**< when no input was left to process, in µs: the low bits */
    bool was_busy;         /**< the last poll handled rules or events */
    uint8_t post_turn;     /**< source whose post is taken next; 0: main's, else its row + 1 */
    drom_input input;
    drom_rules rules;
    drom_events events;
    drom_keys keys;
    drom_timing timing;
    drom_posts posts; /**< main's */
};

#endif
