/* The bench's side of the comparison. */
#ifndef DROMIKOS_TESTS_SAME_BENCH_H
#define DROMIKOS_TESTS_SAME_BENCH_H

#include "same.h"

#include "dromikos/dromikos.h"

/* Plays a stimulus to a plan on the bench, and prints the trace. False if the engine refuses the plan. */
bool same_play(const drom_plan *plan, const same_stimulus *with);

#endif
