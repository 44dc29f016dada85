#include "chart/curves.h"

#include "chart/scale.h"

#include "plan/text/csv_table.h"

#include <math.h>
#include <string.h>

enum {
    MAX_CURVES = 2, /* per figure: there are two colours */
    MAX_FIGURES = 60,
    MARGIN = 20,
    TOP = 92,
    TITLE_PX = 20,
    LEFT_PX = 40, /* of the first figure of a row: the numbers on its left */
    FOOT_PX = 26,
    APART_PX = 14,
    MIN_WIDTH = 180,
    MIN_HEIGHT = 120,
    POINT_PX = 5,
};

typedef struct curve {
    char *name;
    GArray *points; /* x and y alternating, as scale_points() */
} curve;

typedef struct figure {
    char *name;
    curve curves[MAX_CURVES];
    unsigned count;
} figure;

struct curves {
    GArray *figures; /* of figure */
    char *x;
    char *y;
    double from; /* the range of the x axis */
    double until;
    double top; /* the end of the y axis, which begins at 0 */
};

/* A file that is being read. */
typedef struct reading {
    curves *made;
    report *faults;
} reading;

enum column { FIGURE, X, Y, CURVE, AT, VALUE };
static const char *const columns[] = {"figure", "x", "y", "curve", "at", "value", NULL};

static const picture_ink inks[MAX_CURVES] = {INK_HANDSET, INK_OURS};

static void clear_figure(gpointer data)
{
    figure *const unwanted = data;
    for (unsigned i = 0; i < unwanted->count; i++) {
        g_free(unwanted->curves[i].name);
        g_array_unref(unwanted->curves[i].points);
    }
    g_free(unwanted->name);
}

bool curves_begin(const char *head)
{
    return g_str_has_prefix(head, "figure,");
}

void curves_free(curves *unwanted)
{
    g_array_unref(unwanted->figures);
    g_free(unwanted->x);
    g_free(unwanted->y);
    g_free(unwanted);
}

static figure *figure_of(curves *in, const char *name)
{
    for (guint i = 0; i < in->figures->len; i++) {
        if (strcmp(g_array_index(in->figures, figure, i).name, name) == 0) {
            return &g_array_index(in->figures, figure, i);
        }
    }
    if (in->figures->len == MAX_FIGURES) {
        return NULL;
    }
    const figure made = {.name = g_strdup(name)};
    g_array_append_val(in->figures, made);
    return &g_array_index(in->figures, figure, in->figures->len - 1);
}

static curve *curve_of(figure *in, const char *name)
{
    for (unsigned i = 0; i < in->count; i++) {
        if (strcmp(in->curves[i].name, name) == 0) {
            return &in->curves[i];
        }
    }
    if (in->count == MAX_CURVES) {
        return NULL;
    }
    in->curves[in->count] = (curve){g_strdup(name), scale_points()};
    return &in->curves[in->count++];
}

static bool take_number(const reading *in, const cell *from, double *number)
{
    char *end = NULL;
    *number = g_ascii_strtod(from->text, &end);
    const bool is_number = end != from->text && *end == '\0' && isfinite(*number) && fabs(*number) < 1e9;
    if (!is_number) {
        report_error(in->faults, from->where, "'%s' is no number", from->text);
    }
    return is_number;
}

static void take_point(void *context, const cell *const *cells)
{
    const reading *const in = context;
    curves *const made = in->made;
    double x = 0;
    double y = 0;
    if (!take_number(in, cells[AT], &x) || !take_number(in, cells[VALUE], &y)) {
        return;
    }
    if (y < 0) {
        report_error(in->faults, cells[VALUE]->where, "a value is 0 or more");
        return;
    }
    figure *const drawn = figure_of(made, cells[FIGURE]->text);
    curve *const line = drawn != NULL ? curve_of(drawn, cells[CURVE]->text) : NULL;
    if (line == NULL) {
        report_error(in->faults, cells[drawn != NULL ? CURVE : FIGURE]->where,
                     "there can be %d figures, with %d curves each", MAX_FIGURES, MAX_CURVES);
        return;
    }
    if (made->x == NULL) {
        made->x = g_strdup(cells[X]->text);
        made->y = g_strdup(cells[Y]->text);
        made->from = x;
        made->until = x;
    }
    made->from = MIN(made->from, x);
    made->until = MAX(made->until, x);
    made->top = MAX(made->top, y);
    scale_add_point(line->points, x, y);
}

