/* The lamp. */
#include "plan/kinds/wires.h"
#include "plan/language/colours.h"

#include "dromikos/outputs/lamp.h"

enum { ACTIVE_LOW, ONE_LED };

enum {
    LED_MV = 2000,
    BLUE_MV = 3000 /* and green */,
    LED_MA = 10,
    DRIVEN_MA = 100,
    MAX_LED_MV = 5000,
    MAX_LED_MA = 3000,
    MIN_SPARE_MV = 800 /* of a resistor */
};

static const kind_clause clauses[] = {
    {"active low", ACTIVE_LOW, .fixed = 1},
    {"active high", ACTIVE_LOW, .fixed = 0},
    {"LED AMOUNT V N mA", ONE_LED, 0, 0, 0, NULL},
    {0},
};

static uint32_t fade_to(plan *made, action_words *action, const kind_order *order)
{
    const uint32_t level = order_level(made, action, order);
    return DROM_FADE(level, order_time_above(made, action, &action->values[1]));
}

static uint32_t dim(plan *made, action_words *action, const kind_order *order)
{
    const phrase_value *const over = &action->values[0];
    if (!over->is_named && over->number < 1) {
        report_error(made->source->faults, over->where, "this time may be 1 ms to 30 min");
    }
    return DROM_DIM(order->fixed, order_time_above(made, action, over));
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

/* Returns the level that an order has set at once; a fade states it itself. */
static char *unanswered(const output_view *seen, drom_us now)
{
    const drom_lamp_state *const lamp = seen->row->state;
    (void)now;
    return lamp->level == lamp->target && !lamp->blinks
               ? g_strdup_printf(" -> %u %%", percent_of(lamp->level))
               : g_strdup("");
}

static bool never_ends(const plan *loaded, const drom_action *action)
{
    (void)loaded;
    return action->verb == DROM_LAMP_BLINK;
}

static const char *const states[] = {"is on", "is off", "at LEVEL", "is in COLOUR", NULL};

static bool is_in_state(const output_view *seen, unsigned state, const phrase_value *values)
{
    const drom_lamp_state *const lamp = seen->row->state;
    uint32_t wanted = 0;
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

static char *state_text(const output_view *seen)
{
    const drom_lamp_settings *const settings = seen->row->settings;
    const drom_lamp_state *const lamp = seen->row->state;
    g_autofree char *colour = colour_text(lamp->colour);
    return g_strdup_printf("at %u %%%s%s", percent_of(lamp->level), settings->has_colour ? ", " : "",
                           settings->has_colour ? colour : "");
}

static double drawn(const output_view *seen)
{
    return ((const drom_lamp_state *)seen->row->state)->level / (double)DROM_FULL_LEVEL;
}

/* Its colour at full level. */
static unsigned colours(const output_view *seen, uint32_t *rgb, unsigned max)
{
    const drom_output *const lamp = seen->row;
    const bool has = ((const drom_lamp_settings *)lamp->settings)->has_colour && max > 0;
    if (has) {
        rgb[0] = ((const drom_lamp_state *)lamp->state)->colour;
    }
    return has ? 1 : 0;
}

static void check(plan *made, const output_line *line)
{
    const clause_given *const led = &line->clauses[ONE_LED];
    if (led->is_given &&
        (led->value < 1000 || led->value > MAX_LED_MV || led->second < 1 || led->second > MAX_LED_MA)) {
        report_error(made->source->faults, led->where, "a LED has 1 to %d V at 1 to %d mA", MAX_LED_MV / 1000,
                     MAX_LED_MA);
    }
}

/* Adds what one of its pins lights: a LED with its resistor, or a complete lamp. */
static void wire_pin(wiring_up *job, unsigned pin, const char *terminal)
{
    const output_line *const line = job->line;
    const clause_given *const led = &line->clauses[ONE_LED];
    const bool is_lamp = (line->supply.is_given || line->driven.is_given) && !led->is_given;
    const double volts = circuit_net_at(job->made, wire_feed(job))->volts;
    const double led_v = (led->is_given ? led->value : pin > 0 ? BLUE_MV : LED_MV) / 1000.0;
    const double lamp_ma =
        line->supply.is_given ? (double)line->supply.second / 1.2 / line->pin_count : DRIVEN_MA;
    const double ma = is_lamp ? lamp_ma : led->is_given ? led->second : LED_MA;
    g_autofree char *value = is_lamp ? g_strdup_printf("lamp for %g V, up to %.2g A", volts, ma / 1000)
                                     : g_strdup_printf("LED, %g V at %g mA", led_v, ma);
    const switched load = {.symbol = is_lamp ? SYMBOL_LAMP : SYMBOL_LED,
                           .value = value,
                           .ma = ma,
                           .led_volts = is_lamp ? 0 : led_v,
                           .is_low_on = line_value(line, ACTIVE_LOW, 0) != 0,
                           .has_mosfet = true,
                           .terminal = terminal};
    /* LEDs in one housing share a lead: all are switched, or none. */
    const bool is_blue_weak =
        line->pin_count > 1 && job->board->logic_volts < (BLUE_MV + MIN_SPARE_MV) / 1000.0;
    if (line->supply.is_given || line->driven.is_given || is_blue_weak) {
        wire_switched(job, pin, &load);
    } else {
        wire_led(job, pin, &load);
    }
    wire_load(job, ma, 0, line->supply.is_given ? 0 : ma);
}

static void wire_up(wiring_up *job)
{
    static const char *const colours_of[] = {"red", "green", "blue"};
    for (unsigned i = 0; i < MIN(job->line->pin_count, G_N_ELEMENTS(colours_of)); i++) {
        wire_pin(job, i, job->line->pin_count > 1 ? colours_of[i] : "LED");
    }
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    (void)on_us;
    return g_strdup_printf("ends at %u %%", percent_of(((const drom_lamp_state *)seen->row->state)->level));
}

const output_kind lamp_kind = {
    .name = "lamp",
    .core = &drom_lamp,
    .words =
        {
            .heads = (const char *const[]){"NAME on pin PIN", "NAME on pins PIN PIN PIN", NULL},
            .clauses = clauses,
            .orders = orders,
            .has_supply = true,
            .driven = driven_by_driver,
            .order_text = order_text,
        },
    .checks =
        {
            .check = check,
            .row = row,
            .rest_verb = rest_verb,
        },
    .bake =
        {
            .settings = bake_settings,
        },
    .vet =
        {
            .min_mv = 3000,
            .max_mv = 48000,
            .driver = "a transistor",
            .wire_up = wire_up,
            .never_ends = never_ends,
        },
    .bench =
        {
            .activity = activity_of,
            .unanswered = unanswered,
            .states = states,
            .is_in_state = is_in_state,
            .wrong_state = wrong_state,
            .state_text = state_text,
            .drawn_as = DRAWN_AS_LEVEL,
            .drawn = drawn,
            .colours = colours,
            .sum_up = sum_up,
        },
};
