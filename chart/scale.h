/* Scales of pictures: ticks at round numbers, times in words, and the points of a line. */
#ifndef DROMIKOS_CHART_SCALE_H
#define DROMIKOS_CHART_SCALE_H

#include <glib.h>

/* Returns 1, 2 or 5 times a power of ten, at least `least`, which is positive. */
double scale_tick(double min);

/* "560 µs", "13.5 ms", "2 s", "10 min". To be freed. */
char *scale_time_text(double us);

/* Points of picture_line() and picture_shape(): an array of alternating x and y, to be unreferenced. */
GArray *scale_points(void);
void scale_add_point(GArray *points, double x, double y);

#endif
