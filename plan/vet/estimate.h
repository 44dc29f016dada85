/* Does a board process a protocol's edges in time? The plan's decoders get the frames of its own keys; the
 * polls per edge are counted, and the capture ring is followed. */
#ifndef DROMIKOS_PLAN_ESTIMATE_H
#define DROMIKOS_PLAN_ESTIMATE_H

#include "plan/model/plan.h"

/* Polls per poll that receives: every third is the outputs'. */
#define ESTIMATE_TURNS 1.5

/* What delays the processing of edges. */
typedef struct estimate_main {
    double poll_us;    /* a poll, and the loop around it */
    double refresh_us; /* refresh of the longest strip; 0: no strip */
    double rest_us;    /* time of that strip between two refreshes */
    double block_us;   /* own code, once, at the worst time; 0: none */
} estimate_main;

typedef struct estimate {
    unsigned waiting; /* largest number of edges in the ring; more than DROM_EDGES: some are lost */
    double late_us;   /* longest wait of an edge */
    double load;      /* share of main's time for receiving while a frame arrives */
} estimate;

/* Returns the worst result of the plan's keys of this protocol. */
estimate estimate_edges(const plan *loaded, const drom_protocol *protocol, const estimate_main *with);

#endif
