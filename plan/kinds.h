/* A kind of output, as the host knows it: what a plan says of it, what it needs, and what its device on the
 * bench does. One const descriptor a file in plan/kinds/, and none of what is in there stands anywhere else.
 * Private to plan/, but for what plan.h passes on. */
#ifndef DROMIKOS_PLAN_KINDS_H
#define DROMIKOS_PLAN_KINDS_H

#include "build.h"
#include "costs.h"

#include "sim.h"

typedef struct vetting vetting;     /* vetting.h */
typedef struct wiring_up wiring_up; /* wiring_up.h */

/* Of the clauses of a kind, or of its orders; each is a phrase that fits. */
enum { KIND_MAX_PHRASES = 32 };

/* What may be said of an output, after a comma. Phrases of one clause say the same thing. A PIN in one is one
 * more of the output's pins, and the clause's value its number. */
typedef struct kind_clause {
    const char *phrase; /* NULL: there are no more */
    unsigned clause;    /* below MAX_CLAUSES */
    uint32_t fixed;     /* its value, where the phrase has no number */
    uint32_t min;       /* of the number */
    uint32_t max;
    const char *range; /* what that is, for people: "a strip has so many pixels"; NULL: any will do */
} kind_clause;

/* What an output may be asked to do. */
typedef struct kind_order {
    const char *phrase; /* NULL: there are no more */
    uint8_t verb;       /* of the engine */
    bool can_be_held;   /* 'while held' may follow */
    uint32_t fixed;     /* the engine's value, where `value` is NULL or gives it */

    /* The engine's value of an action. Reports what is wrong with it. Where a name stands for a number, adds
     * the number's form to the flags, and leaves room for the row: DROM_AS_COUNT is usual. */
    uint32_t (*value)(plan *made, action_words *action, const struct kind_order *order);
} kind_order;

/* How an output is drawn over time. */
typedef enum drawing {
    DRAWN_AS_NOTHING, /* what it does is seen at others */
    DRAWN_AS_LEVELS,  /* on and off, 1 and 0 */
    DRAWN_AS_LEVEL,   /* 0 to 1 */
    DRAWN_AS_SIGNED,  /* -1 to 1 */
    DRAWN_AS_PLACE,
    DRAWN_AS_COLOURS,
    DRAWN_AS_WORDS, /* its state in words */
    DRAWN_AS_BURSTS /* when its LED is lit, and what was understood */
} drawing;

/* What an output is about. */
typedef enum activity { IDLE, ENDING /* by itself */, ENDLESS } activity;

enum { ASKS_FOR_ANY = 1 << 20 };

struct output_kind {
    const char *name; /* the first word of its statement; the core calls it so, too: drom_NAME_settings */
    const char *const *heads; /* what may follow, ending with NULL: "NAME on pin PIN" */
    const drom_output_kind *core;
    const kind_clause *clauses;
    const kind_order *orders;
    const char *declaration; /* of the function that a maker writes for it: of plan and output; NULL: none */
    bool joins_outputs;      /* the names in its head are outputs of its own plan */
    bool is_called;          /* "call NAME" is an order to it, too */
    /* Changes an order that a key of a handset holds. NULL: it is as any key's. */
    void (*of_key)(const plan *made, drom_action *action, uint8_t handset, uint8_t key);
    /* The presses that an order asks for, and those that its device has counted; NULL: it sends no keys. Of
     * what goes on in presses while a key is held nobody knows how many: ASKS_FOR_ANY. */
    unsigned (*asks_for)(const plan *loaded, const drom_action *action);
    unsigned (*has_counted)(const plan *loaded, guint output, void *device);
    bool sends_keys;           /* its orders with a KEY send it: a handset can be translated with it */
    bool may_be_mains;         /* what its contacts switch */
    bool has_supply;           /* its load may have one of its own, */
    unsigned min_mv;           /* of so much, or what it is made for can't work */
    unsigned max_mv;           /* 0: any will do */
    const char *driver;        /* what `driven` says that there is: "a transistor"; NULL: a pin carries it */
    const char *const *driven; /* clauses that say that this is done, ending with NULL; NULL: none is */

    /* Reports what is missing in its line, or doesn't go together. NULL: nothing can be. */
    void (*check)(plan *made, const output_line *line);

    /* Settings and state, from a line without faults. They are kept by the plan. */
    drom_output (*row)(plan *made, guint output);

    /* The same in C: what the settings of all outputs of the kind share, what those of one point to, and
     * their initialiser, without braces. The first two may be NULL. */
    void (*bake_shared)(GString *out, const plan *loaded);
    void (*bake_tables)(GString *out, const plan *loaded, guint output);
    void (*bake_settings)(GString *out, const plan *loaded, guint output);

    /* The order that brings it to its rest state; NULL: the one that undoes what was held. */
    uint8_t (*rest_verb)(const output_line *line);

    /* An order for people, to be freed. NULL: its phrase. */
    char *(*order_text)(const plan *loaded, const drom_action *action);

    activity (*activity)(const drom_output *row);

