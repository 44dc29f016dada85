/* A kind of output on the host: its words, what it needs, and its device on the bench. One const descriptor
 * per file of plan/kinds/; nothing of it is repeated elsewhere. Private to plan/, except for what plan.h
 * passes on. */
#ifndef DROMIKOS_PLAN_KINDS_H
#define DROMIKOS_PLAN_KINDS_H

#include "build.h"
#include "costs.h"

#include "sim.h"

typedef struct vetting vetting;     /* vetting.h */
typedef struct wiring_up wiring_up; /* wiring_up.h */

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

/* How an output is drawn over time. */
typedef enum drawing {
    DRAWN_AS_NOTHING, /* at other outputs */
    DRAWN_AS_LEVELS,  /* on and off, 1 and 0 */
    DRAWN_AS_LEVEL,   /* 0 to 1 */
    DRAWN_AS_SIGNED,  /* -1 to 1 */
    DRAWN_AS_PLACE,
    DRAWN_AS_COLOURS,
    DRAWN_AS_WORDS, /* its state in words */
    DRAWN_AS_BURSTS /* when its LED is lit, and what was received */
} drawing;

/* The activity of an output. */
typedef enum activity { IDLE, ENDING /* ends by itself */, ENDLESS } activity;

enum { ASKS_FOR_ANY = 1 << 20 };

struct output_kind {
    const char *name;         /* first word of its statement, and its name in the core: drom_NAME_settings */
    const char *const *heads; /* what may follow, ending with NULL: "NAME on pin PIN" */
    const drom_output_kind *core;
    const kind_clause *clauses;
    const kind_order *orders;
    const char
        *declaration;   /* declaration of the maker's function for it, with plan and output; NULL: none */
    bool joins_outputs; /* the names in its head are outputs of the plan */
    bool is_called;     /* "call NAME" is also an order to it */
    /* Changes an order that a handset's key holds. NULL: the order is the same. */
    void (*of_key)(const plan *made, drom_action *action, uint8_t handset, uint8_t key);
    /* The presses that an order asks for, and those that its device has counted; NULL: it sends no keys.
     * ASKS_FOR_ANY: the number isn't known, as for a held key that is sent as presses. */
    unsigned (*asks_for)(const plan *loaded, const drom_action *action);
    unsigned (*has_counted)(const plan *loaded, guint output, void *device);
    bool sends_keys;           /* its orders with a KEY send it: a handset can be translated with it */
    bool may_be_mains;         /* what its contacts switch */
    bool has_supply;           /* its load may have its own supply */
    unsigned min_mv;           /* of this voltage, or its device can't work */
    unsigned max_mv;           /* 0: any */
    const char *driver;        /* what `driven` says: "a transistor"; NULL: a pin drives it */
    const char *const *driven; /* clauses that say that a driver exists, ending with NULL; NULL: none */

    /* Reports what is missing in its line, or contradictory. NULL: nothing can be. */
    void (*check)(plan *made, const output_line *line);

    /* Makes settings and state from a line without errors. The plan keeps them. */
    drom_output (*row)(plan *made, guint output);

    /* Writes them in C: what all outputs of the kind share, what this one's settings point to, and the
     * initialiser, without braces. The first two may be NULL. */
    void (*bake_shared)(GString *out, const plan *loaded);
    void (*bake_tables)(GString *out, const plan *loaded, guint output);
    void (*bake_settings)(GString *out, const plan *loaded, guint output);

    /* The order for its rest state; NULL: the verb that undoes a held order. */
    uint8_t (*rest_verb)(const output_line *line);

    /* Returns an order for people, to be freed. NULL: its phrase. */
    char *(*order_text)(const plan *loaded, const drom_action *action);

    activity (*activity)(const drom_output *row);

    /* Adds the parts between its pins and its load, and their currents; NULL: nothing is wired. */
    void (*wire_up)(wiring_up *job);
    bool (*is_pwm)(const output_line *line,
                   unsigned pin);                /* for a kind with PWM; NULL: all its pins have PWM */
    bool (*is_guarded)(const output_line *line); /* it rests when the program hangs */
    bool (*rests_high)(const output_line *line, unsigned pin); /* and so do its pins; NULL: none */
    /* Adds its parts that take room: pixels, keys that are sent; NULL: none. */
    void (*count_costs)(const plan *loaded, guint output, plan_cost_sink *sink, void *context);
    /* Checks an order of a rule on this line; NULL: no check. And: true if the order never ends by itself. */
    void (*vet_order)(const vetting *job, const drom_action *action, int line);
    bool (*never_ends)(const plan *loaded, const drom_action *action);
    void (*vet)(const vetting *job, guint output);    /* NULL: no check */
    double (*keeps_main_us)(const output_line *line); /* duration of a refresh; NULL: none */
    double (*timed_edges_s)(const output_line *line); /* timed edges per second; NULL: none */

