#include "chart/stages.h"

#include <string.h>

/* Distances from the pin's side. */
enum {
    SERIES_X = 20,
    NODE_X = 80,
    SWITCH_X = 104,
    LOAD_X = 150,
    LIMIT_X = 214,
    MODULE_X = 96,
    MODULE_PX = 100,
    LEG_PX = 22, /* from a module's leg to the next, on its far side */
    LINE_PX = 24 /* from a pin's height to the load's */
};

typedef struct stage_drawing {
    const circuit *all;
    const circuit_stage *stage;
    const symbol_pen *pen;
    stage_bus *bus;
} stage_drawing;

static const circuit_part *part_at(const stage_drawing *in, circuit_place place_of)
{
    return circuit_part_at(in->all, in->stage, place_of);
}

/* "R1 1 kΩ". To be freed. */
static char *short_text(const circuit_part *part)
{
    const char *const end = strchr(part->value, ',');
    g_autofree char *value =
        end != NULL ? g_strndup(part->value, (gsize)(end - part->value)) : g_strdup(part->value);
    return part->symbol == SYMBOL_RESISTOR || part->symbol == SYMBOL_CAPACITOR
               ? g_strdup_printf("%s %s", part->id, value)
               : g_strdup(part->id);
}

static void put_label(const stage_drawing *in, double x, double y, const circuit_part *part)
{
    g_autofree char *text = short_text(part);
    symbol_text(in->pen, x, y, text);
}

static void put_label_inwards(const stage_drawing *in, double x, double y, const circuit_part *part)
{
    g_autofree char *text = short_text(part);
    symbol_text_inwards(in->pen, x, y, text);
}

/* To the load's supply. */
static void join_bus(const stage_drawing *in, double x, double y)
{
    symbol_wire(in->pen, x, y, in->bus->x, y, INK_SUPPLY);
    symbol_dot(in->pen, in->bus->x, y, INK_SUPPLY);
    in->bus->top = MIN(in->bus->top, y);
    in->bus->bottom = MAX(in->bus->bottom, y);
}

static void join_ground(const stage_drawing *in, double x, double y, double to_y)
{
    symbol_wire(in->pen, x, y, x, to_y, INK_PLAIN);
    symbol_ground(in->pen, x, to_y);
}

static const char *logic_name(const stage_drawing *in)
{
    return circuit_net_at(in->all, in->all->logic)->name;
}

/* From the pin through a resistor to a node. */
static void draw_series(const stage_drawing *in, double y, const circuit_part *series, double node_x)
{
    symbol_wire(in->pen, 0, y, SERIES_X, y, INK_PLAIN);
    symbol_resistor(in->pen, SERIES_X, y);
    symbol_wire(in->pen, SERIES_X + 40, y, node_x, y, INK_PLAIN);
    put_label(in, SERIES_X + (in->stage->form == FORM_INVERTED ? 30 : 20), y - 8, series);
}

static void draw_pull_down(const stage_drawing *in, double x, double y, const circuit_part *pull)
{
    g_autofree char *text = short_text(pull);
    symbol_dot(in->pen, x, y, INK_PLAIN);
    symbol_resistor_down(in->pen, x, y);
    symbol_ground(in->pen, x, y + 32);
    symbol_text_outwards(in->pen, x - 8, y + 20, text);
}

static void draw_pull_up(const stage_drawing *in, double x, double y, const circuit_part *pull,
                         const char *name, bool is_labelled_inwards)
{
    g_autofree char *text = short_text(pull);
    symbol_dot(in->pen, x, y, INK_PLAIN);
    symbol_resistor_down(in->pen, x, y - 32);
    symbol_flag(in->pen, x, y - 32, name);
    if (is_labelled_inwards) {
        symbol_text_inwards(in->pen, x + 8, y - 28, text);
    } else {
        symbol_text_outwards(in->pen, x - 8, y - 20, text);
    }
}

/* The load from `x` inwards, with its diode below; returns its end. The current flows inwards, or outwards.
 */
