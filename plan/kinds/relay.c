/* The relay. */
#include "plan/kinds/kinds.h"
#include "plan/kinds/vetting.h"
#include "plan/kinds/wires.h"

#include "dromikos/outputs/relay.h"

enum { ACTIVE_LOW, REST_ON, MIN_ON, MIN_OFF, MAX_ON, CLOSED };

enum { COIL_MW = 375 /* of a small relay */, INPUT_MA = 4 /* of a relay board */ };

static const kind_clause clauses[] = {
    {"active low", ACTIVE_LOW, .fixed = 1},
    {"active high", ACTIVE_LOW, .fixed = 0},
    {"rest on", REST_ON, .fixed = 1},
    {"rest off", REST_ON, .fixed = 0},
    {"on at least TIME", MIN_ON, 0, 0, DROM_LONGEST_MS, "the minimum times of a relay"},
    {"off at least TIME", MIN_OFF, 0, 0, DROM_LONGEST_MS, "the minimum times of a relay"},
    {"at most TIME", MAX_ON, 0, 1, DROM_LONGEST_MS, "a relay is on for so long at a time"},
    {"contacts normally closed", CLOSED, .fixed = 1},
    {"contacts normally open", CLOSED, .fixed = 0},
    {0},
};

static void check(plan *made, const output_line *line)
{
    const clause_given *const max = &line->clauses[MAX_ON];
    if (max->is_given && max->value < line_value(line, MIN_ON, 0)) {
        report_error(made->source->faults, max->where, "'%s' is to be on for at least %u ms", line->name.text,
                     line_value(line, MIN_ON, 0));
    }
    if (max->is_given && line_value(line, REST_ON, 0) != 0) {
        report_error(made->source->faults, max->where, "'%s' rests on, and so can't be on for a time only",
                     line->name.text);
    }
}

/* A relay with `at most` is off when the program hangs. */
static bool is_guarded(const output_line *line)
{
    return line->clauses[MAX_ON].is_given;
}

/* On means that the load is on: with normally closed contacts, while the coil is off. */
static bool is_on_when_low(const output_line *line)
{
    return (line_value(line, ACTIVE_LOW, 0) != 0) != (line_value(line, CLOSED, 0) != 0);
}

static bool rests_high(const output_line *line, unsigned pin)
{
    (void)pin;
    return is_on_when_low(line);
}

static void vet(const vetting *job, guint output)
{
    const output_line *const line = plan_line(job->plan, output);
    if (line_value(line, CLOSED, 0) != 0 && line_value(line, REST_ON, 0) == 0) {
        vet_add(job->result->pins, VET_TIGHT, line->name.text, "the load is on until the program starts", 0,
                0, "", g_strdup("use the contacts that are open at rest, unless it should be on at a reset"));
    }
}

static void vet_order(const vetting *job, const drom_action *action, int line)
{
    const uint32_t min_ms = line_value(plan_line(job->plan, action->row), MIN_ON, 0);
    if (action->verb == DROM_RELAY_PULSE && action->value < min_ms) {
        g_autofree char *what =
            g_strdup_printf("the pulse of line %d lasts as long as 'on at least' says", line);
        vet_add(job->result->times, VET_TIGHT, plan_output_name(job->plan, action->row), what, action->value,
                min_ms, "ms", g_strdup_printf("make the pulse %u ms, or the least time shorter", min_ms));
    }
}

static const kind_order orders[] = {
    {"off", .verb = DROM_RELAY_OFF},
    {"on", DROM_RELAY_ON, .can_be_held = true},
    {"toggle", .verb = DROM_RELAY_TOGGLE},
    {"pulse for TIME", DROM_RELAY_PULSE, .value = order_ms},
    {"pulse TIME", DROM_RELAY_PULSE, .value = order_ms},
    {"on for TIME", DROM_RELAY_PULSE, .value = order_ms},
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
        .max_on_ms = line_value(line, MAX_ON, 0),
        .pin = plan_pin(made, line, 0),
        .is_active_low = is_on_when_low(line),
        .rests_on = line_value(line, REST_ON, 0) != 0,
    };
    return (drom_output)DROM_RELAY(*settings, *state);
}

