#include "chart/wiring.h"

#include "chart/scale.h"
#include "chart/stages.h"
#include "chart/wiring_notes.h"
#include "chart/wiring_sheet.h"
#include "plan/wiring/wiring.h"

#include <math.h>
#include <string.h>

enum {
    TOP = 70,
    PIN_PX = 24, /* from pin to pin */
    BOARD_PX = 150,
    GAP_PX = 14,   /* between boxes */
    NUMBER_PX = 20 /* from the board to a wire's number */
};

static const picture_type plain = {12, false, TEXT_FROM, INK_PLAIN};
static const picture_type strong = {12, true, TEXT_FROM, INK_PLAIN};

static void free_box(gpointer data)
{
    box *const unwanted = data;
    g_array_unref(unwanted->wires);
    g_free(unwanted);
}

/* Returns the row of a pin on a side of the board; -1: it isn't there. */
int wiring_row_of(const char *printed, const char *pin)
{
    g_auto(GStrv) names = g_strsplit(printed, " ", -1);
    for (int i = 0; names[i] != NULL; i++) {
        if (strcmp(names[i], pin) == 0) {
            return i;
        }
    }
    return -1;
}

const char *wiring_printed_on(const wiring_sheet *in, bool is_left)
{
    const board *const chosen = plan_board(in->plan);
    return is_left ? chosen->left : chosen->right;
}

static gint by_row(gconstpointer a, gconstpointer b)
{
    return ((const drawn_wire *)a)->row - ((const drawn_wire *)b)->row;
}

static gint by_mean_row(gconstpointer a, gconstpointer b)
{
    const box *const one = *(const box *const *)a;
    const box *const other = *(const box *const *)b;
    return (one->mean_row > other->mean_row) - (one->mean_row < other->mean_row);
}

static const circuit_stage *stage_of(const box *part)
{
    return g_array_index(part->wires, drawn_wire, 0).stage;
}

static const circuit_stage *fed_stage_of(const box *part)
{
    for (guint i = 0; i < part->wires->len && !part->is_second; i++) {
        const circuit_stage *const stage = g_array_index(part->wires, drawn_wire, i).stage;
        if (stage->form != FORM_LED && stage->form != FORM_CONTACT) {
            return stage;
        }
    }
    return NULL;
}

bool wiring_is_fed(const box *part)
{
    return fed_stage_of(part) != NULL;
}

const char *wiring_fed_by(const wiring_sheet *in, const box *part)
{
    const circuit_stage *const stage = fed_stage_of(part);
    const circuit_net *const feed = stage != NULL ? circuit_net_at(in->all, stage->feed) : NULL;
    return feed != NULL && feed->is_boards ? feed->name : NULL;
}

bool wiring_has_ground(const box *part)
{
    return stage_of(part)->form != FORM_LED_LOW;
}

static box *box_of(const side *flank, const char *owner)
{
    for (guint i = 0; i < flank->boxes->len; i++) {
        box *const known = g_ptr_array_index(flank->boxes, i);
        if (strcmp(stage_of(known)->owner, owner) == 0) {
            return known;
        }
    }
    return NULL;
}

/* A name, its circuits, its supply, and its ground. */
static double height_of(const wiring_sheet *in, const box *part)
{
    double height = ROW_PX * (1.0 + wiring_is_fed(part) + wiring_has_ground(part)) + 12;
    for (guint i = 0; i < part->wires->len; i++) {
        const stage_size size = stage_size_of(in->all, g_array_index(part->wires, drawn_wire, i).stage);
        height += size.above + size.below;
    }
    return height;
}

/* Each wire goes to a box on its pin's side. */
static void make_boxes(wiring_sheet *in)
{
    for (guint i = 0; i < in->all->stages->len; i++) {
        const circuit_stage *const wire = &g_array_index(in->all->stages, circuit_stage, i);
        const bool is_left = wiring_row_of(wiring_printed_on(in, true), wire->pin) >= 0;
        side *const flank = &in->sides[is_left ? 0 : 1];
        const drawn_wire drawn = {.stage = wire,
                                  .number = i + 1,
                                  .row = MAX(wiring_row_of(wiring_printed_on(in, is_left), wire->pin), 0)};
        box *part = box_of(flank, wire->owner);
        if (part == NULL) {
            part = g_new0(box, 1);
            part->wires = g_array_new(FALSE, FALSE, sizeof(drawn_wire));
            g_ptr_array_add(flank->boxes, part);
        }
        g_array_append_val(part->wires, drawn);
    }
    for (guint i = 0; i < in->sides[1].boxes->len; i++) {
        box *const part = g_ptr_array_index(in->sides[1].boxes, i);
        part->is_second = box_of(&in->sides[0], stage_of(part)->owner) != NULL;
    }
}