static double draw_load(const stage_drawing *in, double x, double y, bool flows_inwards)
{
    const circuit_part *const load = part_at(in, PLACE_LOAD);
    const circuit_part *const limit = part_at(in, PLACE_LIMIT);
    const circuit_part *const diode = part_at(in, PLACE_DIODE);
    const double load_x = limit != NULL && flows_inwards ? LIMIT_X : LOAD_X; /* after its resistor */
    const double limit_x = flows_inwards ? LOAD_X : LIMIT_X;
    symbol_wire(in->pen, x, y, LOAD_X, y, INK_PLAIN);
    switch (load->symbol) {
    case SYMBOL_LED:
        symbol_diode(in->pen, load_x, y, flows_inwards, true);
        break;
    case SYMBOL_MOTOR:
        symbol_motor(in->pen, load_x, y);
        break;
    case SYMBOL_LAMP:
        symbol_lamp(in->pen, load_x, y);
        break;
    default:
        symbol_coil(in->pen, load_x, y);
        break;
    }
    put_label(in, load_x + 20, y + (load->symbol == SYMBOL_LED ? 18 : -14), load);
    if (limit != NULL) {
        symbol_wire(in->pen, LOAD_X + 40, y, LIMIT_X, y, INK_PLAIN);
        symbol_resistor(in->pen, limit_x, y);
        put_label(in, limit_x + 20, y - 8, limit);
    }
    if (diode != NULL) {
        const double below = y + 20;
        symbol_dot(in->pen, LOAD_X, y, INK_PLAIN);
        symbol_dot(in->pen, LOAD_X + 40, y, INK_PLAIN);
        symbol_wire(in->pen, LOAD_X, y, LOAD_X, below, INK_PLAIN);
        symbol_wire(in->pen, LOAD_X + 40, y, LOAD_X + 40, below, INK_PLAIN);
        symbol_diode(in->pen, LOAD_X, below, !flows_inwards, false);
        put_label_inwards(in, LOAD_X + 46, below + 4, diode);
    }
    return limit != NULL ? LIMIT_X + 40 : LOAD_X + 40;
}

/* A load between a transistor's upper leg and its supply. */
static void draw_to_bus(const stage_drawing *in, double x, double y)
{
    const double end = draw_load(in, x, y, false);
    join_bus(in, end, y);
}

static void draw_low_side(const stage_drawing *in, double y)
{
    const circuit_part *const gate = part_at(in, PLACE_SWITCH);
    const double end = SWITCH_X + 16;
    draw_series(in, y, part_at(in, PLACE_SERIES), NODE_X);
    draw_pull_down(in, NODE_X, y, part_at(in, PLACE_PULL));
    symbol_wire(in->pen, NODE_X, y, SWITCH_X, y, INK_PLAIN);
    symbol_transistor(in->pen, SWITCH_X, y,
                      gate->symbol == SYMBOL_NMOS ? SYMBOL_SWITCH_NMOS : SYMBOL_SWITCH_NPN);
    put_label_inwards(in, end + 6, y + 14, gate);
    join_ground(in, end, y + 16, y + 32);
    symbol_wire(in->pen, end, y - 16, end, y - LINE_PX, INK_PLAIN);
    draw_to_bus(in, end, y - LINE_PX);
}

static void draw_high_side(const stage_drawing *in, double y)
{
    const double end = SWITCH_X + 16;
    const double load_end = LOAD_X + 40 + (part_at(in, PLACE_LIMIT) != NULL ? LIMIT_X - LOAD_X : 0);
    draw_series(in, y, part_at(in, PLACE_SERIES), NODE_X);
    draw_pull_up(in, NODE_X, y, part_at(in, PLACE_PULL), circuit_net_at(in->all, in->stage->feed)->name,
                 true);
    symbol_wire(in->pen, NODE_X, y, SWITCH_X, y, INK_PLAIN);
    symbol_transistor(in->pen, SWITCH_X, y, SYMBOL_SWITCH_PNP);
    put_label_inwards(in, end + 6, y - 6, part_at(in, PLACE_SWITCH));
    symbol_wire(in->pen, end, y - 16, end, y - LINE_PX, INK_SUPPLY);
    join_bus(in, end, y - LINE_PX);
    symbol_wire(in->pen, end, y + 16, end, y + LINE_PX, INK_PLAIN);
    (void)draw_load(in, end, y + LINE_PX, true);
    symbol_wire(in->pen, load_end, y + LINE_PX, load_end + 30, y + LINE_PX, INK_PLAIN);
    join_ground(in, load_end + 30, y + LINE_PX, y + LINE_PX + 10);
}

