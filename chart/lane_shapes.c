#include "chart/lane_shapes.h"

#include "chart/scale.h"

#include <math.h>

enum {
    MAX_LABELS = 25, /* of a lane */
    PAD = 4,
    MIN_PX = 2, /* the minimum width of a mark */
    NAME_PX = 140,
    NOTE_PX = 13,     /* below the name */
    MIN_LABEL_PX = 60 /* the shortest label */
};

static const picture_type small = {12, false, TEXT_FROM, INK_PLAIN};

static const lane_mark *mark_at(const lane *track, guint i)
{
    return &g_array_index(track->marks, lane_mark, i);
}

/* Returns the end of a mark's state. */
static uint64_t lasts_until(const lane *track, guint i, const lanes_view *view)
{
    return i + 1 < track->marks->len ? mark_at(track, i + 1)->at_us : view->until_us;
}

/* Writes a text if there is room up to `end`; else counts it. */
static void put_label(pen *with, double x, double y, double end, picture_type type, const char *text)
{
    const double width = picture_width_of(type, text);
    if (x < with->free_from || x + width > end || with->labels == MAX_LABELS) {
        with->unlabelled++;
        return;
    }
    if (type.ink != INK_GROUND) { /* so that no line crosses it */
        picture_box(with->canvas, x - 1, y - 12, width + 2, 16, INK_GROUND, FILL_SOLID);
    }
    picture_text(with->canvas, x, y, type, text);
    with->free_from = x + width + PAD;
    with->labels++;
}

/* A warning: reverse video, with a "!". */
static void put_alert(pen *with, double x, const char *text)
{
    g_autofree char *said = g_strdup_printf("! %s", text);
    const picture_type type = {12, true, TEXT_FROM, INK_GROUND};
    const double width = picture_width_of(type, said) + 2.0 * PAD;
    const double left = MAX(MIN(x, with->view->width - LANE_RIGHT - width), with->free_from);
    if (left + width > with->view->width - LANE_RIGHT + 1 || with->labels == MAX_LABELS) {
        with->unlabelled++;
        picture_box(with->canvas, x, with->top + 4, MIN_PX, 20, INK_PLAIN, FILL_SOLID);
        return;
    }
    with->labels++;
    picture_box(with->canvas, left, with->top + 4, width, 20, INK_PLAIN, FILL_SOLID);
    picture_text(with->canvas, left + PAD, with->top + 18, type, said);
    with->free_from = left + width + PAD;
}

static double middle(const pen *with)
{
    return with->top + with->height / 2 + 4;
}

/* Returns the end of the boxes that follow one closely without a text: repeats. */
static guint last_of_run(const pen *with, const lane *track, guint i)
{
    enum { CLOSE_PX = 40 };
    while (i + 1 < track->marks->len && mark_at(track, i + 1)->text == NULL &&
           mark_at(track, i + 1)->ink == mark_at(track, i)->ink &&
           lanes_x(with->view, mark_at(track, i + 1)->at_us) <
               lanes_x(with->view, mark_at(track, i)->until_us) + CLOSE_PX) {
        i++;
    }
    return i;
}

static void label_box(pen *with, const lane *track, guint i)
{
    const lane_mark *const mark = mark_at(track, i);
    const guint last = last_of_run(with, track, i);
    const double x = lanes_x(with->view, mark->at_us);
    const double own_end = MAX(lanes_x(with->view, mark->until_us), x + MIN_PX);
    const double end = MAX(lanes_x(with->view, mark_at(track, last)->until_us), own_end);
    const double next = last + 1 < track->marks->len ? lanes_x(with->view, mark_at(track, last + 1)->at_us)
                                                     : with->view->width;
    const picture_type inside = {12, false, TEXT_FROM, INK_GROUND};
    const picture_type beside = {12, false, TEXT_FROM, mark->ink};
    if (picture_width_of(inside, mark->text) + 2 * PAD <= own_end - x) {
        put_label(with, x + PAD, middle(with), own_end, inside, mark->text);
    } else {
        put_label(with, end + PAD, middle(with), next - PAD, beside, mark->text);
    }
}