/* In the order of their pins, so that few wires cross. */
static void place_boxes(const wiring_sheet *in, side *flank)
{
    double top = 0;
    for (guint i = 0; i < flank->boxes->len; i++) {
        box *const part = g_ptr_array_index(flank->boxes, i);
        g_array_sort(part->wires, by_row);
        for (guint j = 0; j < part->wires->len; j++) {
            part->mean_row += (double)g_array_index(part->wires, drawn_wire, j).row / part->wires->len;
        }
    }
    g_ptr_array_sort(flank->boxes, by_mean_row);
    for (guint i = 0; i < flank->boxes->len; i++) {
        box *const part = g_ptr_array_index(flank->boxes, i);
        part->top = top;
        part->height = height_of(in, part);
        top += part->height + GAP_PX;
    }
    flank->height = MAX(top - GAP_PX, 0);
}

double wiring_board_edge(const wiring_sheet *in, bool is_left)
{
    return in->width / 2 + (is_left ? -1 : 1) * BOARD_PX / 2.0;
}

static double box_edge(const wiring_sheet *in, bool is_left)
{
    return is_left ? MARGIN + BESIDE_PX + BOX_PX : in->width - MARGIN - BESIDE_PX - BOX_PX;
}

double wiring_pin_y(const wiring_sheet *in, int row)
{
    return in->board_top + 32 + PIN_PX * (row + 0.5);
}

static GPtrArray *all_wires(const side *flank)
{
    GPtrArray *const all = g_ptr_array_new();
    for (guint i = 0; i < flank->boxes->len; i++) {
        const box *const part = g_ptr_array_index(flank->boxes, i);
        for (guint j = 0; j < part->wires->len; j++) {
            g_ptr_array_add(all, &g_array_index(part->wires, drawn_wire, j));
        }
    }
    return all;
}

static gint by_pin_y(gconstpointer a, gconstpointer b)
{
    const drawn_wire *const one = *(const drawn_wire *const *)a;
    const drawn_wire *const other = *(const drawn_wire *const *)b;
    return one->row - other->row;
}

/* Of wires that go down, higher ones turn further from the board, and of those that go up the lower ones: so
 * they don't cross, as long as they are in order. */
static void route(wiring_sheet *in, side *flank)
{
    enum { LABEL_PX = NUMBER_PX + 32 }; /* the wire's number, at the board */
    for (guint i = 0; i < flank->boxes->len; i++) {
        box *const part = g_ptr_array_index(flank->boxes, i);
        double y = part->top + ROW_PX + 8;
        for (guint j = 0; j < part->wires->len; j++) {
            drawn_wire *const wire = &g_array_index(part->wires, drawn_wire, j);
            const stage_size size = stage_size_of(in->all, wire->stage);
            wire->from_y = wiring_pin_y(in, wire->row);
            wire->to_y = y + size.above;
            y += size.above + size.below;
        }
    }
    g_autoptr(GPtrArray) all = all_wires(flank);
    g_ptr_array_sort(all, by_pin_y);
    const double edge = wiring_board_edge(in, flank->is_left);
    const double room = fabs(box_edge(in, flank->is_left) - edge) - LABEL_PX - 12;
    for (guint i = 0; i < all->len; i++) {
        drawn_wire *const wire = g_ptr_array_index(all, i);
        const guint rank = wire->to_y > wire->from_y ? all->len - i : i + 1;
        wire->turn_x = edge + (flank->is_left ? -1 : 1) * (LABEL_PX + room * rank / (all->len + 1.0));
    }
}

static gint ascending(gconstpointer a, gconstpointer b)
{
    const double one = *(const double *)a;
    const double other = *(const double *)b;
    return (one > other) - (one < other);
}

