/* A plan's life on the bench: presses, noise, and perhaps a stop. What must hold of any plan is checked at
 * its pins and devices; and what its outputs did can be written down, to be compared with another day's. */
#ifndef DROMIKOS_TESTS_LIFE_H
#define DROMIKOS_TESTS_LIFE_H

#include "plan.h"
#include "sim.h"

/* A finger on a key of the plan's. */
typedef struct life_press {
    unsigned handset;
    unsigned key;
    uint32_t at_ms;
    uint32_t held_ms;
} life_press;

/* A switch that is touched. */
typedef struct life_touch {
    uint8_t pin;
    uint32_t at_ms;
    bool is_closed;
} life_touch;

typedef struct life {
    GArray *presses; /* of life_press, by their times */
    GArray *touches; /* of life_touch, by their times; NULL: none */
    uint32_t lasts_ms;
    uint32_t asleep_ms;  /* the computer sleeps from then on, for a second; 0: never */
    uint32_t stopped_ms; /* the engine is stopped then; 0: never */
    sim_processor processor;
    sim_noise noise; /* for all the time; SIM_NOISES: none */
    uint64_t seed;
    drom_us clock_start;
} life;

/* Lives a plan. NULL, or what of it must not be. To be freed. */
char *life_check(const plan *loaded, const life *lived);

/* Lives a plan, and writes down what each of its outputs did, a line a change: "2.067 bell on". To be freed.
 */
char *life_timeline(const plan *loaded, const life *lived);

/* A plan and its sheets, drawn at random: every kind of output, every gesture, any orders. */
typedef struct drawn_plan {
    char *plan;
    char *hand; /* the sheet hand.csv */
    char *hall; /* the sheet hall.csv, which is only sent */
    unsigned keys;
} drawn_plan;

drawn_plan draw_plan(GRand *dice);
void drawn_plan_clear(drawn_plan *unwanted);

/* Presses of so many keys, for about so long; not two at a time. */
GArray *draw_presses(GRand *dice, unsigned keys, uint32_t lasts_ms);

/* Touches of the switch that a drawn plan has. */
GArray *draw_touches(GRand *dice, uint32_t lasts_ms);

/* Writes a drawn plan into a folder and loads it. NULL, and why in `text`, where it is refused. */
plan *load_drawn(const drawn_plan *drawn, const char *folder, char **text);

#endif
