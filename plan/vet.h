/* Checks a plan against its board: each conflict of time, pins, timers and current that can be estimated
 * before soldering, with its figures and a fix. */
#ifndef DROMIKOS_PLAN_VET_H
#define DROMIKOS_PLAN_VET_H

#include "plan.h"

typedef enum vet_verdict {
    VET_FITS,
    VET_TIGHT, /* works under good conditions */
    VET_FAILS,
} vet_verdict;

/* A finding. */
typedef struct vet_finding {
    vet_verdict verdict;
    char *about;   /* "nec", "footlights" */
    char *what;    /* "no two edges while interrupts are off" */
    double needed; /* in `unit`: the actual figure, which must not exceed `needed`, or, for a margin, fall
                      below it */
    double there;
    const char *unit;
    char *way_out; /* NULL if it fits */
} vet_finding;

typedef struct vet_result {
    GPtrArray *times;    /* of vet_finding: a row per protocol and output */
    GPtrArray *pins;     /* a row per unsuitable or notable pin */
    GPtrArray *currents; /* a row per load */
    double load;         /* largest share of the processor's time */
    double longest_masked_us;
    double longest_poll_us; /* 0: unknown */
} vet_result;

/* Returns "43.1 of 277 µs"; or, for a check, "410 µs (safe up to 277)"; "" without figures. To be freed. */
char *vet_figures_text(const vet_finding *finding);

/* Returns finding, figures and fix. To be freed. */
char *vet_finding_text(const vet_finding *finding);

vet_result *vet_plan(const plan *loaded);
void vet_free(vet_result *unwanted);

/* Returns the worst of all findings. */
vet_verdict vet_worst(const vet_result *result);

#endif
