/* What a plan takes of a chip's flash and RAM, from what each of its parts costs: 'costs.def' has that, and
 * './run bench sizes' measures it. */
#ifndef DROMIKOS_PLAN_COSTS_H
#define DROMIKOS_PLAN_COSTS_H

#include "plan.h"

/* Something of a plan that costs room, and how many of it there are. */
typedef void plan_cost_sink(void *context, const char *what, double count);
void plan_count_costs(const plan *loaded, plan_cost_sink *sink, void *context);

typedef struct plan_size {
    double flash; /* bytes of the program */
    double ram;   /* bytes without the stack */
    char *most;   /* the three things that cost the most flash: "strip 3100, sender 2900, ..."; to be freed */
    char *most_ram;
} plan_size;

/* False where nothing was measured for the chip. */
bool plan_estimate_size(const plan *loaded, plan_size *size);

#endif
