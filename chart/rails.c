/* The supplies of a wiring sheet, and the common ground. */
#include "chart/wiring_sheet.h"

#include "chart/scale.h"
#include "chart/wiring_notes.h"

#include <string.h>

enum {
    SUPPLY_PX = 14,     /* from a box to its own supply */
    FIRST_RAIL_PX = 30, /* to the first of the board's rails */
    RAIL_PX = 12,       /* and from that to the next */
    TAP_PX = 7,         /* from the board to the line up from its pin */
    RAIL_ROW_PX = 22,   /* from one rail's height to the next */
    DOT_PX = 6,
};

static const picture_type plain = {12, false, TEXT_FROM, INK_PLAIN};

/* A place at this distance from the boxes of a side, towards the sheet's edge. */
static double beside(const wiring_sheet *in, bool is_left, double px)
{
    return is_left ? MARGIN + BESIDE_PX - px : in->width - MARGIN - BESIDE_PX + px;
}

static double rail_x(const wiring_sheet *in, bool is_left, guint number)
{
    return beside(in, is_left, FIRST_RAIL_PX + (double)RAIL_PX * number);
}

static double ground_x(const wiring_sheet *in, bool is_left)
{
    return beside(in, is_left, BESIDE_PX);
}

static void put_dot(const wiring_sheet *in, double x, double y, picture_ink ink)
{
    picture_box(in->canvas, x - DOT_PX / 2.0, y - DOT_PX / 2.0, DOT_PX, DOT_PX, ink, FILL_SOLID);
}

static void put_line(const wiring_sheet *in, double x, double y, double to_x, double to_y, picture_ink ink)
{
    const double line[] = {x, y, to_x, to_y};
    picture_line(in->canvas, line, 2, ink, 1.5);
}

static const box *box_at(const side *at, guint i)
{
    return g_ptr_array_index(at->boxes, i);
}

static const char *owner_of(const box *part)
{
    return g_array_index(part->wires, drawn_wire, 0).stage->owner;
}

double rails_lay_out(wiring_sheet *in, double top)
{
    for (guint i = 0; i < in->all->stages->len; i++) {
        const circuit_stage *const stage = &g_array_index(in->all->stages, circuit_stage, i);
        const circuit_net *const feed = circuit_net_at(in->all, stage->feed);
        const bool is_fed = feed->is_boards && stage->form != FORM_LED && stage->form != FORM_CONTACT;
        guint known = 0;
        while (is_fed && known < in->rail_count && strcmp(in->rails[known].pin, feed->name) != 0) {
            known++;
        }
        if (is_fed && known == in->rail_count && known < MAX_RAILS) {
            in->rails[in->rail_count++] = (rail){feed->name, top + 1.0 * RAIL_ROW_PX * known};
        }
    }
    return top + 1.0 * RAIL_ROW_PX * in->rail_count;
}

/* The long plate is plus. */
static void draw_supply(const wiring_sheet *in, double x, double from_y, double to_y)
{
    enum { LONG_PX = 8, SHORT_PX = 4, PLATES_PX = 5 };
    const double plus = (from_y + to_y - PLATES_PX) / 2;
    const double minus = plus + PLATES_PX;
    const double short_plate[] = {x - SHORT_PX, minus, x + SHORT_PX, minus};
    put_line(in, x, from_y, x, plus, INK_SUPPLY);
    put_line(in, x - LONG_PX, plus, x + LONG_PX, plus, INK_SUPPLY);
    picture_line(in->canvas, short_plate, 2, INK_PLAIN, 3);
    put_line(in, x, minus, x, to_y, INK_PLAIN);
    put_dot(in, x, to_y, INK_PLAIN);
}