static uint8_t rest_verb(const output_line *line)
{
    return line_value(line, REST_ON, 0) != 0 ? DROM_RELAY_ON : DROM_RELAY_OFF;
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const drom_relay_settings *const settings = plan_output(loaded, output)->settings;
    g_string_append_printf(
        out,
        ".min_on_ms = %u, .min_off_ms = %u, .max_on_ms = %u, .pin = %u, .is_active_low = %s, .rests_on = %s",
        settings->min_on_ms, settings->min_off_ms, settings->max_on_ms, settings->pin,
        c_bool(settings->is_active_low), c_bool(settings->rests_on));
}

static char *order_text(const plan *loaded, const drom_action *action)
{
    (void)loaded;
    return action->verb == DROM_RELAY_PULSE ? g_strdup_printf("pulse for %u ms", action->value) : NULL;
}

static activity activity_of(const drom_output *output)
{
    const drom_relay_state *const state = output->state;
    return drom_relay.is_busy(state) || state->has_max ? ENDING : IDLE;
}

static uint8_t switched_pin(const drom_output *output, bool *is_active_low)
{
    const drom_relay_settings *const settings = output->settings;
    *is_active_low = settings->is_active_low;
    return settings->pin;
}

static void *wire(sim_bench *bench, const plan *loaded, guint output)
{
    bool is_active_low = false;
    const uint8_t pin = switched_pin(plan_output(loaded, output), &is_active_low);
    return sim_bench_wire_relay(bench, pin, is_active_low);
}

static void go_dark(const plan *loaded, guint output, drom_timing *timing, sim_bench *bench)
{
    const drom_port *const port = sim_bench_port(bench);
    bool is_active_low = false;
    const uint8_t pin = switched_pin(plan_output(loaded, output), &is_active_low);
    (void)timing;
    *(drom_relay_state *)plan_output(loaded, output)->state = (drom_relay_state){0};
    port->pins->write(port->context, pin, is_active_low);
}

/* Returns "2 s", "1500 ms"; to be freed. */
static char *time_text(uint32_t ms)
{
    return ms % 1000 == 0 ? g_strdup_printf("%u s", ms / 1000) : g_strdup_printf("%u ms", ms);
}

static uint32_t min_ms(const plan *loaded, guint output)
{
    const drom_relay_settings *const settings = plan_output(loaded, output)->settings;
    const drom_relay_state *const state = plan_output(loaded, output)->state;
    return state->is_on ? settings->min_on_ms : settings->min_off_ms;
}

static char *waits(const output_view *seen)
{
    const drom_relay_state *const state = seen->row->state;
    g_autofree char *min = time_text(min_ms(seen->plan, seen->output));
    return state->is_on != state->is_wanted_on
               ? g_strdup_printf("%s at least %s, line %d", state->is_on ? "on" : "off", min,
                                 plan_line(seen->plan, seen->output)->name.where.line)
               : NULL;
}

static char *unanswered(const output_view *seen, drom_us now)
{
    const drom_relay_state *const state = seen->row->state;
    const drom_us until = state->switched_at + min_ms(seen->plan, seen->output) * 1000;
    g_autofree char *why = waits(seen);
    return why != NULL
               ? g_strdup_printf(": delayed %u ms (%s)", (unsigned)(drom_until(now, until) / 1000), why)
               : g_strdup_printf(": is %s already", state->is_on ? "on" : "off");
}

static const char *const states[] = {"is on", "is off", NULL};

static bool is_in_state(const output_view *seen, unsigned state, const phrase_value *values)
{
    const drom_relay_state *const relay = seen->row->state;
    (void)values;
    return relay->is_on == (state == 0);
}

static char *state_text(const output_view *seen)
{
    const drom_relay_state *const relay = seen->row->state;
    return g_strdup(relay->is_on ? "is on" : "is off");
}

static double drawn(const output_view *seen)
{
    return ((const drom_relay_state *)seen->row->state)->is_on;
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    const unsigned operations = sim_relay_operations(seen->device);
    return g_strdup_printf("switched %u time%s, on for %.3f s in all, ends %s", operations,
                           operations == 1 ? "" : "s", (double)on_us / 1e6,
                           ((const drom_relay_state *)seen->row->state)->is_on ? "on" : "off");
}

