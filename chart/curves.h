/* Measured curves, as a bench writes them: a CSV of points, drawn as one small figure beside the other. */
#ifndef DROMIKOS_CHART_CURVES_H
#define DROMIKOS_CHART_CURVES_H

#include "picture.h"

#include "report.h"

typedef struct curves curves;

/* True for the first bytes of such a file. */
bool curves_begin(const char *head);

/* Reads one: figure, x and y (what is measured against what), curve, at, value. Faults go to `faults`; NULL
 * when there was an error among them. */
curves *curves_read(const char *path, report *faults);
void curves_free(curves *unwanted);

picture *curves_draw(const curves *set, double width, double height, bool is_dark);

#endif
