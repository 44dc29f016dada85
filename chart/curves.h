/* Measured curves of a bench: a CSV of points, drawn as small figures side by side. */
#ifndef DROMIKOS_CHART_CURVES_H
#define DROMIKOS_CHART_CURVES_H

#include "chart/picture.h"

#include "chart/report.h"

typedef struct curves curves;

/* True for the first bytes of such a file. */
bool curves_begin(const char *head);

/* Reads a file: figure, x and y (the axes), curve, at, value. Faults go to `faults`; NULL if there was an
 * error. */
curves *curves_read(const char *path, report *faults);
void curves_free(curves *unwanted);

picture *curves_draw(const curves *set, double width, double height, bool is_dark);

#endif
