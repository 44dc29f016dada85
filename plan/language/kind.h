/* A kind of output on the host: one const descriptor per file of plan/kinds/. The language, the checks, the
 * baker, vet, the bench and the drawings ask it, and no other file names a kind. */
#ifndef DROMIKOS_PLAN_KIND_H
#define DROMIKOS_PLAN_KIND_H

#include "plan/language/source.h"

#include "dromikos/dromikos.h"

typedef struct plan plan;           /* plan/model/plan.h */
typedef struct vetting vetting;     /* plan/kinds/vetting.h */
typedef struct wiring_up wiring_up; /* plan/kinds/wires.h */
typedef struct sim_bench sim_bench; /* sim.h */

/* Number of a kind's clauses, or of its orders. */
enum { KIND_MAX_PHRASES = 32 };

/* A clause, after a comma. Phrases with the same clause mean the same. A PIN in a phrase is another pin of
 * the output, and the clause's value its number. */
typedef struct kind_clause {
    const char *phrase; /* NULL: end of the list */
    unsigned clause;    /* below MAX_CLAUSES */
    uint32_t fixed;     /* its value, if the phrase has no number */
    uint32_t min;       /* of the number */
    uint32_t max;
    const char *range; /* the number's meaning, for messages; NULL: any number is allowed */
} kind_clause;

/* An order. */
typedef struct kind_order {
    const char *phrase; /* NULL: end of the list */
    uint8_t verb;       /* the engine's verb */
    bool can_be_held;   /* 'while held' may follow */
    uint32_t fixed;     /* the engine's value, if `value` is NULL or returns it */

    /* Returns the engine's value of an action, and reports errors. If a name stands for a number, adds the
     * number's form to the flags and leaves room for its row; the default form is DROM_AS_COUNT. */
    uint32_t (*value)(plan *made, action_words *action, const struct kind_order *order);
} kind_order;

/* Of `driven`: drivers for any load, and those for relays. */
enum { DRIVEN_BY_DRIVER = 1, DRIVEN_ON_BOARD = 2 };
extern const char *const driven_by_driver[];
extern const char *const driven_on_board[];

/* The words of a plan about it. All kinds have heads, clauses, orders and order_text. */
typedef struct kind_words {
    const char *const *heads; /* what may follow its kind, ending with NULL: "NAME on pin PIN" */
    const kind_clause *clauses;
    const kind_order *orders;
    bool joins_outputs;        /* the names in its head are outputs of the plan */
    bool is_called;            /* "call NAME" is also an order to it */
    bool sends_keys;           /* its orders with a KEY send it: a handset can be translated with it */
    bool has_supply;           /* its load may have its own supply */
    const char *const *driven; /* clauses that say that a driver exists, ending with NULL; NULL: none */

    /* Returns an order for people, to be freed. NULL: its phrase. */
    char *(*order_text)(const plan *loaded, const drom_action *action);
} kind_words;

/* From its line to the engine's tables. All kinds have a row. */
typedef struct kind_checks {
    /* Reports what is missing in its line, or contradictory. NULL: nothing can be. */
    void (*check)(plan *made, const output_line *line);

    /* Makes settings and state from a line without errors. The plan keeps them. */
    drom_output (*row)(plan *made, guint output);

    /* Changes an order that a handset's key holds. NULL: the order is the same. */
    void (*of_key)(const plan *made, drom_action *action, uint8_t handset, uint8_t key);

    /* The order for its rest state; NULL: the verb that undoes a held order. */
    uint8_t (*rest_verb)(const output_line *line);
    bool (*is_guarded)(const output_line *line);               /* it rests when the program hangs; NULL: no */
    bool (*rests_high)(const output_line *line, unsigned pin); /* and so do its pins; NULL: none */
} kind_checks;

/* Its tables in C. All kinds have settings. */
typedef struct kind_baking {
    const char *declaration; /* of the maker's function for it, with plan and output; NULL: none */
    const char *verbs;       /* the kind whose verbs it takes; NULL: its own */
    /* What all outputs of the kind share, what this one's settings point to, and the initialiser, without
     * braces. The first two may be NULL. */
    void (*shared)(GString *out, const plan *loaded);
    void (*tables)(GString *out, const plan *loaded, guint output);
    void (*settings)(GString *out, const plan *loaded, guint output);
} kind_baking;

/* Gets a part of an output that takes flash and RAM, and how often it is there. */
typedef void plan_cost_sink(void *context, const char *part, double amount);

