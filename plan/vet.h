/* Would a plan work on its board? Every conflict of time, pins, timers and current that can be estimated
 * before soldering, with its figures and a way out. */
#ifndef DROMIKOS_PLAN_VET_H
#define DROMIKOS_PLAN_VET_H

#include "plan.h"

typedef enum vet_verdict {
    VET_FITS,
    VET_TIGHT, /* works where the room is good to it */
    VET_FAILS,
} vet_verdict;

/* One thing that was looked at. */
typedef struct vet_finding {
    vet_verdict verdict;
    char *about;   /* "nec", "footlights" */
    char *what;    /* "no two edges while interrupts are off" */
    double needed; /* in `unit`: what there is must not be more, or for a margin less */
    double there;
    const char *unit;
    char *way_out; /* NULL where it fits */
} vet_finding;

typedef struct vet_result {
    GPtrArray *times;    /* of vet_finding: a row a protocol and an output */
    GPtrArray *pins;     /* a row a pin that is unfit or of note */
    GPtrArray *currents; /* a row a load */
    double load;         /* share of the processor's time, at most */
    double longest_masked_us;
    double longest_poll_us; /* 0: it isn't known */
} vet_result;

/* "43.1 of 277 µs"; or, of what may work and may not, "410 µs (safe up to 277)"; "" where it has none. To be
 * freed. */
char *vet_figures_text(const vet_finding *finding);

/* What was found, its figures, and the way out. To be freed. */
char *vet_finding_text(const vet_finding *finding);

vet_result *vet_plan(const plan *loaded);
void vet_free(vet_result *unwanted);

/* The worst of all findings. */
vet_verdict vet_worst(const vet_result *result);

#endif