static void draw_inverted(const stage_drawing *in, double y)
{
    enum { BEFORE_X = 84, GATE_X = 124, UP_PX = 30 };
    const double collector = BEFORE_X + 16;
    const double gate_y = y - UP_PX;
    const double end = GATE_X + 16;
    draw_pull_up(in, SERIES_X, y, part_at(in, PLACE_BEFORE_PULL), logic_name(in), true);
    draw_series(in, y, part_at(in, PLACE_BEFORE_SERIES), BEFORE_X);
    symbol_transistor(in->pen, BEFORE_X, y, SYMBOL_SWITCH_NPN);
    put_label_inwards(in, collector + 4, y + 4, part_at(in, PLACE_BEFORE));
    join_ground(in, collector, y + 16, y + 26);
    symbol_wire(in->pen, collector, y - 16, collector, gate_y, INK_PLAIN);
    draw_pull_up(in, collector, gate_y, part_at(in, PLACE_PULL), logic_name(in), false);
    symbol_wire(in->pen, collector, gate_y, GATE_X, gate_y, INK_PLAIN);
    symbol_transistor(in->pen, GATE_X, gate_y, SYMBOL_SWITCH_NMOS);
    put_label_inwards(in, end + 6, gate_y + 14, part_at(in, PLACE_SWITCH));
    join_ground(in, end, gate_y + 16, gate_y + 26);
    symbol_wire(in->pen, end, gate_y - 16, end, gate_y - LINE_PX, INK_PLAIN);
    draw_to_bus(in, end, gate_y - LINE_PX);
}

static void draw_led(const stage_drawing *in, double y, bool is_low)
{
    enum { LED_X = 80 };
    draw_series(in, y, part_at(in, PLACE_LIMIT), LED_X);
    symbol_diode(in->pen, LED_X, y, !is_low, true);
    put_label(in, LED_X + 20, y + 18, part_at(in, PLACE_LOAD));
    if (is_low) {
        join_bus(in, LED_X + 40, y);
    } else {
        symbol_wire(in->pen, LED_X + 40, y, LED_X + 56, y, INK_PLAIN);
        join_ground(in, LED_X + 56, y, y + 8);
    }
}

static void draw_contact(const stage_drawing *in, double y)
{
    enum { PULL_X = 92, CONTACT_X = 104 };
    const circuit_part *const pull = part_at(in, PLACE_PULL);
    if (pull != NULL) {
        draw_pull_up(in, PULL_X, y, pull, logic_name(in), true);
    }
    symbol_wire(in->pen, 0, y, CONTACT_X, y, INK_PLAIN);
    symbol_contact(in->pen, CONTACT_X, y);
    symbol_wire(in->pen, CONTACT_X + 40, y, CONTACT_X + 56, y, INK_PLAIN);
    join_ground(in, CONTACT_X + 56, y, y + 8);
    put_label(in, CONTACT_X + 20, y + 16, part_at(in, PLACE_LOAD));
}

static void draw_receiver(const stage_drawing *in, double y)
{
    enum { END_X = MODULE_X + MODULE_PX, NODE = END_X + 36 };
    symbol_wire(in->pen, 0, y, MODULE_X, y, INK_PLAIN);
    symbol_box(in->pen, MODULE_X, y - 22, MODULE_PX, 50);
    put_label(in, MODULE_X + MODULE_PX / 2.0, y - 26, part_at(in, PLACE_MODULE));
    symbol_text_inwards(in->pen, MODULE_X + 6, y + 4, "OUT");
    symbol_text_outwards(in->pen, END_X - 6, y - 6, "+");
    symbol_text_outwards(in->pen, END_X - 6, y + 22, "GND");
    symbol_wire(in->pen, END_X, y - 10, NODE + 6, y - 10, INK_PLAIN);
    symbol_dot(in->pen, NODE, y - 10, INK_PLAIN);
    symbol_resistor(in->pen, NODE + 6, y - 10);
    put_label(in, NODE + 26, y - 18, part_at(in, PLACE_SERIES));
    join_bus(in, NODE + 46, y - 10);
    symbol_capacitor_down(in->pen, NODE, y - 10);
    symbol_ground(in->pen, NODE, y + 22);
    put_label_inwards(in, NODE + 12, y + 12, part_at(in, PLACE_CAPACITOR));
    symbol_wire(in->pen, END_X, y + 18, END_X + 10, y + 18, INK_PLAIN);
    join_ground(in, END_X + 10, y + 18, y + 22);
}

/* The legs of a module without a pin of the board. */
static unsigned far_legs(const circuit *all, const circuit_part *module)
{
    unsigned count = 0;
    for (unsigned i = 0; i < module->leg_count; i++) {
        bool is_pins = false;
        for (guint j = 0; j < all->stages->len; j++) {
            const circuit_stage *const stage = &g_array_index(all->stages, circuit_stage, j);
            is_pins |= stage->parts[PLACE_MODULE] > 0 && stage->leg == i &&
                       circuit_part_at(all, stage, PLACE_MODULE) == module;
        }
        count += !is_pins;
    }
    return count;
}

