/* Checks a plan against its board: each conflict of time, pins, timers and current that can be estimated
 * before soldering, with its figures and a fix. */
#ifndef DROMIKOS_PLAN_VET_H
#define DROMIKOS_PLAN_VET_H

#include "plan/kinds/vetting.h"

/* Returns "43.1 of 277 µs"; or, for a check, "410 µs (safe up to 277)"; "" without figures. To be freed. */
char *vet_figures_text(const vet_finding *finding);

/* Returns finding, figures and fix. To be freed. */
char *vet_finding_text(const vet_finding *finding);

vet_result *vet_plan(const plan *loaded);
void vet_free(vet_result *unwanted);

/* Returns the worst of all findings. */
vet_verdict vet_worst(const vet_result *result);

#endif
