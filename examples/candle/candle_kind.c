/* The candle. */
#include "plan/kinds/wires.h"

#include "dromikos/outputs/candle.h"

enum { EVERY };

enum { USUAL_MS = 60, MAX_MS = 1000, MIN_MS = 20, LED_MA = 15, USUAL_DRAUGHT = 30 };

static const kind_clause clauses[] = {
    {"changes every TIME", EVERY, 0, MIN_MS, MAX_MS, "the time between two changes of a candle"},
    {0},
};

static uint32_t still(plan *made, action_words *action, const kind_order *order)
{
    (void)made;
    (void)action;
    (void)order;
    return level_of(USUAL_DRAUGHT);
}

static const kind_order orders[] = {
    {"out", .verb = DROM_CANDLE_OUT},
    {"burn", DROM_CANDLE_BURN, .can_be_held = true, .value = still},
    {"burn in a draught of LEVEL", DROM_CANDLE_BURN, .can_be_held = true, .value = order_level},
    {0},
};

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    drom_candle_settings *const settings = plan_keep(made, sizeof *settings);
    drom_candle_state *const state = plan_keep(made, sizeof *state);
    settings->every_ms = (uint16_t)line_value(line, EVERY, USUAL_MS);
    settings->pin = plan_pin(made, line, 0);
    return (drom_output)DROM_CANDLE(*settings, *state);
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const drom_candle_settings *const settings = plan_output(loaded, output)->settings;
    g_string_append_printf(out, ".every_ms = %u, .pin = %u", settings->every_ms, settings->pin);
}

static char *order_text(const plan *loaded, const drom_action *action)
{
    (void)loaded;
    return action->verb == DROM_CANDLE_OUT
               ? NULL
               : g_strdup_printf("burn in a draught of %u %%", percent_of(action->value));
}

static activity activity_of(const drom_output *output)
{
    return ((const drom_candle_state *)output->state)->burns ? ENDLESS : IDLE;
}

static void wire_up(wiring_up *job)
{
    wire_led(job, 0,
             &(switched){.symbol = SYMBOL_LED,
                         .value = "LED, 2.1 V at 15 mA",
                         .ma = LED_MA,
                         .led_volts = 2.1,
                         .terminal = "LED"});
    wire_load(job, LED_MA, 0, 0);
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    (void)on_us;
    return g_strdup(((const drom_candle_state *)seen->row->state)->burns ? "burns" : "is out");
}

const output_kind candle_kind = {
    .name = "candle",
    .core = &drom_candle,
    .words =
        {
            .heads = (const char *const[]){"NAME on pin PIN", NULL},
            .clauses = clauses,
            .orders = orders,
            .order_text = order_text,
        },
    .checks =
        {
            .row = row,
        },
    .bake =
        {
            .settings = bake_settings,
        },
    .vet =
        {
            .wire_up = wire_up,
        },
    .bench =
        {
            .activity = activity_of,
            .sum_up = sum_up,
        },
};