/* The motor between the two ends of a bridge. */
static void draw_turned(const stage_drawing *in, double y, double to_y)
{
    enum { END_X = MODULE_X + MODULE_PX };
    symbol_wire(in->pen, END_X, y, END_X + 20, y, INK_PLAIN);
    symbol_wire(in->pen, END_X, to_y, END_X + 60, to_y, INK_PLAIN);
    symbol_motor(in->pen, END_X + 20, y);
    symbol_wire(in->pen, END_X + 60, y, END_X + 60, to_y, INK_PLAIN);
}

static void draw_far_leg(const stage_drawing *in, const circuit_part *module, unsigned leg, double y)
{
    enum { END_X = MODULE_X + MODULE_PX };
    const guint net = module->legs[leg];
    symbol_text_outwards(in->pen, END_X - 6, y + 4, module->names[leg]);
    if (net == in->all->ground) {
        symbol_wire(in->pen, END_X, y, END_X + 14, y, INK_PLAIN);
        symbol_ground(in->pen, END_X + 14, y);
    } else if (net == in->stage->feed) {
        join_bus(in, END_X, y);
    } else if (circuit_net_at(in->all, net)->role == NET_SUPPLY) {
        symbol_wire(in->pen, END_X, y, END_X + 30, y, INK_SUPPLY);
        symbol_flag(in->pen, END_X + 30, y, circuit_net_at(in->all, net)->name);
    } else if (module->module == MODULE_RELAY_BOARD && module->note != NULL) {
        const bool is_used =
            strcmp(module->names[leg], "COM") == 0 || strstr(module->note, module->names[leg]) != NULL;
        symbol_wire(in->pen, END_X, y, END_X + (is_used ? 30 : 10), y, INK_PLAIN);
    }
}

static void draw_module(const stage_drawing *in, double y)
{
    enum { END_X = MODULE_X + MODULE_PX };
    const circuit_part *const module = part_at(in, PLACE_MODULE);
    const circuit_part *const capacitor = part_at(in, PLACE_CAPACITOR);
    const bool is_bridge = module->module == MODULE_BRIDGE;
    double at = y;
    double first_out = 0;
    double contact_y[2] = {0}; /* COM, and the contact that is used */
    for (unsigned i = 0; i < module->leg_count; i++) {
        bool is_pins = false;
        for (guint j = 0; j < in->all->stages->len; j++) {
            const circuit_stage *const stage = &g_array_index(in->all->stages, circuit_stage, j);
            is_pins |= stage->parts[PLACE_MODULE] == in->stage->parts[PLACE_MODULE] && stage->leg == i;
        }
        if (!is_pins) {
            draw_far_leg(in, module, i, at);
            first_out = is_bridge && strcmp(module->names[i], "OUT1") == 0 ? at : first_out;
            if (module->note != NULL && strcmp(module->names[i], "COM") == 0) {
                contact_y[0] = at;
            } else if (module->note != NULL && strstr(module->note, module->names[i]) != NULL) {
                contact_y[1] = at;
            }
            at += LEG_PX;
        }
    }
    if (contact_y[0] > 0) {
        symbol_wire(in->pen, END_X + 30, contact_y[0], END_X + 30, contact_y[1], INK_PLAIN);
        symbol_text_inwards(in->pen, END_X + 36, (contact_y[0] + contact_y[1]) / 2 + 4, "load, its supply");
    }
    if (first_out > 0) {
        draw_turned(in, first_out, first_out + LEG_PX);
    }
    if (capacitor != NULL) { /* its far legs are + and ground */
        const double x = END_X + 50;
        symbol_dot(in->pen, x, y, INK_SUPPLY);
        symbol_capacitor_down(in->pen, x, y);
        symbol_ground(in->pen, x, y + 32);
        put_label_inwards(in, x + 14, y + 20, capacitor);
    }
}

