/* The conditions that can be made worse while a plan plays: the handset's place, other signals, delays of
 * main. */
#ifndef DROMIKOS_CLI_CONDITIONS_H
#define DROMIKOS_CLI_CONDITIONS_H

#include "live/page.h"

#include "sim.h"

enum { CONDITIONS = 7 };

typedef struct conditions {
    live_condition shown[CONDITIONS];
    unsigned turned[CONDITIONS]; /* the step of each */
    uint64_t disturbed_us;       /* noise and masks are on the bench up to here */
    uint64_t other_us;           /* next press of the other handset */
} conditions;

/* Ideal conditions. */
void conditions_begin(conditions *now);

/* Changes a condition by steps, which may be negative. */
void conditions_turn(conditions *now, unsigned which, int steps);

sim_place conditions_place(const conditions *now);
uint64_t conditions_own_code_us(const conditions *now);

/* Adds the disturbances up to a time to the bench. */
void conditions_disturb(conditions *now, sim_bench *bench, uint64_t until_us);

#endif
