/* Scales of pictures: ticks at round numbers, and times in words; and the points of a line. */
#ifndef DROMIKOS_CHART_SCALE_H
#define DROMIKOS_CHART_SCALE_H

#include <glib.h>

/* 1, 2 or 5 times a power of ten, and `least` or more, which is above 0. */
double scale_tick(double min);

/* "560 µs", "13.5 ms", "2 s", "10 min". To be freed. */
char *scale_time_text(double us);

/* Points of picture_line() and picture_shape(): an array of x and y in turn, to be unreferenced. */
GArray *scale_points(void);
void scale_add_point(GArray *points, double x, double y);

#endif
