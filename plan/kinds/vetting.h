/* A plan that is being checked against its board: its findings, and how a check adds one. */
#ifndef DROMIKOS_PLAN_VETTING_H
#define DROMIKOS_PLAN_VETTING_H

#include "plan/model/build.h"

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

/* A plan on its board, at the plan's clock. */
typedef struct vetting {
    const plan *plan;
    board board;
    double slower; /* than the board's facts */
    vet_result *result;
} vetting;

/* Adds a finding, which vet_free_finding() frees. Takes `way_out` over. */
void vet_add(GPtrArray *list, vet_verdict verdict, const char *about, const char *what, double there,
             double needed, const char *unit, char *way_out);

void vet_free_finding(gpointer data);

/* True if an output needs one of these features: bits of DROM_USES(). */
bool vet_uses(const vetting *job, uint32_t needs);

bool vet_has_timed_edges(const vetting *job);

/* Returns the longest time for which interrupts are masked, and the longest delay of an edge's handler. */
double vet_masked_us(const vetting *job);
double vet_longest_wait_us(const vetting *job);

/* Returns the shortest mark or space of a protocol. True if masked interrupts can hide such a one. */
double vet_shortest_run_us(const plan *loaded, const drom_protocol *protocol);
bool vet_is_swallowed(const vetting *job, double run_us);

/* Returns the tolerance of a protocol's edges; and the verdict if it is exceeded. */
double vet_bearable_us(const drom_protocol *protocol);
vet_verdict vet_when_late(const vetting *job, const drom_protocol *protocol);

#endif
