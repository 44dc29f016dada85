/* A received frame compared with the nominal one: the time of each part, and the margin of each bit. */
#ifndef DROMIKOS_CHART_DISSECTION_H
#define DROMIKOS_CHART_DISSECTION_H

#include "chart/anatomy.h"
#include "chart/waveform.h"

typedef struct dissection {
    const heard_line *line;
    const heard_frame *heard;
    anatomy parts; /* to be freed with anatomy_clear() */
    guint first_edge;
} dissection;

/* The margin of a bit. */
typedef struct bit_margin {
    int percent;     /* negative: its length doesn't decide the bit */
    guint run;       /* the nominal length */
    double limit_us; /* and the length at which it would be another bit */
} bit_margin;

/* False if the parts of the frame aren't known, or the line ends within it; then nothing is to be freed. */
bool dissection_begin(dissection *begun, const heard_line *line, const heard_frame *heard);

/* Returns the time of an edge of the frame; and the time of a nominal offset. */
double dissection_edge_us(const dissection *frame, guint run);
double dissection_us(const dissection *frame, double nominal_us);

bit_margin dissection_margin(const dissection *frame, const frame_cell *cell);

#endif