/* Marks narrower than a pixel get a visible width; overlapping ones are merged. */
static void draw_boxes(pen *with, const lane *track)
{
    double drawn_until = 0;
    for (guint i = 0; i < track->marks->len; i++) {
        const lane_mark *const mark = mark_at(track, i);
        const double x = lanes_x(with->view, mark->at_us);
        const double width = MAX(lanes_x(with->view, mark->until_us) - x, MIN_PX);
        if (!lanes_have(with->view, mark->at_us, mark->until_us) || mark->is_alert ||
            x + width <= drawn_until) {
            continue;
        }
        picture_box(with->canvas, x, with->top + 5, width, with->height - 10, mark->ink, FILL_SOLID);
        drawn_until = x + width;
    }
    for (guint i = 0; i < track->marks->len; i++) {
        const lane_mark *const mark = mark_at(track, i);
        if (!lanes_have(with->view, mark->at_us, mark->until_us) || mark->text == NULL) {
            continue;
        }
        if (mark->is_alert) {
            put_alert(with, lanes_x(with->view, mark->at_us), mark->text);
        } else {
            label_box(with, track, i);
        }
    }
}

static void draw_words(pen *with, const lane *track)
{
    for (guint i = 0; i < track->marks->len; i++) {
        const lane_mark *const mark = mark_at(track, i);
        const uint64_t until_us = lasts_until(track, i, with->view);
        if (!lanes_have(with->view, mark->at_us, until_us)) {
            continue;
        }
        const double x = lanes_x(with->view, mark->at_us);
        const double end = lanes_x(with->view, until_us);
        const double tick[] = {x, with->top + 5, x, with->top + with->height - 5};
        picture_line(with->canvas, tick, 2, INK_PLAIN, 1);
        const double room = end - x - 2 * PAD;
        g_autofree char *text =
            room < MIN_LABEL_PX ? g_strdup(mark->text) : picture_shortened(small, mark->text, room);
        put_label(with, x + PAD, middle(with), end - PAD, small, text);
    }
}

static void draw_base(const pen *with, double y)
{
    const double line[] = {LANE_LEFT, y, with->view->width - LANE_RIGHT, y};
    picture_line(with->canvas, line, 2, INK_FAINT, 1);
}

/* A shape from the base line up, or down, with steps. */
/* A light with a colour shows it, below an edge of ink. */
static void fill_with_colours(pen *with, const lane *track, double base)
{
    enum { EDGE_PX = 2 };
    const double room = with->height - 8;
    for (guint i = 0; i < track->marks->len; i++) {
        const lane_mark *const mark = mark_at(track, i);
        const uint64_t until_us = lasts_until(track, i, with->view);
        const double height = mark->value * room - EDGE_PX;
        if (mark->colour_count > 0 && height > 0 && lanes_have(with->view, mark->at_us, until_us)) {
            const double x =
                floor(MAX(lanes_x(with->view, mark->at_us), LANE_LEFT)); /* whole pixels: no seams */
            const double end = floor(MIN(lanes_x(with->view, until_us), with->view->width - LANE_RIGHT));
            if (end > x) {
                picture_colour(with->canvas, x, base - height, end - x, height, mark->colours[0]);
            }
        }
    }
}

static void draw_values(pen *with, const lane *track)
{
    const bool is_signed = track->shape == LANE_SIGNED;
    const double room = with->height - 8;
    const double base = with->top + 4 + (is_signed ? room / 2 : room);
    g_autoptr(GArray) points = scale_points();
    draw_base(with, base);
    double level = base;
    scale_add_point(points, LANE_LEFT, base);
    for (guint i = 0; i < track->marks->len; i++) {
        const lane_mark *const mark = mark_at(track, i);
        const uint64_t until_us = lasts_until(track, i, with->view);
        if (!lanes_have(with->view, mark->at_us, until_us)) {
            continue;
        }
        const double x = lanes_x(with->view, mark->at_us);
        const double end = MAX(lanes_x(with->view, until_us), mark->value != 0 ? x + MIN_PX : x);
        const double y = base - mark->value * room / (is_signed ? 2 : 1);
        scale_add_point(points, x, level);
        scale_add_point(points, x, y);
        scale_add_point(points, MIN(end, with->view->width - LANE_RIGHT), y);
        level = y;
    }
    scale_add_point(points, with->view->width - LANE_RIGHT, level);
    scale_add_point(points, with->view->width - LANE_RIGHT, base);
    picture_shape(with->canvas, (const double *)(const void *)points->data, points->len, INK_PLAIN);
    fill_with_colours(with, track, base);
}

