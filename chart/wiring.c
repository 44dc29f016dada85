#include "wiring.h"

#include "scale.h"
#include "wiring_notes.h"

#include "wires.h"

#include <math.h>
#include <string.h>

enum {
    TOP = 70,
    PIN_PX = 24, /* from pin to pin */
    BOARD_PX = 150,
    BOX_PX = 230,
    GAP_PX = 14,  /* between boxes */
    RAIL_PX = 24, /* from a box to the ground rail */
    HOP_PX = 4
};

static const picture_type plain = {12, false, TEXT_FROM, INK_PLAIN};
static const picture_type strong = {12, true, TEXT_FROM, INK_PLAIN};

/* One wire, from a pin of the board to a terminal of a thing. */
typedef struct drawn_wire {
    const plan_wire *wire;
    guint number; /* from 1, as they are written on the sheet */
    int row;      /* of the pin, on its side of the board */
    double from_y;
    double to_y;
    double turn_x; /* where it goes up or down */
} drawn_wire;

/* A thing, or what of it is on one side. */
typedef struct box {
    GArray *wires; /* of drawn_wire */
    double top;
    double height;
    double mean_row;
} box;

typedef struct side {
    bool is_left;
    GPtrArray *boxes;
    double height;
} side;

typedef struct sheet_of_wires {
    const plan *plan;
    GArray *wires; /* of plan_wire */
    picture *on;
    double width;
    double height;
    double board_top;
    double board_height;
    double rail_y;
    side sides[2]; /* left, right */
} sheet_of_wires;

static void free_box(gpointer data)
{
    box *const unwanted = data;
    g_array_unref(unwanted->wires);
    g_free(unwanted);
}

/* The row of a pin on a side of the board; -1: it isn't there. */
static int row_of(const char *printed, const char *pin)
{
    g_auto(GStrv) names = g_strsplit(printed, " ", -1);
    for (int i = 0; names[i] != NULL; i++) {
        if (strcmp(names[i], pin) == 0) {
            return i;
        }
    }
    return -1;
}

static const char *printed_on(const sheet_of_wires *in, bool is_left)
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

static const plan_wire *wire_of(const box *of)
{
    return g_array_index(of->wires, drawn_wire, 0).wire;
}

static box *box_of(const side *on, const char *owner)
{
    for (guint i = 0; i < on->boxes->len; i++) {
        box *const known = g_ptr_array_index(on->boxes, i);
        if (strcmp(wire_of(known)->owner, owner) == 0) {
            return known;
        }
    }
    return NULL;
}

/* A name, its terminals, what feeds it, and its ground. */
static double height_of(const box *of)
{
    return ROW_PX * (2.0 + of->wires->len + (wire_of(of)->supply != NULL)) + 8;
}

/* Each wire goes to a box on its pin's side. */
static void make_boxes(sheet_of_wires *in)
{
    for (guint i = 0; i < in->wires->len; i++) {
        const plan_wire *const wire = &g_array_index(in->wires, plan_wire, i);
        const bool is_left = row_of(printed_on(in, true), wire->pin) >= 0;
        side *const on = &in->sides[is_left ? 0 : 1];
        const drawn_wire drawn = {
            .wire = wire, .number = i + 1, .row = MAX(row_of(printed_on(in, is_left), wire->pin), 0)};
        box *of = box_of(on, wire->owner);
        if (of == NULL) {
            of = g_new0(box, 1);
            of->wires = g_array_new(FALSE, FALSE, sizeof(drawn_wire));
            g_ptr_array_add(on->boxes, of);
        }
        g_array_append_val(of->wires, drawn);
    }
}

/* In the order of their pins, so that few wires cross. */
static void place_boxes(side *on)
{
    double top = 0;
    for (guint i = 0; i < on->boxes->len; i++) {
        box *const of = g_ptr_array_index(on->boxes, i);
        g_array_sort(of->wires, by_row);
        for (guint j = 0; j < of->wires->len; j++) {
            of->mean_row += (double)g_array_index(of->wires, drawn_wire, j).row / of->wires->len;
        }
    }
    g_ptr_array_sort(on->boxes, by_mean_row);
    for (guint i = 0; i < on->boxes->len; i++) {
        box *const of = g_ptr_array_index(on->boxes, i);
        of->top = top;
        of->height = height_of(of);
        top += of->height + GAP_PX;
    }
    on->height = MAX(top - GAP_PX, 0);
}

static double board_edge(const sheet_of_wires *in, bool is_left)
{
    return in->width / 2 + (is_left ? -1 : 1) * BOARD_PX / 2.0;
}

