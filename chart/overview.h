/* Everything that a receiver has shown, over the whole time: bursts, frames, and their margins. */
#ifndef DROMIKOS_CHART_OVERVIEW_H
#define DROMIKOS_CHART_OVERVIEW_H

#include "chart/waveform.h"

picture *overview_draw(const heard_line *listened, const waveform_view *view);

/* Returns the last change of the line; 0: none. */
uint64_t overview_last_edge(const heard_line *heard);

#endif