static void draw_to_module(const stage_drawing *in, double y, bool is_last, double first_y)
{
    const circuit_part *const module = part_at(in, PLACE_MODULE);
    const circuit_part *const buffer = part_at(in, PLACE_BUFFER);
    const circuit_part *const series = part_at(in, PLACE_SERIES);
    const circuit_part *const pull = part_at(in, PLACE_PULL);
    const unsigned leg = buffer != NULL ? 0 : in->stage->leg;
    if (buffer != NULL) {
        g_autofree char *feed = g_strdup_printf("+%g V", circuit_net_at(in->all, in->stage->feed)->volts);
        symbol_wire(in->pen, 0, y, 6, y, INK_PLAIN);
        symbol_box(in->pen, 6, y - 12, 28, 24);
        symbol_text(in->pen, 20, y + 4, buffer->id);
        symbol_flag(in->pen, 20, y - 12, feed);
        symbol_ground(in->pen, 20, y + 12);
        symbol_wire(in->pen, 34, y, 38, y, INK_PLAIN);
        symbol_resistor(in->pen, 38, y);
        symbol_wire(in->pen, 78, y, MODULE_X, y, INK_PLAIN);
        put_label_inwards(in, 38, y + 18, series);
    } else if (series != NULL) {
        draw_series(in, y, series, MODULE_X);
    } else {
        symbol_wire(in->pen, 0, y, MODULE_X, y, INK_PLAIN);
    }
    if (pull != NULL) {
        draw_pull_down(in, NODE_X, y, pull);
    }
    symbol_text_inwards(in->pen, MODULE_X + 6, y + 4, module->names[leg]);
    if (is_last) {
        const double far_px = (far_legs(in->all, module) - 1) * (double)LEG_PX;
        const double bottom = MAX(y, first_y + far_px) + 14;
        symbol_box(in->pen, MODULE_X, first_y - 14, MODULE_PX, bottom - first_y + 14);
        put_label(in, MODULE_X + MODULE_PX / 2.0, first_y - 18, module);
        draw_module(in, first_y);
    }
}

static unsigned stages_of(const circuit *all, const circuit_stage *stage)
{
    unsigned count = 0;
    for (guint i = 0; i < all->stages->len; i++) {
        count +=
            g_array_index(all->stages, circuit_stage, i).parts[PLACE_MODULE] == stage->parts[PLACE_MODULE];
    }
    return count;
}

double stage_label_y(const circuit_stage *stage)
{
    const bool has_series =
        stage->parts[PLACE_SERIES] != 0 || stage->form == FORM_LED || stage->form == FORM_LED_LOW;
    return stage->form == FORM_HIGH_SIDE || stage->form == FORM_INVERTED ? 16
           : stage->parts[PLACE_BUFFER] != 0                             ? -34
           : has_series && stage->form != FORM_RECEIVER                  ? -20
                                                                         : -6;
}

stage_size stage_size_of(const circuit *all, const circuit_stage *stage)
{
    switch (stage->form) {
    case FORM_LOW_SIDE:
        return (stage_size){44, 46};
    case FORM_HIGH_SIDE:
        return (stage_size){54, 66};
    case FORM_INVERTED:
        return (stage_size){82, 44};
    case FORM_LED:
    case FORM_LED_LOW:
        return (stage_size){34, 26};
    case FORM_CONTACT:
        return (stage_size){stage->parts[PLACE_PULL] != 0 ? 52 : 20, 26};
    case FORM_RECEIVER:
        return (stage_size){40, 38};
    case FORM_MODULE: {
        const circuit_part *const module = circuit_part_at(all, stage, PLACE_MODULE);
        const unsigned pins = stages_of(all, stage);
        const double far_px = (far_legs(all, module) - 1) * (double)LEG_PX + 20;
        const double own_px = stage->parts[PLACE_PULL] != 0        ? 46
                              : stage->parts[PLACE_CAPACITOR] != 0 ? 46
                                                                   : 26;
        return (stage_size){stage->parts[PLACE_BUFFER] != 0 ? 48 : 32,
                            MAX(own_px, far_px / pins - (pins > 1 ? 20 : 0))};
    }
    }
    return (stage_size){20, 20};
}

void stage_draw(const circuit *all, const circuit_stage *stage, const symbol_pen *pen, double y,
                stage_bus *bus, bool is_last, double first_y)
{
    const stage_drawing in = {all, stage, pen, bus};
    switch (stage->form) {
    case FORM_LOW_SIDE:
        draw_low_side(&in, y);
        break;
    case FORM_HIGH_SIDE:
        draw_high_side(&in, y);
        break;
    case FORM_INVERTED:
        draw_inverted(&in, y);
        break;
    case FORM_LED:
    case FORM_LED_LOW:
        draw_led(&in, y, stage->form == FORM_LED_LOW);
        break;
    case FORM_MODULE:
        draw_to_module(&in, y, is_last, first_y);
        break;
    case FORM_CONTACT:
        draw_contact(&in, y);
        break;
    case FORM_RECEIVER:
        draw_receiver(&in, y);
        break;
    }
}