    /* Wires its device on the bench; NULL: its pins are enough. */
    void *(*wire)(sim_bench *bench, const plan *loaded, guint output);
    /* For an output that is on or off by one pin: the pin, and whether low is on. NULL: it isn't that simple.
     */
    uint8_t (*switched_pin)(const drom_output *row, bool *is_active_low);
    /* Returns what an order has changed at once, or why it has changed nothing. To be freed. NULL: not
     * needed. */
    char *(*unanswered)(const plan *loaded, guint output, drom_us now);
    /* Returns why it hasn't done its order yet: "off at least 2 s, line 11"; and the limit at which it is:
     * "top". To be freed; NULL: neither. NULL: never. */
    char *(*waits)(const plan *loaded, guint output);
    char *(*end)(const plan *loaded, guint output);
    /* Returns whether it moves, and its position. NULL: it can't move. */
    bool (*moves)(const drom_output *row, int32_t *position);
    char *(*place_text)(const plan *loaded, guint output,
                        const void *device); /* "stands at step 512"; to be freed */
    /* Expectations of a script, as phrases ending with NULL: "is on"; true if the one of this number is met;
     * and what is found instead: "is off", to be freed. */
    const char *const *states;
    bool (*is_in_state)(const plan *loaded, guint output, const void *device, unsigned state,
                        const phrase_value *values);
    /* Returns an error in the values of such a phrase, to be freed; NULL: none. NULL: none is possible. */
    char *(*wrong_state)(const plan *loaded, guint output, unsigned state, const phrase_value *values);
    char *(*state_text)(const plan *loaded, guint output, const void *device);

    /* Cuts the power of its device. NULL: it rests then. */
    void (*go_dark)(const plan *loaded, guint output, drom_timing *timing, sim_bench *bench);

    drawing drawn_as;
    /* Returns its current value, as `drawn_as` says. */
    double (*drawn)(const plan *loaded, guint output, const void *device);
    /* Returns its first and last pixel on its strip. NULL: it is no part. */
    unsigned (*pixels)(const plan *loaded, guint output, unsigned *first);
    /* Returns the number of its colours, at most `max`, each 0xrrggbb; 0: none. */
    unsigned (*colours)(const plan *loaded, guint output, const void *device, uint32_t *rgb, unsigned max);

    /* Returns its summary, for people; `on_us`: the time its switched pin was on. To be freed. */
    char *(*sum_up)(const drom_output *row, const void *device, uint64_t on_us);
};

/* All kinds, ending with NULL. */
extern const output_kind *const output_kinds[];

/* Allocates memory that the plan frees. */
gpointer plan_keep(plan *made, gsize size);

/* The line of an output, and the number of one of its pins on the board. */
const output_line *plan_line(const plan *made, guint output);
uint8_t plan_pin(const plan *made, const output_line *line, unsigned pin);

/* Of `driven`: drivers for any load, and those for relays. */
enum { DRIVEN_BY_DRIVER = 1, DRIVEN_ON_BOARD = 2 };
extern const char *const driven_by_driver[];
extern const char *const driven_on_board[];

/* Returns the value of a clause, or the default. */
uint32_t line_value(const output_line *line, unsigned clause, uint32_t usual);

/* Converts percent to a level, and back. */
uint32_t level_of(double percent);
unsigned percent_of(uint32_t level);

/* Values of orders that several kinds have. */
uint32_t order_level(plan *made, action_words *action, const kind_order *order);
uint32_t order_ms(plan *made, action_words *action, const kind_order *order);

/* A TIME as the whole value, 1 to `most` ms, which is 30 min or 24 h; and a TIME above the low 8 bits, up to
 * 30 min. */
uint32_t order_time(const plan *made, action_words *action, const phrase_value *given, uint32_t most);
uint32_t order_time_above(const plan *made, action_words *action, const phrase_value *given);

/* For outputs that are never busy. */
activity always_idle(const drom_output *output);

/* For each output of the kind. */
bool always(const output_line *line);

/* True if it rests when the program hangs. */
bool line_is_guarded(const output_line *line);

/* "true", "false" */
const char *c_bool(bool is_so);

#endif
