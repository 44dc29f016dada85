/* A plan's run on the bench: presses, noise, what own code does, and perhaps a stop, a hang or a power cut.
 * What must hold of any plan is checked at its pins and devices; and what its outputs did can be written
 * down, to be compared with another day's. */
#ifndef DROMIKOS_TESTS_RUN_H
#define DROMIKOS_TESTS_RUN_H

#include "plan/model/plan.h"
#include "sim.h"

/* A finger on a key of the plan's, or on a button. */
typedef struct run_press {
    unsigned handset;
    unsigned key;
    uint32_t at_ms;
    uint32_t held_ms;
} run_press;

/* A switch that is touched. */
typedef struct life_touch {
    uint8_t pin;
    uint32_t at_ms;
    bool is_closed;
} life_touch;

/* What comes to the engine in the midst of its run. */
typedef enum life_break {
    LIFE_GOES_ON,
    LIFE_STOPS,  /* the program stops it, */
    LIFE_RESTS,  /* and starts it again */
    LIFE_HANGS,  /* the program hangs; where the guard has acted, it starts the engine again */
    LIFE_IS_CUT, /* the power goes, and comes again */
    LIFE_BREAKS,
} life_break;

/* How often the program's own code posts what the plan has events for. */
typedef enum life_posts {
    LIFE_POSTS_NOTHING,
    LIFE_POSTS_SELDOM,
    LIFE_POSTS_EACH_TURN, /* as much as is taken */
    LIFE_POSTS_ITSELF,    /* a function that the plan calls posts its own event, and so on */
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
    sim_noise noise; /* for all the time; SIM_NOISES: none */
    uint64_t seed;
    drom_us clock_start;
    bool is_ordinary; /* its own code does nothing but to poll and to post, and keys don't overlap */
} bench_run;

/* What has come to a plan. */
typedef struct run_events {
    uint64_t presses; /* of keys and buttons */
    uint64_t touches;
    uint64_t posts;
    uint64_t breaks;
    uint64_t heard; /* presses of which it is known that each was counted */
} run_events;

/* Lives a plan. NULL, or what of it must not be, to be freed. What has come is added to `events` (may be
 * NULL). */
char *run_check(const plan *loaded, const bench_run *run, run_events *events);

/* Lives a plan, and writes down what each of its outputs did, a line a change: "2.067 bell on". To be freed.
 */
char *run_timeline(const plan *loaded, const bench_run *run);

/* A plan and its sheets, drawn at random: every statement, every kind of output, every gesture, any orders.
 */
typedef struct drawn_plan {
    char *plan;
    char *hand; /* the sheet hand.csv */
    char *hall; /* the sheet hall.csv, which is sent */
    unsigned keys;
    unsigned statements;
    unsigned left_out; /* of them, since the checker refused them */
} drawn_plan;

drawn_plan draw_plan(GRand *dice);
void drawn_plan_clear(drawn_plan *unwanted);

/* Draws presses of `keys` keys of its handset, and of its other keys and buttons, over about `lasts_ms`; two
 * at a time only if `can_overlap`. */
GArray *draw_presses(GRand *dice, const plan *loaded, unsigned keys, uint32_t lasts_ms, bool can_overlap);

/* Touches of the switches that a drawn plan has. */
GArray *draw_touches(GRand *dice, const plan *loaded, uint32_t lasts_ms);

/* Writes a drawn plan into a folder and loads it. NULL, and why in `text`, where it is refused. */
plan *load_drawn(const drawn_plan *drawn, const char *folder, char **text);

/* The same without the statements that are refused. NULL where that isn't enough. */
plan *load_what_fits(drawn_plan *drawn, const char *folder, char **text);

#endif