/* For vet and the wiring sheet. Each member may be 0. */
typedef struct kind_vetting {
    bool may_be_mains;  /* what its contacts switch */
    unsigned min_mv;    /* of this voltage, or its device can't work */
    unsigned max_mv;    /* 0: any */
    const char *driver; /* what `driven` says: "a transistor"; NULL: a pin drives it */

    /* Adds the parts between its pins and its load, and their currents; NULL: nothing is wired. */
    void (*wire_up)(wiring_up *job);
    bool (*is_pwm)(const output_line *line, unsigned pin); /* for a kind with PWM; NULL: all its pins */

    /* Adds its parts that take room: pixels, keys that are sent; NULL: none. */
    void (*count_costs)(const plan *loaded, guint output, plan_cost_sink *sink, void *context);

    void (*output)(const vetting *job, guint output); /* checks it; NULL: no check */
    /* Checks an order of a rule on this line; NULL: no check. And: true if the order never ends by itself. */
    void (*order)(const vetting *job, const drom_action *action, int line);
    bool (*never_ends)(const plan *loaded, const drom_action *action);
    double (*keeps_main_us)(const output_line *line); /* duration of a refresh; NULL: none */
    double (*timed_edges_s)(const output_line *line); /* timed edges per second; NULL: none */
} kind_vetting;

/* An output on the bench: its row of the tables, and its device. */
typedef struct output_view {
    const plan *plan;
    guint output;
    const drom_output *row;
    const void *device; /* NULL: its pins are enough */
} output_view;

/* How an output is drawn over time. */
typedef enum drawing {
    DRAWN_AS_NOTHING, /* at other outputs */
    DRAWN_AS_LEVELS,  /* on and off, 1 and 0 */
    DRAWN_AS_LEVEL,   /* 0 to 1 */
    DRAWN_AS_SIGNED,  /* -1 to 1 */
    DRAWN_AS_PLACE,
    DRAWN_AS_COLOURS,
    DRAWN_AS_WORDS, /* its state in words */
    DRAWN_AS_BURSTS /* when its LED is lit, and the received codes */
} drawing;

/* The activity of an output. */
typedef enum activity { IDLE, ENDING /* ends by itself */, ENDLESS } activity;

enum { ASKS_FOR_ANY = 1 << 20 };

/* On the bench. All kinds have an activity and a summary. */
typedef struct kind_bench {
    activity (*activity)(const drom_output *row);

    /* Wires its device; NULL: its pins are enough. And cuts the power of its device; NULL: it rests then. */
    void *(*wire)(sim_bench *bench, const plan *loaded, guint output);
    void (*go_dark)(const plan *loaded, guint output, drom_timing *timing, sim_bench *bench);

    /* For an output that is on or off by one pin: the pin, and whether low is on. NULL: it isn't that simple.
     */
    uint8_t (*switched_pin)(const drom_output *row, bool *is_active_low);

    /* Returns what an order has changed at once, or why it has changed nothing. To be freed. NULL: not
     * needed. */
    char *(*unanswered)(const output_view *seen, drom_us now);

    /* Returns why it hasn't done its order yet: "off at least 2 s, line 11"; and the limit at which it is:
     * "top". To be freed; NULL: neither. NULL: never. */
    char *(*waits)(const output_view *seen);
    char *(*end)(const output_view *seen);

    /* Returns whether it moves, and its position. NULL: it can't move. */
    bool (*moves)(const drom_output *row, int32_t *position);
    char *(*place_text)(const output_view *seen); /* "stands at step 512" */

    /* Return the number of presses in an order, and of presses that its device has counted; NULL: it sends no
     * keys. ASKS_FOR_ANY: the number isn't known, as for a held key that is sent as presses. */
    unsigned (*asks_for)(const plan *loaded, const drom_action *action);
    unsigned (*has_counted)(const plan *loaded, guint output, void *device);

    /* Expectations of a script, as phrases ending with NULL: "is on"; true if the one of this number is met;
     * an error in the values of such a phrase, NULL: none; and what is found instead: "is off". Texts are to
     * be freed. */
    const char *const *states;
    bool (*is_in_state)(const output_view *seen, unsigned state, const phrase_value *values);
    char *(*wrong_state)(const plan *loaded, guint output, unsigned state, const phrase_value *values);
    char *(*state_text)(const output_view *seen);

    drawing drawn_as;
    /* Returns its current value, as `drawn_as` says. */
    double (*drawn)(const output_view *seen);
    /* Returns its first and last pixel on its strip. NULL: it is no part. */
    unsigned (*pixels)(const plan *loaded, guint output, unsigned *first);
    /* Returns the number of its colours, at most `max`, each 0xrrggbb; 0: none. */
    unsigned (*colours)(const output_view *seen, uint32_t *rgb, unsigned max);

    /* Returns its summary, for people; `on_us`: the time its switched pin was on. To be freed. */
    char *(*sum_up)(const output_view *seen, uint64_t on_us);
} kind_bench;

struct output_kind {
    const char *name; /* first word of its statement, and its name in the core: drom_NAME_settings */
    const drom_output_kind *core;
    kind_words words;
    kind_checks checks;
    kind_baking bake;
    kind_vetting vet;
    kind_bench bench;
};

/* All kinds, ending with NULL: the list is in plan/kinds/all.c. */
extern const output_kind *const output_kinds[];

#endif
