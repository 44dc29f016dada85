/* A plan that is being checked against its board. Private to plan/. */
#ifndef DROMIKOS_PLAN_VETTING_H
#define DROMIKOS_PLAN_VETTING_H

#include "build.h"
#include "vet.h"

/* A plan on its board, at the plan's clock. */
typedef struct vetting {
    const plan *plan;
    board board;
    double slower; /* than the board's facts */
    vet_result *result;
} vetting;

/* Adds a finding. Takes `way_out` over. */
void vet_add(GPtrArray *list, vet_verdict verdict, const char *about, const char *what, double there,
             double needed, const char *unit, char *way_out);

/* True if an output needs one of these features: bits of DROM_USES(). */
bool vet_uses(const vetting *job, uint32_t needs);

/* Returns the longest delay of an edge's handler. */
double vet_longest_wait_us(const vetting *job);

/* Returns the tolerance of a protocol's edges; and the verdict if it is exceeded. */
double vet_bearable_us(const drom_protocol *protocol);
vet_verdict vet_when_late(const vetting *job, const drom_protocol *protocol);

/* Checks currents and supplies; and pins with other purposes. */
void vet_currents(const vetting *job);
void vet_circuit_pins(const vetting *job);

/* Checks flash and RAM. */
void vet_room(const vetting *job);

/* Checks the orders of rules. */
void vet_rules(const vetting *job);

#endif