void rails_draw_feeding(const wiring_sheet *in, const side *at, const box *part)
{
    const char *const fed_by = wiring_fed_by(in, part);
    const double edge = beside(in, at->is_left, 0);
    const double ground = ground_x(in, at->is_left);
    if (wiring_has_ground(part)) {
        put_line(in, edge, part->ground_y, ground, part->ground_y, INK_PLAIN);
        put_dot(in, ground, part->ground_y, INK_PLAIN);
    }
    if (part->supply_y <= 0) {
        return;
    }
    picture_begin(in->canvas, "feeding", owner_of(part));
    if (fed_by == NULL) {
        const double x = beside(in, at->is_left, SUPPLY_PX);
        put_line(in, edge, part->supply_y, x, part->supply_y, INK_SUPPLY);
        draw_supply(in, x, part->supply_y, part->ground_y);
    }
    for (guint i = 0; i < in->rail_count && fed_by != NULL; i++) {
        if (strcmp(in->rails[i].pin, fed_by) == 0) {
            const double x = rail_x(in, at->is_left, i);
            put_line(in, edge, part->supply_y, x, part->supply_y, INK_SUPPLY);
            put_dot(in, x, part->supply_y, INK_SUPPLY);
        }
    }
    picture_end(in->canvas);
}

static bool is_fed_by(const wiring_sheet *in, const box *part, const rail *from)
{
    const char *const pin = wiring_fed_by(in, part);
    return part->supply_y > 0 && pin != NULL && strcmp(pin, from->pin) == 0;
}

/* Returns the height of the lowest thing that a rail feeds at a side; 0: none. */
static double fed_down_to(const wiring_sheet *in, const side *at, const rail *from)
{
    double last_y = 0;
    for (guint i = 0; i < at->boxes->len; i++) {
        last_y = is_fed_by(in, box_at(at, i), from) ? box_at(at, i)->supply_y : last_y;
    }
    return last_y;
}

static bool is_tapped_left(const wiring_sheet *in, const rail *from)
{
    return wiring_row_of(wiring_printed_on(in, true), from->pin) >= 0;
}

/* The place where a rail goes up from its pin. */
static double tap_x(const wiring_sheet *in, guint number)
{
    const bool is_left = is_tapped_left(in, &in->rails[number]);
    return wiring_board_edge(in, is_left) + (is_left ? -1 : 1) * (double)TAP_PX * (number + 1);
}

/* The end of a rail's row towards a side. */
static double row_end(const wiring_sheet *in, bool is_left, guint number)
{
    const side *const at = &in->sides[is_left ? 0 : 1];
    return fed_down_to(in, at, &in->rails[number]) > 0 ? rail_x(in, is_left, number) : tap_x(in, number);
}

/* The rows of the lower rails that a vertical line crosses. */
static void add_rows(const wiring_sheet *in, guint number, double x, GArray *heights)
{
    for (guint i = number + 1; i < in->rail_count; i++) {
        if (row_end(in, true, i) < x && x < row_end(in, false, i)) {
            g_array_append_val(heights, in->rails[i].y);
        }
    }
}

static void draw_vertical(const wiring_sheet *in, double x, double from_y, double to_y, GArray *heights)
{
    g_autoptr(GArray) points = scale_points();
    scale_add_point(points, x, from_y);
    wiring_add_hops(points, x, heights, to_y > from_y);
    scale_add_point(points, x, to_y);
    picture_line(in->canvas, (const double *)(const void *)points->data, points->len, INK_SUPPLY, 2);
}

/* Down one side, past other things: grounds, and loads of a rail further out. */
static void draw_down(const wiring_sheet *in, const side *at, guint number)
{
    const rail *const from = &in->rails[number];
    const double x = rail_x(in, at->is_left, number);
    const double last_y = fed_down_to(in, at, from);
    g_autoptr(GArray) heights = g_array_new(FALSE, FALSE, sizeof(double));
    if (last_y <= 0) {
        return;
    }
    add_rows(in, number, x, heights);
    for (guint i = 0; i < at->boxes->len; i++) {
        const box *const part = box_at(at, i);
        for (guint j = number + 1; j < in->rail_count && part->supply_y < last_y; j++) {
            if (is_fed_by(in, part, &in->rails[j])) {
                g_array_append_val(heights, part->supply_y);
            }
        }
        if (part->ground_y < last_y && wiring_has_ground(part)) {
            g_array_append_val(heights, part->ground_y);
        }
    }
    draw_vertical(in, x, from->y, last_y, heights);
}