/* Where the vertical part of a wire crosses others, by height: they aren't connected. */
static GArray *crossings(const GPtrArray *all, const drawn_wire *wire, double edge, double end)
{
    GArray *const found = g_array_new(FALSE, FALSE, sizeof(double));
    const double low = MIN(wire->from_y, wire->to_y);
    const double high = MAX(wire->from_y, wire->to_y);
    for (guint i = 0; i < all->len; i++) {
        const drawn_wire *const other = g_ptr_array_index(all, i);
        const double ys[] = {other->from_y, other->to_y};
        const double from[] = {edge, other->turn_x};
        const double until[] = {other->turn_x, end};
        for (unsigned j = 0; j < 2 && other != wire; j++) {
            const bool is_over = (from[j] < wire->turn_x) != (until[j] < wire->turn_x);
            if (is_over && ys[j] > low + HOP_PX && ys[j] < high - HOP_PX) {
                g_array_append_val(found, ys[j]);
            }
        }
    }
    return found;
}

static void add_hop(GArray *points, double x, double y, bool goes_down)
{
    enum { STEPS = 6 };
    for (int i = 0; i <= STEPS; i++) {
        const double angle = G_PI * i / STEPS;
        scale_add_point(points, x + HOP_PX * sin(angle), y + (goes_down ? -1 : 1) * HOP_PX * cos(angle));
    }
}

void wiring_add_hops(GArray *points, double x, GArray *heights, bool goes_down)
{
    g_array_sort(heights, ascending);
    for (guint i = 0; i < heights->len; i++) {
        add_hop(points, x, g_array_index(heights, double, goes_down ? i : heights->len - 1 - i), goes_down);
    }
}

/* Inputs and outputs. */
static picture_ink ink_of(const circuit_stage *stage)
{
    return stage->form == FORM_CONTACT || stage->form == FORM_RECEIVER ? INK_HANDSET : INK_OURS;
}

static void draw_wire(const wiring_sheet *in, const side *flank, const GPtrArray *all, const drawn_wire *wire)
{
    const double edge = wiring_board_edge(in, flank->is_left);
    const double end = box_edge(in, flank->is_left);
    const bool goes_down = wire->to_y > wire->from_y;
    g_autoptr(GArray) points = scale_points();
    g_autoptr(GArray) hops = crossings(all, wire, edge, end);
    g_autofree char *number = g_strdup_printf("w%u", wire->number);
    scale_add_point(points, edge, wire->from_y);
    scale_add_point(points, wire->turn_x, wire->from_y);
    wiring_add_hops(points, wire->turn_x, hops, goes_down);
    scale_add_point(points, wire->turn_x, wire->to_y);
    scale_add_point(points, end, wire->to_y);
    picture_begin(in->canvas, "wire", wire->stage->pin);
    picture_line(in->canvas, (const double *)(const void *)points->data, points->len, ink_of(wire->stage),
                 1.5);
    const double width = picture_width_of(plain, number);
    const double x = edge + (flank->is_left ? -NUMBER_PX - width : NUMBER_PX);
    picture_box(in->canvas, x - 2, wire->from_y - 8, width + 4, 16, INK_GROUND, FILL_SOLID);
    picture_text(in->canvas, x, wire->from_y + 4, plain, number);
    picture_end(in->canvas);
}

/* The circuits of a box, from its pins' side inwards. */
static void draw_stages(const wiring_sheet *in, const side *flank, box *part)
{
    enum { BUS_PX = 14 /* from the far edge */ };
    const symbol_pen pen = {in->canvas, box_edge(in, flank->is_left), flank->is_left ? -1 : 1};
    stage_bus bus = {BOX_PX - BUS_PX, part->supply_y, 0};
    const drawn_wire *const first = &g_array_index(part->wires, drawn_wire, 0);
    for (guint i = 0; i < part->wires->len; i++) {
        const drawn_wire *const drawn = &g_array_index(part->wires, drawn_wire, i);
        const picture_type type = {12, true, flank->is_left ? TEXT_UP_TO : TEXT_FROM, INK_PLAIN};
        g_autofree char *label = g_strdup_printf("w%u  %s", drawn->number, drawn->stage->terminal);
        picture_text(in->canvas, pen.x + pen.way * 4, drawn->to_y + stage_label_y(drawn->stage), type, label);
        stage_draw(in->all, drawn->stage, &pen, drawn->to_y, &bus, i + 1 == part->wires->len, first->to_y);
    }
    if (part->supply_y > 0 && bus.bottom > 0) {
        symbol_wire(&pen, bus.x, bus.top, bus.x, part->supply_y, INK_SUPPLY);
        symbol_wire(&pen, bus.x, part->supply_y, BOX_PX, part->supply_y, INK_SUPPLY);
    }
    if (wiring_has_ground(part)) {
        symbol_wire(&pen, bus.x, part->ground_y, BOX_PX, part->ground_y, INK_PLAIN);
        symbol_ground(&pen, bus.x, part->ground_y);
    }
}

