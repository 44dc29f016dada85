/* The board's chip on the bench, and what delays its reception. */
#ifndef DROMIKOS_CLI_BOARD_CHIP_H
#define DROMIKOS_CLI_BOARD_CHIP_H

#include "plan/model/plan.h"

#include "sim.h"

/* A period of time. */
typedef struct chip_stretch {
    uint64_t from_us;
    uint64_t until_us;
    double poll_us;   /* longest time between two polls that ended in it */
    double masked_us; /* total time with interrupts masked */
    unsigned lost;    /* lost edges of the receiver's line */
} chip_stretch;

typedef struct chip_watch {
    double polled_us; /* start of the newest poll */
    chip_stretch now;
    sim_load before; /* the load at its beginning */
} chip_watch;

/* Sets polls, handlers and pixels to the times of the plan's board at its clock. */
void chip_use(sim_bench *bench, const plan *loaded);

/* Main begins a poll. */
void chip_watch_poll(chip_watch *watch, const sim_bench *bench);

/* Returns the period since the last call. */
chip_stretch chip_watch_take(chip_watch *watch, const sim_bench *bench);

#endif
