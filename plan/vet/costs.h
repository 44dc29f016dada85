/* The flash and RAM of a plan on a chip, by the costs of its parts: costs.def has them, and './run bench
 * sizes' measures them. */
#ifndef DROMIKOS_PLAN_COSTS_H
#define DROMIKOS_PLAN_COSTS_H

#include "plan/language/kind.h"
#include "plan/model/plan.h"

/* Gives the sink each part of a plan that takes flash and RAM. */
void plan_count_costs(const plan *loaded, plan_cost_sink *sink, void *context);

typedef struct plan_size {
    double flash; /* bytes of the program */
    double ram;   /* bytes without the stack */
    char *most;   /* the three parts that take the most flash: "strip 3100, sender 2900, ..."; to be freed */
    char *most_ram;
} plan_size;

/* False if nothing was measured for the chip. */
bool plan_estimate_size(const plan *loaded, plan_size *size);

#endif