/* "the board's 5V", "a supply of 6 V, 2 A". To be freed. */
static char *supply_text(const wiring_sheet *in, const box *part)
{
    const circuit_net *const feed = circuit_net_at(in->all, fed_stage_of(part)->feed);
    return feed->is_boards ? g_strdup_printf("the board's %s", feed->name)
                           : g_strdup_printf("a supply of %g V, %g A", feed->volts, feed->max_ma / 1000.0);
}

static void draw_box(const wiring_sheet *in, const side *flank, box *part)
{
    const circuit_stage *const stage = stage_of(part);
    const double x = flank->is_left ? MARGIN + BESIDE_PX : box_edge(in, false);
    const picture_type outer = {12, false, flank->is_left ? TEXT_FROM : TEXT_UP_TO, INK_PLAIN};
    const double outer_x = flank->is_left ? x + 30 : x + BOX_PX - 30;
    const bool is_both = box_of(&in->sides[flank->is_left ? 1 : 0], stage->owner) != NULL;
    g_autofree char *title =
        g_strdup_printf("%s (%s)%s", stage->owner, stage->kind, is_both ? ", on both sides" : "");
    g_autofree char *name = picture_shortened(strong, title, BOX_PX - 16);
    picture_begin(in->canvas, "part", stage->owner);
    picture_box(in->canvas, x, part->top, BOX_PX, part->height, INK_FAINT, FILL_NONE);
    picture_text(in->canvas, x + 8, part->top + ROW_PX, strong, name);
    draw_stages(in, flank, part);
    if (wiring_is_fed(part)) {
        g_autofree char *fed = supply_text(in, part);
        g_autofree char *supply =
            flank->is_left ? g_strdup_printf("+  %s", fed) : g_strdup_printf("%s  +", fed);
        g_autofree char *shown = picture_shortened(plain, supply, BOX_PX - 40);
        picture_text(in->canvas, outer_x, part->supply_y + 4, outer, shown);
    }
    if (wiring_has_ground(part)) {
        picture_text(in->canvas, outer_x, part->ground_y + 4, outer, "ground");
    }
    rails_draw_feeding(in, flank, part);
    picture_end(in->canvas);
}

static void draw_side(wiring_sheet *in, side *flank)
{
    g_autoptr(GPtrArray) all = all_wires(flank);
    for (guint i = 0; i < all->len; i++) {
        draw_wire(in, flank, all, g_ptr_array_index(all, i));
    }
    for (guint i = 0; i < flank->boxes->len; i++) {
        draw_box(in, flank, g_ptr_array_index(flank->boxes, i));
    }
}

static void draw_board(const wiring_sheet *in)
{
    const board *const chosen = plan_board(in->plan);
    const double left = wiring_board_edge(in, true);
    picture_begin(in->canvas, "board", chosen->id);
    picture_box(in->canvas, left, in->board_top, BOARD_PX, in->board_height, INK_PLAIN, FILL_NONE);
    picture_box(in->canvas, left + BOARD_PX / 2.0 - 20, in->board_top - 10, 40, 26, INK_PLAIN, FILL_HATCHED);
    picture_text(in->canvas, left + BOARD_PX / 2.0 + 26, in->board_top - 4, plain,
                 chosen->has_adapter ? "serial adapter" : "USB");
    picture_text(in->canvas, left + BOARD_PX / 2.0, in->board_top + in->board_height / 2,
                 (picture_type){13, true, TEXT_AROUND, INK_PLAIN}, chosen->id);
    for (unsigned i = 0; i < 2; i++) {
        const side *const flank = &in->sides[i];
        g_auto(GStrv) pins = g_strsplit(wiring_printed_on(in, flank->is_left), " ", -1);
        for (int row = 0; pins[row] != NULL; row++) {
            bool is_used = false;
            for (guint j = 0; j < in->all->stages->len; j++) {
                is_used |= strcmp(g_array_index(in->all->stages, circuit_stage, j).pin, pins[row]) == 0;
            }
            for (guint j = 0; j < in->rail_count; j++) {
                const char *const feeding = in->rails[j].pin; /* the first pin with this name */
                const bool is_here =
                    flank->is_left || wiring_row_of(wiring_printed_on(in, true), feeding) < 0;
                is_used |= is_here && wiring_row_of(wiring_printed_on(in, flank->is_left), feeding) == row;
            }
            const double edge = wiring_board_edge(in, flank->is_left);
            const picture_type type = {12, is_used, flank->is_left ? TEXT_FROM : TEXT_UP_TO, INK_PLAIN};
            picture_box(in->canvas, edge - 3, wiring_pin_y(in, row) - 3, 6, 6, INK_PLAIN,
                        is_used ? FILL_SOLID : FILL_NONE);
            picture_text(in->canvas, edge + (flank->is_left ? 8 : -8), wiring_pin_y(in, row) + 4, type,
                         pins[row]);
        }
    }
    picture_end(in->canvas);
}

