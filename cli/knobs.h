/* What can be made worse while a plan plays: where the handset is, what else is on the air, what keeps main
 * from hearing. */
#ifndef DROMIKOS_CLI_KNOBS_H
#define DROMIKOS_CLI_KNOBS_H

#include "page.h"

#include "sim.h"

enum { KNOBS = 7 };

typedef struct knobs {
    live_knob shown[KNOBS];
    unsigned turned[KNOBS]; /* to which step each */
    uint64_t disturbed_us;  /* noise and masks are on the bench up to here */
    uint64_t other_us;      /* the other handset sends next */
} knobs;

/* As in a good room. */
void knobs_begin(knobs *room);

/* Turns one up, or down where `steps` is below 0. */
void knobs_turn(knobs *room, unsigned which, int steps);

sim_place knobs_place(const knobs *room);
uint64_t knobs_own_code_us(const knobs *room);

/* Puts on the bench what disturbs it up to a moment. */
void knobs_disturb(knobs *room, sim_bench *bench, uint64_t until_us);

#endif
