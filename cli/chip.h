/* The board's own chip on the bench, and what keeps it from hearing. */
#ifndef DROMIKOS_CLI_CHIP_H
#define DROMIKOS_CLI_CHIP_H

#include "plan.h"

#include "sim.h"

/* A stretch of time in which main went on. */
typedef struct chip_stretch {
    uint64_t from_us;
    uint64_t until_us;
    double poll_us;   /* the longest time from one poll to the next that ended in it */
    double masked_us; /* interrupts were off so long, in all */
    unsigned lost;    /* edges of the receiver's line */
} chip_stretch;

typedef struct chip_watch {
    double polled_us; /* the newest poll began then */
    chip_stretch now;
    sim_load before; /* the load at its beginning */
} chip_watch;

/* From now on polls, handlers and pixels take the time that they take on the plan's board at its clock. */
void chip_use(sim_bench *bench, const plan *loaded);

/* Main begins a poll. */
void chip_watch_poll(chip_watch *watch, const sim_bench *bench);

/* What was so since it was taken last. */
chip_stretch chip_watch_take(chip_watch *watch, const sim_bench *bench);

#endif
