/* The relay. */
#include "../kinds.h"

#include "dromikos/relay.h"

enum { ACTIVE_LOW, REST_ON, MIN_ON, MIN_OFF };

enum { COIL_MA = 75 }; /* a small 5 V relay's */

static const kind_clause clauses[] = {
    {"active low", ACTIVE_LOW, .fixed = 1},
    {"active high", ACTIVE_LOW, .fixed = 0},
    {"rest on", REST_ON, .fixed = 1},
    {"rest off", REST_ON, .fixed = 0},
    {"on at least TIME", MIN_ON, 0, 0, DROM_LONGEST_MS, "the minimum times of a relay"},
    {"off at least TIME", MIN_OFF, 0, 0, DROM_LONGEST_MS, "the minimum times of a relay"},
    {0},
};

static const kind_order orders[] = {
    {"off", .verb = DROM_RELAY_OFF},
    {"on", DROM_RELAY_ON, .can_be_held = true},
    {"toggle", .verb = DROM_RELAY_TOGGLE},
    {"pulse for TIME", DROM_RELAY_PULSE, .value = order_ms},
    {"pulse TIME", DROM_RELAY_PULSE, .value = order_ms},
    {0},
};

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    drom_relay_settings *const settings = plan_keep(made, sizeof *settings);
    drom_relay_state *const state = plan_keep(made, sizeof *state);
    *settings = (drom_relay_settings){
        .min_on_ms = line_value(line, MIN_ON, 0),
        .min_off_ms = line_value(line, MIN_OFF, 0),
        .pin = plan_pin(made, line, 0),
        .is_active_low = line_value(line, ACTIVE_LOW, 0) != 0,
        .rests_on = line_value(line, REST_ON, 0) != 0,
    };
    return (drom_output)DROM_RELAY(*settings, *state);
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const drom_relay_settings *const settings = plan_output(loaded, output)->settings;
    g_string_append_printf(
        out, ".min_on_ms = %u, .min_off_ms = %u, .pin = %u, .is_active_low = %s, .rests_on = %s",
        settings->min_on_ms, settings->min_off_ms, settings->pin, c_bool(settings->is_active_low),
        c_bool(settings->rests_on));
}

static char *order_text(const plan *loaded, const drom_action *action)
{
    (void)loaded;
    return action->verb == DROM_RELAY_PULSE ? g_strdup_printf("pulse for %u ms", action->value) : NULL;
}

static activity activity_of(const drom_output *output)
{
    return drom_relay.is_busy(output->state) ? ENDING : IDLE;
}

static double load_ma(const output_line *line, const board *chosen)
{
    (void)line;
    (void)chosen;
    return COIL_MA;
}

static uint8_t switched_pin(const drom_output *output, bool *is_active_low)
{
    const drom_relay_settings *const settings = output->settings;
    *is_active_low = settings->is_active_low;
    return settings->pin;
}

static void *wire(sim_bench *bench, const drom_output *output)
{
    bool is_active_low = false;
    const uint8_t pin = switched_pin(output, &is_active_low);
    return sim_bench_wire_relay(bench, pin, is_active_low);
}

static char *unanswered(const drom_output *output, drom_us now)
{
    const drom_relay_state *const state = output->state;
    return state->is_on != state->is_wanted_on
               ? g_strdup_printf(", in %u ms: its minimum %s time",
                                 (unsigned)(drom_deadline_wait(&state->min, now) / 1000),
                                 state->is_on ? "on" : "off")
               : g_strdup_printf(": is %s already", state->is_on ? "on" : "off");
}

static char *sum_up(const drom_output *output, const void *device, uint64_t on_us)
{
    const unsigned switched = sim_relay_operations(device);
    return g_strdup_printf("switched %u time%s, on for %.3f s in all, ends %s", switched,
                           switched == 1 ? "" : "s", (double)on_us / 1e6,
                           ((const drom_relay_state *)output->state)->is_on ? "on" : "off");
}

const output_kind relay_kind = {
    .name = "relay",
    .head = "NAME on pin PIN",
    .core = &drom_relay,
    .clauses = clauses,
    .orders = orders,
    .wiring = "transistor or relay board, diode across the coil",
    .way_out = "drive it through a transistor, with a diode across a coil",
    .row = row,
    .bake_settings = bake_settings,
    .order_text = order_text,
    .activity = activity_of,
    .load_ma = load_ma,
    .wire = wire,
    .switched_pin = switched_pin,
    .unanswered = unanswered,
    .sum_up = sum_up,
};
