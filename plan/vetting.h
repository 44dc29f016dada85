/* A plan on its board, while it is vetted. Private to plan/. */
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

/* Adds a finding. `way_out` is taken over. */
void vet_add(GPtrArray *list, vet_verdict verdict, const char *about, const char *what, double there,
             double needed, const char *unit, char *way_out);

/* Does some output need any of these: bits of DROM_USES(TIMED_EDGES) and so on? */
bool vet_uses(const vetting *job, uint32_t needs);

/* The longest that an edge's handler may have to wait. */
double vet_longest_wait_us(const vetting *job);

/* By how much an edge of a protocol may be off; and how bad it is when it is off by more. */
double vet_bearable_us(const drom_protocol *protocol);
vet_verdict vet_when_late(const vetting *job, const drom_protocol *protocol);

/* What the circuit asks of pins and supplies; and what pins are for besides. */
void vet_currents(const vetting *job);
void vet_circuit_pins(const vetting *job);

/* Flash and RAM. */
void vet_room(const vetting *job);

/* What rules order. */
void vet_rules(const vetting *job);

#endif