static double box_edge(const sheet_of_wires *in, bool is_left)
{
    return is_left ? MARGIN + RAIL_PX + BOX_PX : in->width - MARGIN - RAIL_PX - BOX_PX;
}

static double pin_y(const sheet_of_wires *in, int row)
{
    return in->board_top + 32 + PIN_PX * (row + 0.5);
}

static GPtrArray *all_wires(const side *on)
{
    GPtrArray *const all = g_ptr_array_new();
    for (guint i = 0; i < on->boxes->len; i++) {
        const box *const of = g_ptr_array_index(on->boxes, i);
        for (guint j = 0; j < of->wires->len; j++) {
            g_ptr_array_add(all, &g_array_index(of->wires, drawn_wire, j));
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

/* Those that go down turn the farther from the board the higher they are, and those that go up the other way
 * round: so they don't cross each other, as long as their order stays. */
static void route(sheet_of_wires *in, side *on)
{
    enum { LABEL_PX = 44 }; /* of the wire's number, at the board */
    for (guint i = 0; i < on->boxes->len; i++) {
        box *const of = g_ptr_array_index(on->boxes, i);
        for (guint j = 0; j < of->wires->len; j++) {
            drawn_wire *const wire = &g_array_index(of->wires, drawn_wire, j);
            wire->from_y = pin_y(in, wire->row);
            wire->to_y = of->top + 4 + ROW_PX * (1.5 + j);
        }
    }
    g_autoptr(GPtrArray) all = all_wires(on);
    g_ptr_array_sort(all, by_pin_y);
    const double edge = board_edge(in, on->is_left);
    const double room = fabs(box_edge(in, on->is_left) - edge) - LABEL_PX - 12;
    for (guint i = 0; i < all->len; i++) {
        drawn_wire *const wire = g_ptr_array_index(all, i);
        const guint rank = wire->to_y > wire->from_y ? all->len - i : i + 1;
        wire->turn_x = edge + (on->is_left ? -1 : 1) * (LABEL_PX + room * rank / (all->len + 1.0));
    }
}

static gint ascending(gconstpointer a, gconstpointer b)
{
    const double one = *(const double *)a;
    const double other = *(const double *)b;
    return (one > other) - (one < other);
}

/* Where the vertical part of a wire crosses others, by height: those aren't joined. */
static GArray *crossings(const GPtrArray *all, const drawn_wire *wire, double edge, double end)
{
    GArray *const found = g_array_new(FALSE, FALSE, sizeof(double));
    const double low = MIN(wire->from_y, wire->to_y);
    const double high = MAX(wire->from_y, wire->to_y);
    for (guint i = 0; i < all->len; i++) {
        const drawn_wire *const other = g_ptr_array_index(all, i);
        const double ys[] = {other->from_y, other->to_y};
        const double from[] = {edge, other->turn_x};
        const double to[] = {other->turn_x, end};
        for (unsigned j = 0; j < 2 && other != wire; j++) {
            const bool is_over = (from[j] < wire->turn_x) != (to[j] < wire->turn_x);
            if (is_over && ys[j] > low + HOP_PX && ys[j] < high - HOP_PX) {
                g_array_append_val(found, ys[j]);
            }
        }
    }
    g_array_sort(found, ascending);
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

static void draw_wire(const sheet_of_wires *in, const side *on, const GPtrArray *all, const drawn_wire *wire)
{
    const double edge = board_edge(in, on->is_left);
    const double end = box_edge(in, on->is_left);
    const bool goes_down = wire->to_y > wire->from_y;
    g_autoptr(GArray) points = scale_points();
    g_autoptr(GArray) hops = crossings(all, wire, edge, end);
    g_autofree char *number = g_strdup_printf("w%u", wire->number);
    scale_add_point(points, edge, wire->from_y);
    scale_add_point(points, wire->turn_x, wire->from_y);
    for (guint i = 0; i < hops->len; i++) {
        add_hop(points, wire->turn_x, g_array_index(hops, double, goes_down ? i : hops->len - 1 - i),
                goes_down);
    }
    scale_add_point(points, wire->turn_x, wire->to_y);
    scale_add_point(points, end, wire->to_y);
    picture_begin(in->on, "wire", wire->wire->pin);
    picture_line(in->on, (const double *)(const void *)points->data, points->len, INK_PLAIN, 1.5);
    const double width = picture_width_of(plain, number);
    const double x = edge + (on->is_left ? -12 - width : 12);
    picture_box(in->on, x - 2, wire->from_y - 8, width + 4, 16, INK_GROUND, FILL_SOLID);
    picture_text(in->on, x, wire->from_y + 4, plain, number);
    picture_end(in->on);
}

static void draw_box(const sheet_of_wires *in, const side *on, const box *of)
{
    const plan_wire *const wire = wire_of(of);
    const double x = on->is_left ? MARGIN + RAIL_PX : box_edge(in, false);
    const double outer = on->is_left ? x : x + BOX_PX;
    const double rail = on->is_left ? MARGIN : in->width - MARGIN;
    double y = of->top + 4 + ROW_PX - 4;
    const bool is_both = box_of(&in->sides[on->is_left ? 1 : 0], wire->owner) != NULL;
    g_autofree char *title =
        g_strdup_printf("%s (%s)%s", wire->owner, wire->kind, is_both ? ", on both sides" : "");
    g_autofree char *name = picture_shortened(strong, title, BOX_PX - 16);
    picture_begin(in->on, "part", wire->owner);
    picture_box(in->on, x, of->top, BOX_PX, of->height, INK_PLAIN, FILL_NONE);
    picture_text(in->on, x + 8, y, strong, name);
    for (guint i = 0; i < of->wires->len; i++) {
        const drawn_wire *const drawn = &g_array_index(of->wires, drawn_wire, i);
        g_autofree char *terminal = g_strdup_printf("w%u  %s", drawn->number, drawn->wire->terminal);
        y += ROW_PX;
        const picture_type type = {12, false, on->is_left ? TEXT_UP_TO : TEXT_FROM, INK_PLAIN};
        picture_text(in->on, on->is_left ? x + BOX_PX - 8 : x + 8, y, type, terminal);
    }
    if (wire->supply != NULL) {
        g_autofree char *supply = g_strdup_printf("+  %s", wire->supply);
        g_autofree char *shown = picture_shortened(plain, supply, BOX_PX - 16);
        y += ROW_PX;
        picture_text(in->on, x + 8, y, plain, shown);
    }
    y += ROW_PX;
    picture_text(in->on, on->is_left ? x + 8 : x + BOX_PX - 8, y,
                 (picture_type){12, false, on->is_left ? TEXT_FROM : TEXT_UP_TO, INK_PLAIN}, "ground");
    const double ground[] = {outer, y - 4, rail, y - 4};
    picture_line(in->on, ground, 2, INK_PLAIN, 1.5);
    picture_box(in->on, rail - 3, y - 7, 6, 6, INK_PLAIN, FILL_SOLID);
    picture_end(in->on);
}

static void draw_side(sheet_of_wires *in, side *on)
{
    g_autoptr(GPtrArray) all = all_wires(on);
    const double rail = on->is_left ? MARGIN : in->width - MARGIN;
    for (guint i = 0; i < all->len; i++) {
        draw_wire(in, on, all, g_ptr_array_index(all, i));
    }
    for (guint i = 0; i < on->boxes->len; i++) {
        draw_box(in, on, g_ptr_array_index(on->boxes, i));
    }
    if (on->boxes->len > 0) {
        const double line[] = {rail, ((const box *)g_ptr_array_index(on->boxes, 0))->top, rail, in->rail_y};
        picture_line(in->on, line, 2, INK_PLAIN, 2.5);
    }
}

static void draw_board(const sheet_of_wires *in)
{
    const board *const chosen = plan_board(in->plan);
    const double left = board_edge(in, true);
    picture_begin(in->on, "board", chosen->id);
    picture_box(in->on, left, in->board_top, BOARD_PX, in->board_height, INK_PLAIN, FILL_NONE);
    picture_box(in->on, left + BOARD_PX / 2.0 - 20, in->board_top - 10, 40, 26, INK_PLAIN, FILL_HATCHED);
    picture_text(in->on, left + BOARD_PX / 2.0 + 26, in->board_top - 4, plain, "USB");
    picture_text(in->on, left + BOARD_PX / 2.0, in->board_top + in->board_height / 2,
                 (picture_type){13, true, TEXT_AROUND, INK_PLAIN}, chosen->id);
    for (unsigned i = 0; i < 2; i++) {
        const side *const on = &in->sides[i];
        g_auto(GStrv) pins = g_strsplit(printed_on(in, on->is_left), " ", -1);
        for (int row = 0; pins[row] != NULL; row++) {
            bool is_used = false;
            for (guint j = 0; j < in->wires->len; j++) {
                is_used |= strcmp(g_array_index(in->wires, plan_wire, j).pin, pins[row]) == 0;
            }
            const double edge = board_edge(in, on->is_left);
            const picture_type type = {12, is_used, on->is_left ? TEXT_FROM : TEXT_UP_TO, INK_PLAIN};
            picture_box(in->on, edge - 3, pin_y(in, row) - 3, 6, 6, INK_PLAIN,
                        is_used ? FILL_SOLID : FILL_NONE);
            picture_text(in->on, edge + (on->is_left ? 8 : -8), pin_y(in, row) + 4, type, pins[row]);
        }
    }
    picture_end(in->on);
}

/* The one ground: the board's, and those of all supplies. */
static void draw_rail(const sheet_of_wires *in)
{
    const double x = in->width / 2;
    const double rail[] = {in->sides[0].boxes->len > 0 ? MARGIN : x, in->rail_y,
                           in->sides[1].boxes->len > 0 ? in->width - MARGIN : x, in->rail_y};
    const double own[] = {x, in->board_top + in->board_height, x, in->rail_y};
    picture_begin(in->on, "rail", "ground");
    picture_line(in->on, rail, 2, INK_PLAIN, 2.5);
    picture_line(in->on, own, 2, INK_PLAIN, 2.5);
    picture_box(in->on, x - 4, in->rail_y - 4, 8, 8, INK_PLAIN, FILL_SOLID);
    picture_text(in->on, x + 10, in->rail_y - 8, plain,
                 "ground: any of the board's GND, and that of each supply");
    picture_end(in->on);
}

static unsigned count_pins(const char *printed)
{
    g_auto(GStrv) pins = g_strsplit(printed, " ", -1);
    return g_strv_length(pins);
}

/* Moves the boxes of a side to where they belong, in the middle of the sheet's height. */
static void move_boxes(side *on, double top, double height)
{
    for (guint i = 0; i < on->boxes->len; i++) {
        ((box *)g_ptr_array_index(on->boxes, i))->top += top + (height - on->height) / 2;
    }
}

static void lay_out(sheet_of_wires *in, double top)
{
    enum { USB_PX = 12, RAIL_GAP_PX = 40 };
    make_boxes(in);
    place_boxes(&in->sides[0]);
    place_boxes(&in->sides[1]);
    in->board_height = 48 + PIN_PX * MAX(count_pins(printed_on(in, true)), count_pins(printed_on(in, false)));
    const double height = MAX(in->board_height + USB_PX, MAX(in->sides[0].height, in->sides[1].height));
    in->board_top = top + USB_PX + (height - in->board_height) / 2;
    for (unsigned i = 0; i < 2; i++) {
        move_boxes(&in->sides[i], top, height);
        route(in, &in->sides[i]);
    }
    in->rail_y = top + height + RAIL_GAP_PX;
}

/* Drawn once to learn how high it is, and once for good. */
static picture *draw_once(const plan *of, vet_result *vet, double width, double height, bool is_dark,
                          double *needed)
{
    g_autofree char *heading = g_strdup_printf("%s: wired on the board %s (%s)", plan_title(of),
                                               plan_board(of)->id, plan_board(of)->chip);
    sheet_of_wires in = {.plan = of, .wires = plan_wires(of), .width = width, .height = height};
    const picture_type type = {18, true, TEXT_FROM, INK_PLAIN};
    g_autofree char *shown = picture_shortened(type, heading, width - 2.0 * MARGIN);
    in.on = picture_new(width, height, is_dark, heading);
    const wiring_notes notes = {in.on, in.wires, vet, width};
    for (unsigned i = 0; i < 2; i++) {
        in.sides[i] = (side){.is_left = i == 0, .boxes = g_ptr_array_new_with_free_func(free_box)};
    }
    picture_text(in.on, MARGIN, 32, type, shown);
    lay_out(&in, wiring_notes_supplies(&notes, TOP - ROW_PX + INSET_PX) + GAP_PX);
    draw_side(&in, &in.sides[0]);
    draw_side(&in, &in.sides[1]);
    draw_rail(&in);
    draw_board(&in);
    *needed = wiring_notes_parts(&notes, in.rail_y + 2 * ROW_PX) + MARGIN;
    for (unsigned i = 0; i < 2; i++) {
        g_ptr_array_unref(in.sides[i].boxes);
    }
    g_array_unref(in.wires);
    return in.on;
}

picture *wiring_draw(const plan *of, double width, double height, bool is_dark)
{
    double needed = height;
    vet_result *const vet = vet_plan(of);
    picture *drawn = draw_once(of, vet, width, height, is_dark, &needed);
    if (needed > height) {
        picture_free(drawn);
        drawn = draw_once(of, vet, width, needed, is_dark, &needed);
    }
    vet_free(vet);
    return drawn;
}
