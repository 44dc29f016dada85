/* The parts of a check. Private to plan/vet/. */
#ifndef DROMIKOS_PLAN_CHECKS_H
#define DROMIKOS_PLAN_CHECKS_H

#include "plan/kinds/vetting.h"

/* Checks currents and supplies; and pins with other purposes. */
void vet_currents(const vetting *job);
void vet_circuit_pins(const vetting *job);

/* Checks flash and RAM. */
void vet_memory(const vetting *job);

/* Checks the orders of rules. */
void vet_rules(const vetting *job);

#endif
