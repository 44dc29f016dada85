/* Does a board keep up with a protocol's edges? The plan's own decoders are given the frames of its own keys,
 * the polls that each edge takes are counted, and the capture ring is followed. */
#ifndef DROMIKOS_PLAN_ESTIMATE_H
#define DROMIKOS_PLAN_ESTIMATE_H

#include "plan.h"

/* So many polls for each that hears: every third is the outputs'. */
#define ESTIMATE_TURNS 1.5

/* What keeps main from the edges. */
typedef struct estimate_main {
    double poll_us;    /* a poll, and the loop around it */
    double refresh_us; /* of the longest strip; 0: there is none */
    double rest_us;    /* of that strip between two refreshes */
    double block_us;   /* the maker's own code, once, at the worst moment; 0: never */
} estimate_main;

typedef struct estimate {
    unsigned waiting; /* edges in the ring, at most; where they are more than DROM_EDGES, some are lost */
    double late_us;   /* the longest that one waits */
    double load;      /* share of main's time that hearing takes while a frame comes in */
} estimate;

/* The worst of the plan's keys that speak this protocol. */
estimate estimate_edges(const plan *loaded, const drom_protocol *protocol, const estimate_main *with);

#endif