static unsigned count_pins(const char *printed)
{
    g_auto(GStrv) pins = g_strsplit(printed, " ", -1);
    return g_strv_length(pins);
}

/* Moves the boxes of a side to their places, in the middle of the sheet's height. */
static void move_boxes(side *flank, double top, double height)
{
    for (guint i = 0; i < flank->boxes->len; i++) {
        box *const part = g_ptr_array_index(flank->boxes, i);
        part->top += top + (height - flank->height) / 2;
        part->ground_y = part->top + part->height - ROW_PX / 2.0 - 4;
        part->supply_y = wiring_is_fed(part) ? part->ground_y - (wiring_has_ground(part) ? ROW_PX : 0) : 0;
    }
}

static void lay_out(wiring_sheet *in, double top)
{
    enum { USB_PX = 12, RAIL_GAP_PX = 40 };
    make_boxes(in);
    place_boxes(in, &in->sides[0]);
    place_boxes(in, &in->sides[1]);
    in->board_height =
        48 + PIN_PX * MAX(count_pins(wiring_printed_on(in, true)), count_pins(wiring_printed_on(in, false)));
    const double height = MAX(in->board_height + USB_PX, MAX(in->sides[0].height, in->sides[1].height));
    in->board_top = top + USB_PX + (height - in->board_height) / 2;
    for (unsigned i = 0; i < 2; i++) {
        move_boxes(&in->sides[i], top, height);
        route(in, &in->sides[i]);
    }
    in->ground_y = top + height + RAIL_GAP_PX;
}

/* Drawn once to find its height, and once for good. */
static picture *draw_once(const plan *loaded, vet_result *vet, double width, double height, bool is_dark,
                          double *needed)
{
    g_autofree char *heading = g_strdup_printf("%s: wired on the board %s (%s)", plan_title(loaded),
                                               plan_board(loaded)->id, plan_board(loaded)->chip);
    wiring_sheet in = {.plan = loaded, .all = circuit_of(loaded), .width = width, .height = height};
    const picture_type type = {18, true, TEXT_FROM, INK_PLAIN};
    g_autofree char *shown = picture_shortened(type, heading, width - 2.0 * MARGIN);
    in.canvas = picture_new(width, height, is_dark, heading);
    const wiring_notes notes = {in.canvas, loaded, in.all, vet, width};
    for (unsigned i = 0; i < 2; i++) {
        in.sides[i] = (side){.is_left = i == 0, .boxes = g_ptr_array_new_with_free_func(free_box)};
    }
    picture_text(in.canvas, MARGIN, 32, type, shown);
    lay_out(&in, rails_lay_out(&in, wiring_notes_supplies(&notes, TOP - ROW_PX + INSET_PX) + GAP_PX));
    draw_side(&in, &in.sides[0]);
    draw_side(&in, &in.sides[1]);
    rails_draw(&in);
    draw_board(&in);
    *needed = wiring_notes_parts(&notes, in.ground_y + 2 * ROW_PX) + MARGIN;
    for (unsigned i = 0; i < 2; i++) {
        g_ptr_array_unref(in.sides[i].boxes);
    }
    circuit_free(in.all);
    return in.canvas;
}

picture *wiring_draw(const plan *loaded, double width, double height, bool is_dark)
{
    double needed = height;
    vet_result *const vet = vet_plan(loaded);
    picture *drawn = draw_once(loaded, vet, width, height, is_dark, &needed);
    if (needed > height) {
        picture_free(drawn);
        drawn = draw_once(loaded, vet, width, needed, is_dark, &needed);
    }
    vet_free(vet);
    return drawn;
}
