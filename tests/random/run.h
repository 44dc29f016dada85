/* A run of a plan on the bench: presses, noise, own code, and perhaps a stop, a hang or a power cut. Rules
 * that hold for any plan are checked at its pins and devices; and its outputs' changes can be written down,
 * to be compared with another day's. */
#ifndef DROMIKOS_TESTS_RUN_H
#define DROMIKOS_TESTS_RUN_H

#include "plan/model/plan.h"
#include "sim.h"

/* A press of a key of the plan, or of a button. */
typedef struct run_press {
    unsigned handset;
    unsigned key;
    uint32_t at_ms;
    uint32_t held_ms;
} run_press;

/* A switch that closes or opens. */
typedef struct life_touch {
    uint8_t pin;
    uint32_t at_ms;
    bool is_closed;
} life_touch;

/* The disturbance during a run. */
typedef enum life_break {
    LIFE_GOES_ON,
    LIFE_STOPS,  /* the program stops it, */
    LIFE_RESTS,  /* and starts it again */
    LIFE_HANGS,  /* the program hangs; if the guard has acted, the program starts the engine again */
    LIFE_IS_CUT, /* the power is cut, and restored */
    LIFE_BREAKS,
} life_break;

/* How often the program's own code posts the plan's events. */
typedef enum life_posts {
    LIFE_POSTS_NOTHING,
    LIFE_POSTS_SELDOM,
    LIFE_POSTS_EACH_TURN, /* as many as are taken */
    LIFE_POSTS_ITSELF,    /* a function that the plan calls posts its own event, without end */
    LIFE_POSTERS,
} life_posts;

typedef struct bench_run {
    GArray *presses; /* of run_press, by their times */
    GArray *touches; /* of life_touch, by their times; NULL: none */
    uint32_t lasts_ms;
    uint32_t asleep_ms; /* the computer sleeps from then on, for a second; 0: never */
    uint32_t break_ms;
    uint32_t hang_ms; /* how long a hang lasts */
    uint32_t nap_us;  /* the longest time between two polls; 0: as long as the engine says */
    life_break breaks;
    life_posts posts;
    sim_processor processor;
    sim_noise noise; /* during the whole run; SIM_NOISES: none */
    uint64_t seed;
    drom_us clock_start;
    bool is_ordinary; /* own code only polls and posts, and keys don't overlap */
} bench_run;

/* The events of a run. */
typedef struct run_events {
    uint64_t presses; /* of keys and buttons */
    uint64_t touches;
    uint64_t posts;
    uint64_t breaks;
    uint64_t heard; /* presses that were certainly counted */
} run_events;

/* Runs a plan. Returns NULL, or the violation, to be freed. Adds the run's events to `events` (may be NULL).
 */
char *run_check(const plan *loaded, const bench_run *run, run_events *events);

/* Runs a plan, and returns its outputs' changes, a line each: "2.067 bell on". To be freed. */
char *run_timeline(const plan *loaded, const bench_run *run);

/* A random plan and its sheets, with every statement, kind of output, gesture and order. */
typedef struct drawn_plan {
    char *plan;
    char *hand; /* the sheet hand.csv */
    char *hall; /* the sheet hall.csv, which is sent */
    unsigned keys;
    unsigned statements;
    unsigned left_out; /* statements that the checker refused */
} drawn_plan;

drawn_plan draw_plan(GRand *dice);
void drawn_plan_clear(drawn_plan *unwanted);

/* Draws presses of `keys` keys of its handset, and of its other keys and buttons, over about `lasts_ms`; two
 * at a time only if `can_overlap`. */
GArray *draw_presses(GRand *dice, const plan *loaded, unsigned keys, uint32_t lasts_ms, bool can_overlap);

/* Draws changes of a drawn plan's switches. */
GArray *draw_touches(GRand *dice, const plan *loaded, uint32_t lasts_ms);

/* Writes a drawn plan into a folder and loads it. NULL if it is refused, with the reasons in `text`. */
plan *load_drawn(const drawn_plan *drawn, const char *folder, char **text);

/* The same without the statements that are refused. NULL if that isn't enough. */
plan *load_what_fits(drawn_plan *drawn, const char *folder, char **text);

#endif