/* From the pin up to the rail, past the wires of the pins above. */
static void draw_tap(const wiring_sheet *in, guint number)
{
    const bool is_left = is_tapped_left(in, &in->rails[number]);
    const char *const printed = wiring_printed_on(in, is_left);
    const int row = wiring_row_of(printed, in->rails[number].pin);
    const double x = tap_x(in, number);
    g_autoptr(GArray) heights = g_array_new(FALSE, FALSE, sizeof(double));
    for (guint i = 0; i < in->all->stages->len; i++) {
        const int other = wiring_row_of(printed, g_array_index(in->all->stages, circuit_stage, i).pin);
        if (other >= 0 && other < row) {
            const double y = wiring_pin_y(in, other);
            g_array_append_val(heights, y);
        }
    }
    for (guint i = number + 1; i < in->rail_count; i++) { /* whose taps are further out */
        const int other = wiring_row_of(printed, in->rails[i].pin);
        if (other >= 0 && other < row) {
            const double y = wiring_pin_y(in, other);
            g_array_append_val(heights, y);
        }
    }
    add_rows(in, number, x, heights);
    put_line(in, wiring_board_edge(in, is_left), wiring_pin_y(in, row), x, wiring_pin_y(in, row), INK_SUPPLY);
    draw_vertical(in, x, wiring_pin_y(in, row), in->rails[number].y, heights);
}

static void draw_rail(const wiring_sheet *in, guint number)
{
    const rail *const from = &in->rails[number];
    const double left = row_end(in, true, number);
    const double right = row_end(in, false, number);
    const double tap = tap_x(in, number);
    const double line[] = {left, from->y, right, from->y};
    g_autofree char *text = g_strdup_printf("+ from the board's %s", from->pin);
    const double width = picture_width_of(plain, text);
    draw_tap(in, number);
    draw_down(in, &in->sides[0], number);
    draw_down(in, &in->sides[1], number);
    picture_line(in->canvas, line, 2, INK_SUPPLY, 2);
    picture_text(in->canvas, right > tap ? rail_x(in, false, 0) - width - 10 : rail_x(in, true, 0) + 10,
                 from->y - 5, plain, text);
    if (left < tap && tap < right) {
        put_dot(in, tap, from->y, INK_SUPPLY);
    }
}

/* The common ground of the board and all supplies. */
static void draw_ground(const wiring_sheet *in)
{
    const double x = in->width / 2;
    const double own[] = {x, in->board_top + in->board_height, x, in->ground_y};
    double ends[] = {x, in->ground_y, x, in->ground_y};
    for (guint i = 0; i < G_N_ELEMENTS(in->sides); i++) {
        const side *const at = &in->sides[i];
        const double outer = ground_x(in, at->is_left);
        if (at->boxes->len > 0) {
            const double down[] = {outer, box_at(at, 0)->top, outer, in->ground_y};
            picture_line(in->canvas, down, 2, INK_PLAIN, 2.5);
            ends[2UL * i] = outer;
        }
    }
    picture_line(in->canvas, ends, 2, INK_PLAIN, 2.5);
    picture_line(in->canvas, own, 2, INK_PLAIN, 2.5);
    put_dot(in, x, in->ground_y, INK_PLAIN);
    picture_text(in->canvas, x + 10, in->ground_y - 8, plain,
                 "ground: a GND pin of the board, and the - of each supply");
}

void rails_draw(const wiring_sheet *in)
{
    picture_begin(in->canvas, "rail", "ground");
    draw_ground(in);
    picture_end(in->canvas);
    for (guint i = 0; i < in->rail_count; i++) {
        picture_begin(in->canvas, "rail", in->rails[i].pin);
        draw_rail(in, i);
        picture_end(in->canvas);
    }
}
