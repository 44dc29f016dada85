/* A rehearsal as one self-contained page: expectations, the timeline, the plan with the rules that fired, and
 * its wiring. */
#ifndef DROMIKOS_CHART_REPORT_H
#define DROMIKOS_CHART_REPORT_H

#include "chart/row.h"
#include "plan/model/plan.h"

/* `text` is the plan's. To be freed. */
char *report_page(const plan *loaded, const char *text, const GArray *rows);

#endif
