/* The lanes of a rehearsal, from its rows. */
#ifndef DROMIKOS_CHART_REHEARSED_H
#define DROMIKOS_CHART_REHEARSED_H

#include "chart/lanes.h"
#include "chart/row.h"
#include "plan/model/plan.h"

typedef struct rehearsed {
    lanes *lanes;
    char *heading;
    char *below;
    uint64_t until_us; /* the last event, and some time more */
    GArray *presses;   /* of uint64_t: presses received, or their start if it is known */
} rehearsed;

rehearsed rehearsed_of(const plan *rehearsal, const GArray *rows);
void rehearsed_clear(rehearsed *unwanted);

#endif
