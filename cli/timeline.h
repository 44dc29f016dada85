/* The timeline of a rehearsal, as a table for people or as JSON Lines. */
#ifndef DROMIKOS_CLI_TIMELINE_H
#define DROMIKOS_CLI_TIMELINE_H

#include "cli.h"
#include "plan.h"

#include "sim.h"

typedef struct timeline timeline;

/* Begins a timeline, and wires a relay to the bench for each of the plan's. */
timeline *timeline_new(const plan *of, sim_bench *bench, output_format format);
void timeline_free(timeline *told);

/* Looks on at the engine that runs the plan. */
void timeline_watch_engine(timeline *told, drom_engine *engine);

/* The engine has been polled: what an action has not done by now, it puts off. */
void timeline_settle(timeline *told);

/* Tells what is left to tell: how each output ended. */
void timeline_end(timeline *told);

#endif
