/* The lamp. */
#include "../colours.h"
#include "../kinds.h"

#include "dromikos/lamp.h"

enum { ACTIVE_LOW };

static const kind_clause clauses[] = {
    {"active low", ACTIVE_LOW, .fixed = 1},
    {"active high", ACTIVE_LOW, .fixed = 0},
    {0},
};

static uint32_t fade_to(plan *made, action_words *action, const kind_order *order)
{
    const uint32_t ms = action->values[1].number;
    if (ms > DROM_LONGEST_MS) {
        report_error(made->source->faults, action->values[1].where, "a fade takes up to 30 min");
    }
    return DROM_FADE(order_level(made, action, order), MIN(ms, DROM_LONGEST_MS));
}

static uint32_t dim(plan *made, action_words *action, const kind_order *order)
{
    return DROM_DIM(order->fixed, order_ms(made, action, order));
}

static bool has_colour(const output_line *line)
{
    return line->pin_count > 1;
}

static uint32_t colour(plan *made, action_words *action, const kind_order *order)
{
    const output_line *const line = plan_line(made, (guint)action->row);
    uint32_t found = 0;
    (void)order;
    if (!has_colour(line)) {
        report_error(made->source->faults, action->where,
                     "'%s' is on one pin, and has no colour; on three it has: on pins 5 6 11, for red, "
                     "green and blue",
                     line->name.text);
    } else if (colour_of(made->source->faults, &action->values[0].name, &found) && found == 0) {
        report_error(made->source->faults, action->values[0].where, "a lamp that is black is off");
    }
    return found != 0 ? found & 0xffffff : 1;
}

static uint8_t rest_verb(const output_line *line)
{
    (void)line;
    return DROM_LAMP_OFF;
}

static const kind_order orders[] = {
    {"off", .verb = DROM_LAMP_OFF},
    {"on", DROM_LAMP_ON, .can_be_held = true},
    {"toggle", .verb = DROM_LAMP_TOGGLE},
    {"brighter LEVEL", DROM_LAMP_BRIGHTER, .value = order_level},
    {"dimmer LEVEL", DROM_LAMP_DIMMER, .value = order_level},
    {"fade to LEVEL over TIME", DROM_LAMP_FADE, .value = fade_to},
    {"let go", .verb = DROM_LAMP_LET_GO},
    {"dim over TIME", DROM_LAMP_DIM, .can_be_held = true, .fixed = DROM_DIM_ON, .value = dim},
    {"dim up over TIME", DROM_LAMP_DIM, .can_be_held = true, .fixed = DROM_DIM_UP, .value = dim},
    {"dim down over TIME", DROM_LAMP_DIM, .can_be_held = true, .fixed = DROM_DIM_DOWN, .value = dim},
    {"colour COLOUR", DROM_LAMP_COLOUR, .value = colour},
    {"blink TIME", DROM_LAMP_BLINK, .can_be_held = true, .value = order_ms},
    {0},
};

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    drom_lamp_settings *const settings = plan_keep(made, sizeof *settings);
    drom_lamp_state *const state = plan_keep(made, sizeof *state);
    *settings = (drom_lamp_settings){.pin = plan_pin(made, line, 0),
                                     .is_active_low = line_value(line, ACTIVE_LOW, 0) != 0,
                                     .has_colour = has_colour(line)};
    if (has_colour(line)) {
        settings->green_pin = plan_pin(made, line, 1);
        settings->blue_pin = plan_pin(made, line, 2);
    }
    return (drom_output)DROM_LAMP(*settings, *state);
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const drom_lamp_settings *const settings = plan_output(loaded, output)->settings;
    g_string_append_printf(out, ".pin = %u, .is_active_low = %s", settings->pin,
                           c_bool(settings->is_active_low));
    if (settings->has_colour) {
        g_string_append_printf(out, ", .has_colour = true, .green_pin = %u, .blue_pin = %u",
                               settings->green_pin, settings->blue_pin);
    }
}

static char *order_text(const plan *loaded, const drom_action *action)
{
    (void)loaded;
    switch ((drom_lamp_verb)action->verb) {
    case DROM_LAMP_BRIGHTER:
        return g_strdup_printf("brighter %u %%", percent_of(action->value));
    case DROM_LAMP_DIMMER:
        return g_strdup_printf("dimmer %u %%", percent_of(action->value));
    case DROM_LAMP_FADE:
        return g_strdup_printf("fade to %u %% over %u ms", percent_of(action->value & 0xff),
                               action->value >> 8);
    case DROM_LAMP_DIM:
        return g_strdup_printf("dim %sover %u ms",
                               (const char *const[]){"", "up ", "down "}[action->value & 0xff],
                               action->value >> 8);
    case DROM_LAMP_COLOUR: {
        g_autofree char *text = colour_text(action->value);
        return g_strdup_printf("colour %s", text);
    }
    case DROM_LAMP_BLINK:
        return g_strdup_printf("blink %u ms", action->value);
    default:
        return NULL;
    }
}

