/* The lamp. */
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

static const kind_order orders[] = {
    {"off", .verb = DROM_LAMP_OFF},
    {"on", DROM_LAMP_ON, .can_be_held = true},
    {"toggle", .verb = DROM_LAMP_TOGGLE},
    {"brighter LEVEL", DROM_LAMP_BRIGHTER, .value = order_level},
    {"dimmer LEVEL", DROM_LAMP_DIMMER, .value = order_level},
    {"fade to LEVEL over TIME", DROM_LAMP_FADE, .value = fade_to},
    {"blink TIME", DROM_LAMP_BLINK, .can_be_held = true, .value = order_ms},
    {0},
};

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    drom_lamp_settings *const settings = plan_keep(made, sizeof *settings);
    drom_lamp_state *const state = plan_keep(made, sizeof *state);
    *settings = (drom_lamp_settings){plan_pin(made, line, 0), line_value(line, ACTIVE_LOW, 0) != 0};
    return (drom_output)DROM_LAMP(*settings, *state);
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const drom_lamp_settings *const settings = plan_output(loaded, output)->settings;
    g_string_append_printf(out, ".pin = %u, .is_active_low = %s", settings->pin,
                           c_bool(settings->is_active_low));
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

static double load_ma(const output_line *line, const board *chosen)
{
    (void)line;
    return chosen->pin_ma;
}

static char *sum_up(const drom_output *output, const void *device, uint64_t on_us)
{
    (void)device;
    (void)on_us;
    return g_strdup_printf("ends at %u %%", percent_of(((const drom_lamp_state *)output->state)->level));
}

const output_kind lamp_kind = {
    .name = "lamp",
    .head = "NAME on pin PIN",
    .core = &drom_lamp,
    .clauses = clauses,
    .orders = orders,
    .wiring = "resistor, or a transistor for more than the pin gives",
    .way_out = "drive it through a transistor, with a diode across a coil",
    .row = row,
    .bake_settings = bake_settings,
    .order_text = order_text,
    .activity = activity_of,
    .load_ma = load_ma,
    .sum_up = sum_up,
};
