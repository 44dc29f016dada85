#include "chart/overview.h"

#include "dromikos/internal/receive.h"

#include "chart/lanes.h"

uint64_t overview_last_edge(const heard_line *heard)
{
    return heard->edges->len > 0 ? heard_edge(heard, heard->edges->len - 1)->at_us : 0;
}

/* Bursts, frames and their margins, over the whole time. */
picture *overview_draw(const heard_line *listened, const waveform_view *view)
{
    lanes *const rows = lanes_new();
    lane *const line = lanes_add(rows, LANE_BOXES, "air", "line");
    lane *const frames = lanes_add(rows, LANE_BOXES, "frames", "frames");
    lane *const margins = lanes_add(rows, LANE_LEVEL, "margins", "margin");
    unsigned known = 0;
    for (guint i = 0; i < listened->edges->len; i++) {
        const uint64_t at_us = heard_edge(listened, i)->at_us;
        lane_mark *const newest = lane_newest(line);
        if (newest != NULL && at_us - newest->until_us < DROM_BURST_GAP_US) {
            newest->until_us = at_us;
        } else {
            lane_mark_add(line, (lane_mark){.at_us = at_us, .until_us = at_us, .ink = INK_HANDSET});
        }
    }
    for (guint i = 0; i < listened->frames->len; i++) {
        const heard_frame *const heard = heard_frame_at(listened, i);
        const drom_frame *const frame = &heard->frame;
        const uint64_t end_us = heard->at_us + frame->lasted_us;
        const bool is_unknown = frame->protocol == &drom_unknown;
        known += !is_unknown;
        lane_mark_add(frames, (lane_mark){.at_us = heard->at_us,
                                          .until_us = end_us,
                                          .text = is_unknown ? g_strdup("unknown")
                                                  : frame->kind == DROM_FRAME_WHOLE
                                                      ? g_strdup_printf("%s %u %u", frame->protocol->id,
                                                                        (unsigned)frame->code.address,
                                                                        frame->code.command)
                                                      : NULL,
                                          .ink = is_unknown ? INK_PLAIN : INK_HANDSET});
        lane_mark_add(margins, (lane_mark){.at_us = heard->at_us,
                                           .value = is_unknown ? 0 : drom_frame_margin(frame) / 100.0});
        lane_mark_add(margins, (lane_mark){.at_us = end_us, .value = 0});
    }
    g_autofree char *heading =
        g_strdup_printf("%u press%s, %u frames read, %u not recognised", listened->presses->len,
                        listened->presses->len == 1 ? "" : "es", known, listened->frames->len - known);
    const lanes_view shown = {
        .heading = heading,
        .below = listened->advice != NULL ? listened->advice : "a press in full: --press N",
        .from_us = view->from_us,
        .until_us = view->until_us > 0
                        ? view->until_us
                        : overview_last_edge(listened) + overview_last_edge(listened) / 50 + 1000,
        .width = view->width,
        .height = view->height,
        .is_fitted = view->is_fitted,
        .is_dark = view->is_dark};
    picture *const drawn = lanes_draw(rows, &shown);
    lanes_free(rows);
    return drawn;
}