static void find_limits(const lane *track, double *min, double *max)
{
    for (guint i = 0; i < track->marks->len; i++) {
        *min = i == 0 ? mark_at(track, i)->value : MIN(*min, mark_at(track, i)->value);
        *max = i == 0 ? mark_at(track, i)->value : MAX(*max, mark_at(track, i)->value);
    }
}

static void draw_place(pen *with, const lane *track)
{
    double min = 0;
    double max = 0;
    find_limits(track, &min, &max);
    g_autoptr(GArray) points = scale_points();
    for (guint i = 0; i < track->marks->len; i++) {
        const lane_mark *const mark = mark_at(track, i);
        const double share = max > min ? (mark->value - min) / (max - min) : 0;
        const double y = with->top + with->height - 5 - share * (with->height - 10);
        const uint64_t until_us = lasts_until(track, i, with->view);
        if (!lanes_have(with->view, mark->at_us, until_us)) {
            continue;
        }
        scale_add_point(points, lanes_x(with->view, mark->at_us), y);
        scale_add_point(points, lanes_x(with->view, until_us), y);
    }
    if (points->len > 1) {
        picture_line(with->canvas, (const double *)(const void *)points->data, points->len, INK_PLAIN, 2);
    }
}

/* The place of a state's text, so that it hides nothing of the curve: within the shape, or on the side of the
 * line or base with room. */
static double label_y(const pen *with, const lane *track, const lane_mark *mark, double share,
                      picture_ink *ink)
{
    enum { TEXT_PX = 15, ABOVE_PX = 3, BELOW_PX = 13 };
    const double room = with->height - 8;
    const double base = with->top + 4 + (track->shape == LANE_SIGNED ? room / 2 : room);
    *ink = INK_PLAIN;
    if (track->shape == LANE_PLACE) {
        const double y = with->top + with->height - 5 - share * (with->height - 10);
        return share < 0.5 ? y - ABOVE_PX : y + BELOW_PX;
    }
    if (track->shape == LANE_SIGNED) {
        return mark->value > 0 ? base + BELOW_PX : base - ABOVE_PX;
    }
    if (mark->value * room >= TEXT_PX) {
        *ink = INK_GROUND;
        return base - ABOVE_PX;
    }
    return base - mark->value * room - ABOVE_PX;
}

/* Only a state that lasts has a text. */
static void label_values(pen *with, const lane *track)
{
    double min = 0;
    double max = 0;
    find_limits(track, &min, &max);
    for (guint i = 0; i < track->marks->len; i++) {
        const lane_mark *const mark = mark_at(track, i);
        const uint64_t until_us = lasts_until(track, i, with->view);
        const double x = lanes_x(with->view, mark->at_us);
        const double end = lanes_x(with->view, until_us);
        if (mark->text == NULL || !lanes_have(with->view, mark->at_us, until_us)) {
            continue;
        }
        const double width = picture_width_of(small, mark->text);
        if (x + PAD < with->free_from || x + width + 3 * PAD > end) {
            continue; /* passed through, or too short to read: the shape shows it */
        }
        if (with->labels == MAX_LABELS) {
            with->unlabelled++;
            continue;
        }
        picture_ink ink = INK_PLAIN;
        const double share = max > min ? (mark->value - min) / (max - min) : 0;
        const double y = label_y(with, track, mark, share, &ink);
        if (mark->colour_count > 0 && ink == INK_GROUND) { /* on any colour */
            picture_box(with->canvas, x + PAD, y - 12, width + 2 * PAD, 16, INK_GROUND, FILL_SOLID);
            ink = INK_PLAIN;
        }
        picture_text(with->canvas, x + 2 * PAD, y, (picture_type){12, false, TEXT_FROM, ink}, mark->text);
        with->free_from = x + width + 4 * PAD;
        with->labels++;
    }
}

