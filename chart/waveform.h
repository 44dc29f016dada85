/* A receiver's output: as a waveform with its bits, or, if it is longer, as an overview. */
#ifndef DROMIKOS_CHART_WAVEFORM_H
#define DROMIKOS_CHART_WAVEFORM_H

#include "chart/picture.h"

#include "capture/capture.h"

#include "dromikos/encode.h"

typedef struct heard_frame {
    uint64_t at_us;
    drom_frame frame;
} heard_frame;

typedef struct heard_line {
    GArray *edges;      /* of capture_edge */
    GArray *frames;     /* of heard_frame, with unknown bursts */
    GArray *presses;    /* of uint64_t: the first frame of each press */
    const char *advice; /* if nothing was recognised: what was received */
} heard_line;

static inline const capture_edge *heard_edge(const heard_line *heard, guint i)
{
    return &g_array_index(heard->edges, capture_edge, i);
}

static inline const heard_frame *heard_frame_at(const heard_line *heard, guint i)
{
    return &g_array_index(heard->frames, heard_frame, i);
}

typedef struct waveform_view {
    unsigned press; /* from 1; 0: all, or from from_us to until_us */
    uint64_t from_us;
    uint64_t until_us;
    double width;
    double height;
    bool is_fitted; /* only as high as needed */
    bool is_dark;
    bool is_mark_high; /* inverted: like the carrier, not like the pin */
} waveform_view;

picture *waveform_draw(const heard_line *heard, const waveform_view *view);

#endif
