/* A rehearsal as one page that needs nothing else: what was expected, the timeline, the plan with what fired,
 * and its wiring. */
#ifndef DROMIKOS_CHART_REPORT_H
#define DROMIKOS_CHART_REPORT_H

#include "plan.h"

#include <jansson.h>

/* `text` is the plan's. To be freed. */
char *report_page(const plan *loaded, const char *text, const json_t *rows);

#endif