/* An ordered state that isn't reached yet. */
static void draw_waits(pen *with, const lane *track)
{
    for (guint i = 0; i < track->marks->len; i++) {
        const lane_mark *const mark = mark_at(track, i);
        const uint64_t until_us = lasts_until(track, i, with->view);
        if (mark->is_waiting && lanes_have(with->view, mark->at_us, until_us)) {
            const double x = lanes_x(with->view, mark->at_us);
            const double end = MAX(lanes_x(with->view, until_us), x + MIN_PX);
            picture_box(with->canvas, x, with->top + 5, end - x, with->height - 9, INK_PLAIN, FILL_HATCHED);
            const bool is_inside = picture_width_of(small, mark->text) + 2 * PAD <= end - x;
            put_label(with, (is_inside ? x : end) + PAD, middle(with), with->view->width - LANE_RIGHT, small,
                      mark->text);
        }
    }
}

/* A limit or an end. */
static void draw_ends(const pen *with, const lane *track)
{
    enum { BAR_PX = 4 };
    for (guint i = 0; i < track->marks->len; i++) {
        const lane_mark *const mark = mark_at(track, i);
        if (mark->is_end && lanes_have(with->view, mark->at_us, mark->at_us)) {
            picture_box(with->canvas, lanes_x(with->view, mark->at_us) - BAR_PX / 2.0, with->top + 3, BAR_PX,
                        with->height - 6, INK_PLAIN, FILL_SOLID);
        }
    }
}

static void draw_colours(pen *with, const lane *track)
{
    const double room = with->height - 8;
    double drawn_until = LANE_LEFT;
    for (guint i = 0; i < track->marks->len; i++) {
        const lane_mark *const mark = mark_at(track, i);
        const uint64_t until_us = lasts_until(track, i, with->view);
        const double end = lanes_x(with->view, until_us);
        if (!lanes_have(with->view, mark->at_us, until_us) || end < drawn_until + MIN_PX) {
            continue; /* a shorter one is part of the next */
        }
        const double x = MAX(lanes_x(with->view, mark->at_us), drawn_until);
        for (unsigned pixel = 0; pixel < mark->colour_count;) {
            unsigned last = pixel;
            while (last < mark->colour_count && mark->colours[last] == mark->colours[pixel]) {
                last++;
            }
            const double y = with->top + 4 + room * pixel / mark->colour_count;
            picture_colour(with->canvas, x, y, end - x, room * (last - pixel) / mark->colour_count,
                           mark->colours[pixel]);
            pixel = last;
        }
        drawn_until = end;
    }
    picture_box(with->canvas, LANE_LEFT, with->top + 3, with->view->width - LANE_LEFT - LANE_RIGHT, room + 2,
                INK_FAINT, FILL_NONE);
}

void lane_draw(pen *with, const lane *track)
{
    picture_begin(with->canvas, track->what, track->name);
    switch (track->shape) {
    case LANE_BOXES:
        draw_boxes(with, track);
        break;
    case LANE_WORDS:
        draw_words(with, track);
        break;
    case LANE_LEVELS:
        draw_values(with, track);
        draw_waits(with, track);
        break;
    case LANE_LEVEL:
    case LANE_SIGNED:
        draw_values(with, track);
        label_values(with, track);
        break;
    case LANE_PLACE:
        draw_place(with, track);
        label_values(with, track);
        break;
    case LANE_COLOURS:
        draw_colours(with, track);
        break;
    }
    draw_ends(with, track);
    g_autofree char *more = with->unlabelled > 0 ? g_strdup_printf(" +%u", with->unlabelled) : g_strdup("");
    const double room = NAME_PX - picture_width_of(small, more);
    g_autofree char *name = picture_shortened(small, track->name, room);
    g_autofree char *whole = g_strconcat(name, more, NULL);
    const double y = middle(with) - (track->note != NULL ? NOTE_PX / 2.0 : 0);
    picture_text(with->canvas, LANE_LEFT - 12, y, (picture_type){12, false, TEXT_UP_TO, INK_PLAIN}, whole);
    if (track->note != NULL) {
        const picture_type type = {12, false, TEXT_UP_TO, INK_FAINT};
        g_autofree char *note = picture_shortened(type, track->note, NAME_PX);
        picture_text(with->canvas, LANE_LEFT - 12, y + NOTE_PX, type, note);
    }
    picture_end(with->canvas);
}