static activity activity_of(const drom_output *output)
{
    return ((const drom_lamp_state *)output->state)->blinks ? ENDLESS
           : drom_lamp.is_busy(output->state)               ? ENDING
                                                            : IDLE;
}

/* Where an order has brought it at once; a fade says so itself. */
static char *unanswered(const plan *loaded, guint output, drom_us now)
{
    const drom_lamp_state *const lamp = plan_output(loaded, output)->state;
    (void)now;
    return lamp->level == lamp->target && !lamp->blinks
               ? g_strdup_printf(" -> %u %%", percent_of(lamp->level))
               : g_strdup("");
}

static double load_ma(const output_line *line, const board *chosen)
{
    (void)line;
    return chosen->pin_ma;
}

static const char *const states[] = {"is on", "is off", "at LEVEL", "is in COLOUR", NULL};

static bool is_in_state(const plan *loaded, guint output, const void *device, unsigned state,
                        const phrase_value *values)
{
    const drom_lamp_state *const lamp = plan_output(loaded, output)->state;
    uint32_t wanted = 0;
    (void)device;
    return state == 3 ? lamp->level > 0 && colour_find(values[0].name.text, &wanted) && lamp->colour == wanted
           : state == 2 ? percent_of(lamp->level) == (unsigned)(values[0].amount + 0.5)
                        : (lamp->level > 0) == (state == 0);
}

static char *wrong_state(const plan *loaded, guint output, unsigned state, const phrase_value *values)
{
    (void)values;
    return state < 3 || has_colour(plan_line(loaded, output))
               ? NULL
               : g_strdup_printf("'%s' is on one pin, and has no colour", plan_output_name(loaded, output));
}

static char *state_text(const plan *loaded, guint output, const void *device)
{
    const drom_lamp_settings *const settings = plan_output(loaded, output)->settings;
    const drom_lamp_state *const lamp = plan_output(loaded, output)->state;
    g_autofree char *colour = colour_text(lamp->colour);
    (void)device;
    return g_strdup_printf("at %u %%%s%s", percent_of(lamp->level), settings->has_colour ? ", " : "",
                           settings->has_colour ? colour : "");
}

static double drawn(const plan *loaded, guint output, const void *device)
{
    (void)device;
    return ((const drom_lamp_state *)plan_output(loaded, output)->state)->level / 255.0;
}

/* The one that it has at its full level. */
static unsigned colours(const plan *loaded, guint output, const void *device, uint32_t *rgb, unsigned max)
{
    const drom_output *const lamp = plan_output(loaded, output);
    const bool has = ((const drom_lamp_settings *)lamp->settings)->has_colour && max > 0;
    (void)device;
    if (has) {
        rgb[0] = ((const drom_lamp_state *)lamp->state)->colour;
    }
    return has ? 1 : 0;
}

static bool is_low_on(const output_line *line)
{
    return line_value(line, ACTIVE_LOW, 0) != 0;
}

static char *sum_up(const drom_output *output, const void *device, uint64_t on_us)
{
    (void)device;
    (void)on_us;
    return g_strdup_printf("ends at %u %%", percent_of(((const drom_lamp_state *)output->state)->level));
}

const output_kind lamp_kind = {
    .name = "lamp",
    .heads = (const char *const[]){"NAME on pin PIN", "NAME on pins PIN PIN PIN", NULL},
    .core = &drom_lamp,
    .clauses = clauses,
    .orders = orders,
    .wiring = "resistor, or a transistor for more than the pin gives",
    .parts = "150 Ω in its lead; LED (flat side to ground)",
    .parts_of_low = "LED (flat side to the pin) and 150 Ω in its lead, from +5 V",
    .parts_of_low_at_3v3 = "LED (flat side to the pin) and 150 Ω in its lead, from the board's 3V3",
    .is_low_on = is_low_on,
    .terminal = "LED",
    .terminals = {"red", "green", "blue"},
    .way_out = "drive it through a transistor, with a diode across a coil",
    .driven = driven_by_driver,
    .row = row,
    .bake_settings = bake_settings,
    .rest_verb = rest_verb,
    .order_text = order_text,
    .activity = activity_of,
    .load_ma = load_ma,
    .unanswered = unanswered,
    .states = states,
    .is_in_state = is_in_state,
    .wrong_state = wrong_state,
    .state_text = state_text,
    .drawn_as = DRAWN_AS_LEVEL,
    .drawn = drawn,
    .colours = colours,
    .sum_up = sum_up,
};
