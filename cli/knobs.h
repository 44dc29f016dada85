/* The conditions that can be made worse while a plan plays: the handset's place, other signals, delays of
 * main. */
#ifndef DROMIKOS_CLI_KNOBS_H
#define DROMIKOS_CLI_KNOBS_H

#include "page.h"

#include "sim.h"

enum { KNOBS = 7 };

typedef struct knobs {
    live_knob shown[KNOBS];
    unsigned turned[KNOBS]; /* the step of each */
    uint64_t disturbed_us;  /* noise and masks are on the bench up to here */
    uint64_t other_us;      /* next press of the other handset */
} knobs;

/* Ideal conditions. */
void knobs_begin(knobs *room);

/* Changes a condition by steps, which may be negative. */
void knobs_turn(knobs *room, unsigned which, int steps);

sim_place knobs_place(const knobs *room);
uint64_t knobs_own_code_us(const knobs *room);

/* Adds the disturbances up to a time to the bench. */
void knobs_disturb(knobs *room, sim_bench *bench, uint64_t until_us);

#endif
