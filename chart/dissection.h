/* A frame as it was heard, against how it should be: when each part came, and how far each bit is from being
 * another. */
#ifndef DROMIKOS_CHART_DISSECTION_H
#define DROMIKOS_CHART_DISSECTION_H

#include "anatomy.h"
#include "waveform.h"

typedef struct dissection {
    const heard_line *line;
    const heard_frame *heard;
    anatomy parts; /* to be let go of with anatomy_clear() */
    guint first_edge;
} dissection;

/* How far a bit is from being another one. */
typedef struct bit_margin {
    int percent;     /* below 0: its length doesn't say which bit it is */
    guint run;       /* that says it, */
    double limit_us; /* and from where on it would say another one */
} bit_margin;

/* False where the frame has no parts that are known, or the line ends within it; there is nothing to let go
 * of then. */
bool dissection_begin(dissection *begun, const heard_line *line, const heard_frame *heard);

/* When an edge of the frame was; and when something was that should be so long after its beginning. */
double dissection_edge_us(const dissection *frame, guint run);
double dissection_us(const dissection *frame, double nominal_us);

bit_margin dissection_margin(const dissection *frame, const frame_cell *cell);

#endif