/* The load is connected to the common contact, and to the one that closes when it is on. */
static const char *contacts_text(const output_line *line)
{
    return line_value(line, CLOSED, 0) != 0 ? "its load between COM and NC" : "its load between COM and NO";
}

static void wire_board(wiring_up *job, double coil_ma)
{
    const bool is_low_on = is_on_when_low(job->line);
    const guint feed = wire_feed(job);
    const bool is_fed_apart = feed != job->made->logic; /* by its second supply input */
    const module_leg legs[] = {{"IN", job->made->ground},
                               {"VCC", job->made->logic},
                               {"GND", job->made->ground},
                               {"COM", wire_net(job, "COM")},
                               {"NO", wire_net(job, "NO")},
                               {"NC", wire_net(job, "NC")},
                               {is_fed_apart ? "coil +" : NULL, feed},
                               {NULL, 0}};
    g_autofree char *value =
        g_strdup_printf("relay board, on when IN is %s, inputs for %g V%s", is_low_on ? "low" : "high",
                        job->board->logic_volts, is_fed_apart ? ", its coil fed apart" : "");
    const guint module = wire_module(job, MODULE_RELAY_BOARD, value, legs);
    wire_to_module(job, 0, module, 0, "IN", 0, false);
    circuit_stage *const stage = &g_array_index(job->made->stages, circuit_stage, job->made->stages->len - 1);
    *(is_low_on ? &stage->sink_ma : &stage->source_ma) = INPUT_MA;
    g_array_index(job->made->parts, circuit_part, module - 1).current = coil_ma / 1000;
    g_array_index(job->made->parts, circuit_part, module - 1).amount = is_low_on ? -1 : 1;
    g_array_index(job->made->parts, circuit_part, module - 1).note = g_strdup(contacts_text(job->line));
}

static void wire_up(wiring_up *job)
{
    const double volts = circuit_net_at(job->made, wire_feed(job))->volts;
    const double coil_ma = COIL_MW / volts;
    if (job->line->driven.value == DRIVEN_ON_BOARD) {
        wire_board(job, coil_ma);
    } else {
        g_autofree char *value = g_strdup_printf("relay, its coil for %g V", volts);
        wire_switched(job, 0,
                      &(switched){.symbol = SYMBOL_COIL,
                                  .value = value,
                                  .ma = coil_ma,
                                  .has_coil = true,
                                  .is_low_on = is_on_when_low(job->line),
                                  .terminal = "coil"});
        const circuit_stage *const stage =
            &g_array_index(job->made->stages, circuit_stage, job->made->stages->len - 1);
        g_array_index(job->made->parts, circuit_part, stage->parts[PLACE_LOAD] - 1).note =
            g_strdup(contacts_text(job->line));
    }
    wire_load(job, coil_ma, 0, coil_ma);
}

const output_kind relay_kind = {
    .name = "relay",
    .core = &drom_relay,
    .words =
        {
            .heads = (const char *const[]){"NAME on pin PIN", NULL},
            .clauses = clauses,
            .orders = orders,
            .has_supply = true,
            .driven = driven_on_board,
            .order_text = order_text,
        },
    .checks =
        {
            .check = check,
            .row = row,
            .rest_verb = rest_verb,
            .is_guarded = is_guarded,
            .rests_high = rests_high,
        },
    .bake =
        {
            .settings = bake_settings,
        },
    .vet =
        {
            .may_be_mains = true,
            .min_mv = 3000,
            .max_mv = 48000,
            .driver = "a transistor with a diode across its coil",
            .wire_up = wire_up,
            .output = vet,
            .order = vet_order,
        },
    .bench =
        {
            .activity = activity_of,
            .wire = wire,
            .go_dark = go_dark,
            .switched_pin = switched_pin,
            .unanswered = unanswered,
            .waits = waits,
            .states = states,
            .is_in_state = is_in_state,
            .state_text = state_text,
            .drawn_as = DRAWN_AS_LEVELS,
            .drawn = drawn,
            .sum_up = sum_up,
        },
};
