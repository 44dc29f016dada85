/* All that a receiver has shown, over all the time: bursts, frames, and how good each was. */
#ifndef DROMIKOS_CHART_OVERVIEW_H
#define DROMIKOS_CHART_OVERVIEW_H

#include "waveform.h"

picture *overview_draw(const heard_line *listened, const waveform_view *view);

/* When the line changed last; 0: it never did. */
uint64_t overview_last_edge(const heard_line *heard);

#endif