    /* The parts between its pins and its load, and what that takes; NULL: nothing is wired. */
    void (*wire_up)(wiring_up *job);
    bool (*is_pwm)(const output_line *line,
                   unsigned pin);                /* of a kind with PWM; NULL: all its pins have it */
    bool (*is_guarded)(const output_line *line); /* it rests where the program hangs, */
    bool (*rests_high)(const output_line *line, unsigned pin); /* and so do its pins; NULL: it has none */
    /* What of an output costs room beside it: pixels, keys that are sent; NULL: nothing does. */
    void (*count_costs)(const plan *loaded, guint output, plan_cost_sink *sink, void *context);
    /* An order of a rule on this line; NULL: nothing is to be said. And does one never end by itself? */
    void (*vet_order)(const vetting *job, const drom_action *action, int line);
    bool (*never_ends)(const plan *loaded, const drom_action *action);
    void (*vet)(const vetting *job, guint output);    /* NULL: nothing is to be said */
    double (*keeps_main_us)(const output_line *line); /* a refresh; NULL: it doesn't */
    double (*timed_edges_s)(const output_line *line); /* in a second; NULL: none */

    /* Its device on the bench; NULL: its pins say it all. */
    void *(*wire)(sim_bench *bench, const plan *loaded, guint output);
    /* Where it is on or off, and no more: the pin, and whether on is low. NULL: it isn't so simple. */
    uint8_t (*switched_pin)(const drom_output *row, bool *is_active_low);
    /* Where an order has brought it at once, or why it has changed nothing. To be freed. NULL: that goes
     * without saying. */
    char *(*unanswered)(const plan *loaded, guint output, drom_us now);
    /* Why it is not yet what it was asked to be: "off at least 2 s, line 11"; and where it stands when the
     * plan lets it go no further: "top". To be freed; NULL: neither is so. NULL: it never is. */
    char *(*waits)(const plan *loaded, guint output);
    char *(*end)(const plan *loaded, guint output);
    /* Whether it moves, and where it is. NULL: it can't. */
    bool (*moves)(const drom_output *row, int32_t *position);
    char *(*place_text)(const plan *loaded, guint output,
                        const void *device); /* "stands at step 512"; to be freed */
    /* What a script may expect of it, as phrases ending with NULL: "is on"; whether that of this number is
     * so; and what is so instead: "is off", to be freed. */
    const char *const *states;
    bool (*is_in_state)(const plan *loaded, guint output, const void *device, unsigned state,
                        const phrase_value *values);
    /* What is wrong with what stands in such a state, to be freed; NULL: nothing. NULL: it can't be. */
    char *(*wrong_state)(const plan *loaded, guint output, unsigned state, const phrase_value *values);
    char *(*state_text)(const plan *loaded, guint output, const void *device);

    /* Its power is cut. NULL: it rests then. */
    void (*go_dark)(const plan *loaded, guint output, drom_timing *timing, sim_bench *bench);

    drawing drawn_as;
    /* What is drawn of it at this moment, as `drawn_as` says. */
    double (*drawn)(const plan *loaded, guint output, const void *device);
    /* The last and the first of its pixels on the strip that it is a part of. NULL: it is no part. */
    unsigned (*pixels)(const plan *loaded, guint output, unsigned *first);
    /* The colours that it shows, each 0xrrggbb: so many of `max`; 0: it has none. */
    unsigned (*colours)(const plan *loaded, guint output, const void *device, uint32_t *rgb, unsigned max);

    /* What it has done in all, for people; `on_us`: of what is switched. To be freed. */
    char *(*sum_up)(const drom_output *row, const void *device, uint64_t on_us);
};

/* All kinds, ending with NULL. */
extern const output_kind *const output_kinds[];

/* Memory that the plan lets go of in the end. */
gpointer plan_keep(plan *made, gsize size);

/* The line of an output, and the number of one of its pins on the plan's board. */
const output_line *plan_line(const plan *made, guint output);
uint8_t plan_pin(const plan *made, const output_line *line, unsigned pin);

/* Of `driven`: what can carry any load, and what relays come on, too. */
enum { DRIVEN_BY_DRIVER = 1, DRIVEN_ON_BOARD = 2 };
extern const char *const driven_by_driver[];
extern const char *const driven_on_board[];

/* What a clause says, or what it is usually. */
uint32_t line_value(const output_line *line, unsigned clause, uint32_t usual);

/* For an order: a level of 255, from percent; and back. */
uint32_t level_of(double percent);
unsigned percent_of(uint32_t level);

/* The values of orders that several kinds have. */
uint32_t order_level(plan *made, action_words *action, const kind_order *order);
uint32_t order_ms(plan *made, action_words *action, const kind_order *order);

/* A TIME as all of an action's value, 1 to `most` ms, which is 30 min or 24 h; and one above the low 8 bits,
 * up to 30 min. */
uint32_t order_time(const plan *made, action_words *action, const phrase_value *given, uint32_t most);
uint32_t order_time_above(const plan *made, action_words *action, const phrase_value *given);

/* Of what is never about something by itself. */
activity always_idle(const drom_output *output);

/* Of each output of the kind. */
bool always(const output_line *line);

/* Does it rest where the program hangs? */
bool line_is_guarded(const output_line *line);

/* "true", "false" */
const char *c_bool(bool is_so);

#endif