static const csv_kind kind = {
    .columns = columns, .head = "figure,x,y,curve,at,value", .take_row = take_point};

curves *curves_read(const char *path, report *faults)
{
    reading in = {g_new0(curves, 1), faults};
    in.made->figures = g_array_new(FALSE, FALSE, sizeof(figure));
    g_array_set_clear_func(in.made->figures, clear_figure);
    const bool is_read = csv_table_read(path, &kind, faults, &in);
    if (is_read && report_errors(faults) == 0 && in.made->figures->len == 0) {
        report_error(faults, (place){0}, "has no points");
    }
    if (!is_read || report_errors(faults) > 0) {
        curves_free(in.made);
        return NULL;
    }
    in.made->until = in.made->until > in.made->from ? in.made->until : in.made->from + 1;
    in.made->top = in.made->top > 0 ? in.made->top : 1;
    return in.made;
}

/* The place of a figure. */
typedef struct frame {
    double left; /* of the area inside its axes */
    double right;
    double top;
    double base;
} frame;

static double x_in(const curves *set, const frame *in, double x)
{
    return in->left + (x - set->from) / (set->until - set->from) * (in->right - in->left);
}

static double y_in(const curves *set, const frame *in, double y)
{
    return in->base - y / set->top * (in->base - in->top);
}

static void draw_axes(picture *canvas, const curves *set, const frame *in)
{
    const picture_type numbers = {12, false, TEXT_AROUND, INK_PLAIN};
    const picture_type side = {12, false, TEXT_UP_TO, INK_PLAIN};
    const double axes[] = {in->left, in->top, in->left, in->base, in->right, in->base};
    const double tick = scale_tick((set->until - set->from) / MAX((in->right - in->left) / 50, 1));
    picture_line(canvas, axes, 3, INK_FAINT, 1);
    for (long i = lround(ceil(set->from / tick)); i <= lround(floor(set->until / tick + 1e-3)); i++) {
        g_autofree char *text = g_strdup_printf("%.4g", (double)i * tick);
        const double at = x_in(set, in, (double)i * tick);
        const double mark[] = {at, in->base, at, in->base + 4};
        picture_line(canvas, mark, 2, INK_FAINT, 1);
        picture_text(canvas, at, in->base + 17, numbers, text);
    }
    const double step = scale_tick(set->top / MAX((in->base - in->top) / 24, 1));
    for (long i = 0; i <= lround(floor(set->top / step + 1e-3)); i++) {
        const double at = y_in(set, in, (double)i * step);
        const double across[] = {in->left, at, in->right, at};
        g_autofree char *text = g_strdup_printf("%.4g", (double)i * step);
        picture_line(canvas, across, 2, INK_FAINT, 0.5);
        picture_text(canvas, in->left - 6, at + (i > 0 ? 4 : 0), side, text);
    }
}

/* The limit, for figures in percent of a budget. */
static void draw_budget(picture *canvas, const curves *set, const frame *in)
{
    static const double budget = 100;
    const double at = y_in(set, in, budget);
    const double across[] = {in->left, at, in->right, at};
    if (strstr(set->y, "budget") != NULL && set->top >= budget) {
        picture_line(canvas, across, 2, INK_PLAIN, 1.5);
        picture_text(canvas, in->right, at - 4, (picture_type){12, true, TEXT_UP_TO, INK_PLAIN}, "budget");
    }
}

static void put_point(picture *canvas, double x, double y, picture_ink ink)
{
    picture_box(canvas, x - POINT_PX / 2.0, y - POINT_PX / 2.0, POINT_PX, POINT_PX, ink, FILL_SOLID);
}

