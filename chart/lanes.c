#include "chart/lanes.h"

#include "chart/lane_shapes.h"
#include "chart/scale.h"

#include <math.h>
#include <string.h>

enum { TOP = 76, BOTTOM = 44, LANE_PX = 28, LANE_MAX_PX = 56 };

typedef struct thread {
    uint64_t at_us;
    guint from;
    guint target;
} thread;

struct lanes {
    GPtrArray *rows;
    GArray *threads;
};

static void free_mark(gpointer data)
{
    lane_mark *const unwanted = data;
    g_free(unwanted->text);
    g_free(unwanted->colours);
}

static void free_lane(gpointer data)
{
    lane *const unwanted = data;
    g_free(unwanted->what);
    g_free(unwanted->name);
    g_free(unwanted->note);
    g_array_unref(unwanted->marks);
    g_free(unwanted);
}

lanes *lanes_new(void)
{
    lanes *const made = g_new0(lanes, 1);
    made->rows = g_ptr_array_new_with_free_func(free_lane);
    made->threads = g_array_new(FALSE, FALSE, sizeof(thread));
    return made;
}

void lanes_free(lanes *unwanted)
{
    g_ptr_array_unref(unwanted->rows);
    g_array_unref(unwanted->threads);
    g_free(unwanted);
}

lane *lanes_add(lanes *set, lane_shape shape, const char *what, const char *name)
{
    lane *const added = g_new0(lane, 1);
    *added = (lane){.shape = shape,
                    .what = g_strdup(what),
                    .name = g_strdup(name),
                    .marks = g_array_new(FALSE, FALSE, sizeof(lane_mark)),
                    .row = set->rows->len};
    g_array_set_clear_func(added->marks, free_mark);
    g_ptr_array_add(set->rows, added);
    return added;
}

void lane_note(lane *track, char *note)
{
    track->note = note;
}

lane *lanes_find(const lanes *in, const char *name)
{
    for (guint i = 0; i < in->rows->len; i++) {
        lane *const row = g_ptr_array_index(in->rows, i);
        if (strcmp(row->name, name) == 0) {
            return row;
        }
    }
    return NULL;
}

void lane_mark_add(lane *track, lane_mark mark)
{
    g_array_append_val(track->marks, mark);
}

lane_mark *lane_newest(const lane *track)
{
    return track->marks->len > 0 ? &g_array_index(track->marks, lane_mark, track->marks->len - 1) : NULL;
}

void lanes_thread(lanes *in, uint64_t at_us, const lane *from, const lane *target)
{
    const thread added = {at_us, from->row, target->row};
    g_array_append_val(in->threads, added);
}

static double px_per_us(const lanes_view *view)
{
    return (view->width - LANE_LEFT - LANE_RIGHT) / (double)MAX(view->until_us - view->from_us, 1);
}

double lanes_x(const lanes_view *view, uint64_t at_us)
{
    const uint64_t within_us = CLAMP(at_us, view->from_us, view->until_us);
    return LANE_LEFT + (double)(within_us - view->from_us) * px_per_us(view);
}

bool lanes_have(const lanes_view *view, uint64_t from_us, uint64_t until_us)
{
    return until_us >= view->from_us && from_us <= view->until_us;
}

/* Distance of ticks, with room for their labels. */
static double tick_us(const lanes_view *view)
{
    enum { APART_PX = 90 };
    static const double minute_us = 60e6;
    const double min_us = MAX(APART_PX / px_per_us(view), 1);
    return min_us > minute_us / 2 ? minute_us * scale_tick(MAX(min_us / minute_us, 1)) : scale_tick(min_us);
}

static void draw_time(picture *canvas, const lanes_view *view, double top, double bottom)
{
    const double tick = tick_us(view);
    const unsigned first = (unsigned)ceil((double)view->from_us / tick);
    const unsigned last = (unsigned)floor((double)view->until_us / tick);
    for (unsigned i = first; i <= last; i++) {
        const double at = i * tick;
        const double x = lanes_x(view, (uint64_t)at);
        const double line[] = {x, top, x, bottom + 5};
        g_autofree char *text = scale_time_text(at);
        const picture_type type = {12, false, x + 30 > view->width ? TEXT_UP_TO : TEXT_AROUND, INK_PLAIN};
        picture_line(canvas, line, 2, INK_FAINT, 0.5);
        picture_text(canvas, MIN(x, view->width - 4), bottom + 20, type, text);
    }
    const double axis[] = {LANE_LEFT, bottom, view->width - LANE_RIGHT, bottom};
    picture_line(canvas, axis, 2, INK_PLAIN, 1);
}

picture *lanes_draw(const lanes *set, const lanes_view *view)
{
    const guint count = MAX(set->rows->len, 1);
    const double each = CLAMP((view->height - TOP - BOTTOM) / count, LANE_PX, LANE_MAX_PX);
    const double bottom = TOP + each * count;
    const double height = view->is_fitted ? bottom + BOTTOM : MAX(view->height, bottom + BOTTOM);
    picture *const canvas = picture_new(view->width, height, view->is_dark, view->heading);
    bool is_unlabelled = false;
    const double room = view->width - LANE_LEFT - LANE_RIGHT + 140;
    g_autofree char *heading =
        picture_shortened((picture_type){18, true, TEXT_FROM, INK_PLAIN}, view->heading, room);
    g_autofree char *below =
        picture_shortened((picture_type){13, false, TEXT_FROM, INK_PLAIN}, view->below, room);
    picture_text(canvas, 20, 32, (picture_type){18, true, TEXT_FROM, INK_PLAIN}, heading);
    picture_text(canvas, 20, 54, (picture_type){13, false, TEXT_FROM, INK_PLAIN}, below);
    draw_time(canvas, view, TOP, bottom);
    for (guint i = 0; i < set->threads->len; i++) {
        const thread *const drawn = &g_array_index(set->threads, thread, i);
        if (lanes_have(view, drawn->at_us, drawn->at_us)) {
            const double x = lanes_x(view, drawn->at_us);
            const double line[] = {x, TOP + each * (drawn->from + 0.5), x,
                                   TOP + each * (drawn->target + 0.5)};
            picture_line(canvas, line, 2, INK_FAINT, 1);
        }
    }
    for (guint i = 0; i < set->rows->len; i++) {
        pen with = {view, canvas, TOP + each * i, each, LANE_LEFT, 0, 0};
        lane_draw(&with, g_ptr_array_index(set->rows, i));
        is_unlabelled |= with.unlabelled > 0;
    }
    if (is_unlabelled) {
        picture_text(
            canvas, 20, bottom + 38, (picture_type){12, false, TEXT_FROM, INK_FAINT},
            "+7 beside a name: 7 labels did not fit; draw a wider picture, or less time (--from, --for)");
    }
    return canvas;
}