/* The second curve has marked points, to be distinguished without colours. */
static void draw_curve(picture *canvas, const curves *set, const frame *in, const curve *drawn,
                       picture_ink ink, bool has_points)
{
    GArray *const points = scale_points();
    const double *const measured = (const double *)(const void *)drawn->points->data;
    picture_begin(canvas, "curve", drawn->name);
    for (size_t i = 0; i < drawn->points->len; i++) {
        const double x = x_in(set, in, measured[2 * i]);
        const double y = y_in(set, in, measured[2 * i + 1]);
        scale_add_point(points, x, y);
        if (has_points) {
            put_point(canvas, x, y, ink);
        }
    }
    picture_line(canvas, (const double *)(const void *)points->data, points->len, ink, 2);
    picture_end(canvas);
    g_array_unref(points);
}

/* The names of the first figure's curves, with a sample of each. */
static void draw_names(picture *canvas, const curves *set, double y)
{
    enum { PIECE_PX = 30 };
    const figure *const first = &g_array_index(set->figures, figure, 0);
    double x = MARGIN;
    for (unsigned i = 0; i < MIN(first->count, MAX_CURVES); i++) {
        const picture_type type = {12, false, TEXT_FROM, INK_PLAIN};
        const double piece[] = {x, y - 4, x + PIECE_PX, y - 4};
        picture_line(canvas, piece, 2, inks[i], 2);
        if (i > 0) {
            put_point(canvas, x + PIECE_PX / 2.0, y - 4, inks[i]);
        }
        picture_text(canvas, x + PIECE_PX + 6, y, type, first->curves[i].name);
        x += PIECE_PX + 30 + picture_width_of(type, first->curves[i].name);
    }
}

picture *curves_draw(const curves *set, double width, double height, bool is_dark)
{
    const unsigned count = set->figures->len;
    const double max = floor((width - MARGIN) / (MIN_WIDTH + APART_PX));
    const unsigned columns_of = (unsigned)CLAMP(ceil(sqrt(count * width / height)), 1, MIN(max, count));
    const unsigned rows = (count + columns_of - 1) / columns_of;
    const double cell_width = (width - 2.0 * MARGIN + APART_PX) / columns_of;
    const double room = (height - TOP - MARGIN) / rows;
    const double cell_height = MAX(room, MIN_HEIGHT);
    const picture_type title = {18, true, TEXT_FROM, INK_PLAIN};
    const picture_type name = {12, true, TEXT_FROM, INK_PLAIN};
    g_autofree char *heading = g_strdup_printf("%s, against %s", set->y, set->x);
    g_autofree char *shown = picture_shortened(title, heading, width - 2.0 * MARGIN);
    picture *const canvas = picture_new(width, TOP + rows * cell_height + MARGIN, is_dark, heading);
    picture_text(canvas, MARGIN, 34, title, shown);
    draw_names(canvas, set, 62);
    for (unsigned i = 0; i < count; i++) {
        const figure *const drawn = &g_array_index(set->figures, figure, i);
        const unsigned row = i / columns_of;
        const double x = MARGIN + i % columns_of * cell_width;
        const double y = TOP + row * cell_height;
        const frame in = {x + LEFT_PX, x + cell_width - APART_PX - 8, y + TITLE_PX,
                          y + cell_height - FOOT_PX - 8};
        g_autofree char *called = picture_shortened(name, drawn->name, cell_width - LEFT_PX - APART_PX);
        picture_begin(canvas, "figure", drawn->name);
        picture_text(canvas, in.left, y + 12, name, called);
        draw_axes(canvas, set, &in);
        draw_budget(canvas, set, &in);
        for (unsigned j = 0; j < MIN(drawn->count, MAX_CURVES); j++) {
            draw_curve(canvas, set, &in, &drawn->curves[j], inks[j], j > 0);
        }
        picture_end(canvas);
    }
    return canvas;
}
