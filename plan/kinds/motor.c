/* The motor, behind a bridge. */
#include "plan/kinds/kinds.h"
#include "plan/kinds/vetting.h"
#include "plan/kinds/wires.h"

#include "dromikos/outputs/motor.h"

#include <math.h>
#include <stdlib.h>

enum { SPEED_PIN, RAMP, DEAD, LIMIT, ENDS_FORWARD, ENDS_BACK, SPEEDS };

enum {
    FULL = DROM_FULL_LEVEL,
    PERCENT = 100,
    USUAL_RAMP_MS = 200,
    USUAL_DEAD_MS = 100,
    MAX_RAMP_MS = 60000,
    MAX_DEAD_MS = 10000,
    LOAD_MA = 500,   /* of a small motor, running */
    START_MA = 1500, /* and starting */
};

static const kind_clause clauses[] = {
    {"speed on pin PIN", SPEED_PIN, 0, 0, 0, NULL},
    {"ramp TIME", RAMP, 0, 0, MAX_RAMP_MS, "the time from standing to full speed"},
    {"dead time TIME", DEAD, 0, 1, MAX_DEAD_MS, "the pause before a motor turns round"},
    {"at most TIME", LIMIT, 0, 1, DROM_LONGEST_MS, "a motor runs for so long at a time"},
    {"stops forward at NAME", ENDS_FORWARD, 0, 0, 0, NULL},
    {"stops back at NAME", ENDS_BACK, 0, 0, 0, NULL},
    {"speeds N to N %", SPEEDS, 0, 1, PERCENT, "the lowest speed, in percent"},
    {"speeds N % to N %", SPEEDS, 0, 1, PERCENT, "the lowest speed, in percent"},
    {0},
};

static bool has_speed_pin(const output_line *line)
{
    return line->clauses[SPEED_PIN].is_given;
}

/* Its line names the speed pin only. */
static bool is_one_way(const output_line *line)
{
    return line->pin_count == 1;
}

static bool is_pwm(const output_line *line, unsigned pin)
{
    return !has_speed_pin(line) || pin == line->clauses[SPEED_PIN].value;
}

static bool rests_high(const output_line *line, unsigned pin)
{
    (void)line;
    (void)pin;
    return false;
}

static void check(plan *made, const output_line *line)
{
    report *const faults = made->source->faults;
    const clause_given *const speeds = &line->clauses[SPEEDS];
    for (unsigned i = ENDS_FORWARD; i <= ENDS_BACK; i++) {
        if (line->clauses[i].is_given) {
            (void)source_look_up(made->source, A_SWITCH, &line->clauses[i].name);
        }
    }
    if (has_speed_pin(line) && line->clauses[SPEED_PIN].value == 1) {
        report_error(
            faults, line->clauses[SPEED_PIN].where,
            "a motor on one pin has its speed there; a second one is for 'on pins 7 and 8, speed on pin 5'");
    }
    if (is_one_way(line) && line->clauses[ENDS_BACK].is_given) {
        report_error(faults, line->clauses[ENDS_BACK].where, "a motor on one pin doesn't run back");
    }
    if (speeds->is_given && (speeds->second < speeds->value || speeds->second > PERCENT)) {
        report_error(faults, speeds->where, "the highest speed is %u %% to 100 %%", speeds->value);
    }
}

/* Checks an order with the back direction. */
static uint32_t turned(plan *made, action_words *action, const kind_order *order)
{
    const output_line *const line = plan_line(made, (guint)action->row);
    if (is_one_way(line)) {
        report_error(
            made->source->faults, action->where,
            "'%s' is on one pin, and runs one way; two more say which: on pins 7 and 12, speed on pin 5",
            line->name.text);
    }
    return order->fixed;
}

static uint32_t run_back(plan *made, action_words *action, const kind_order *order)
{
    (void)turned(made, action, order);
    return DROM_MOTOR_BACK_AT(order_level(made, action, order));
}

static uint32_t brake(plan *made, action_words *action, const kind_order *order)
{
    const output_line *const line = plan_line(made, (guint)action->row);
    (void)order;
    if (line->pin_count < 3) {
        report_error(made->source->faults, action->where,
                     "'%s' can't brake without a speed pin: both sides of its bridge would be on",
                     line->name.text);
    }
    return 0;
}

static const kind_order orders[] = {
    {"stop", .verb = DROM_MOTOR_STOP},
    {"coast", .verb = DROM_MOTOR_COAST},
    {"brake", .verb = DROM_MOTOR_BRAKE, .value = brake},
    {"run", DROM_MOTOR_RUN, .can_be_held = true, .fixed = DROM_MOTOR_AT(FULL)},
    {"run LEVEL", DROM_MOTOR_RUN, .can_be_held = true, .value = order_level},
    {"run back", DROM_MOTOR_RUN, .can_be_held = true, .fixed = DROM_MOTOR_BACK_AT(FULL), .value = turned},
    {"run back LEVEL", DROM_MOTOR_RUN, .can_be_held = true, .value = run_back},
    {"faster LEVEL", DROM_MOTOR_FASTER, .value = order_level},
    {"slower LEVEL", DROM_MOTOR_SLOWER, .value = order_level},
    {"forward", .verb = DROM_MOTOR_FORWARD},
    {"back", .verb = DROM_MOTOR_BACK, .value = turned},
    {"reverse", .verb = DROM_MOTOR_REVERSE, .value = turned},
    {"resume", DROM_MOTOR_RESUME, .can_be_held = true},
    {"toggle", .verb = DROM_MOTOR_TOGGLE},
    {0},
};

static uint8_t pin_of(plan *made, const output_line *line, unsigned pin, bool has_it)
{
    return has_it ? plan_pin(made, line, pin) : DROM_NONE;
}

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    const clause_given *const speeds = &line->clauses[SPEEDS];
    drom_motor_settings *const settings = plan_keep(made, sizeof *settings);
    drom_motor_state *const state = plan_keep(made, sizeof *state);
    *settings = (drom_motor_settings){
        .ramp_ms = (uint16_t)line_value(line, RAMP, USUAL_RAMP_MS),
        .max_ms = line_value(line, LIMIT, 0),
        .stops_forward = plan_switch(made, &line->clauses[ENDS_FORWARD].name),
        .stops_back = plan_switch(made, &line->clauses[ENDS_BACK].name),
        .dead_ms = (uint16_t)line_value(line, DEAD, USUAL_DEAD_MS),
        .forward_pin = pin_of(made, line, 0, !is_one_way(line)),
        .back_pin = pin_of(made, line, 1, !is_one_way(line)),
        .speed_pin = pin_of(made, line, is_one_way(line) ? 0 : line->clauses[SPEED_PIN].value,
                            is_one_way(line) || has_speed_pin(line)),
        .slowest = (uint8_t)(speeds->is_given ? MAX(level_of(speeds->value), 1) : 1),
        .fastest = (uint8_t)(speeds->is_given ? level_of(speeds->second) : FULL),
    };
    return (drom_output)DROM_MOTOR(*settings, *state);
}

static void put_switch(GString *out, const plan *loaded, const char *name, const bool *ends)
{
    if (ends != NULL) {
        g_string_append_printf(out, ".%s = &touches[%u].is_closed, ", name, plan_touch_of(loaded, ends));
    }
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const drom_motor_settings *const settings = plan_output(loaded, output)->settings;
    const struct {
        const char *name;
        uint8_t pin;
    } pins[] = {
        {"forward", settings->forward_pin}, {"back", settings->back_pin}, {"speed", settings->speed_pin}};
    put_switch(out, loaded, "stops_forward", settings->stops_forward);
    put_switch(out, loaded, "stops_back", settings->stops_back);
    for (gsize i = 0; i < G_N_ELEMENTS(pins); i++) {
        g_autofree char *number =
            pins[i].pin == DROM_NONE ? g_strdup("DROM_NONE") : g_strdup_printf("%u", pins[i].pin);
        g_string_append_printf(out, ".%s_pin = %s, ", pins[i].name, number);
    }
    g_string_append_printf(out, ".ramp_ms = %u, .max_ms = %u, .dead_ms = %u, .slowest = %u, .fastest = %u",
                           settings->ramp_ms, settings->max_ms, settings->dead_ms, settings->slowest,
                           settings->fastest);
}

static char *order_text(const plan *loaded, const drom_action *action)
{
    const unsigned percent = percent_of(action->value & 0xff);
    (void)loaded;
    switch ((drom_motor_verb)action->verb) {
    case DROM_MOTOR_RUN:
        return g_strdup_printf("run %s%u %%", action->value > FULL ? "back " : "", percent);
    case DROM_MOTOR_FASTER:
        return g_strdup_printf("faster %u %%", percent);
    case DROM_MOTOR_SLOWER:
        return g_strdup_printf("slower %u %%", percent);
    default:
        return NULL;
    }
}

static activity activity_of(const drom_output *output)
{
    const drom_motor_settings *const settings = output->settings;
    const drom_motor_state *const state = output->state;
    return state->target == 0 && state->speed == 0                  ? IDLE
           : state->target == state->speed && settings->max_ms == 0 ? ENDLESS
                                                                    : ENDING;
}

static bool never_ends(const plan *loaded, const drom_action *action)
{
    const drom_motor_settings *const settings = plan_output(loaded, action->row)->settings;
    const drom_motor_verb verb = (drom_motor_verb)action->verb;
    return settings->max_ms == 0 && verb != DROM_MOTOR_STOP && verb != DROM_MOTOR_COAST &&
           verb != DROM_MOTOR_BRAKE && verb != DROM_MOTOR_SLOWER;
}

static void vet(const vetting *job, guint output)
{
    const output_line *const line = plan_line(job->plan, output);
    const double guard_ms = plan_tables(job->plan)->guard.ms;
    if (line->clauses[LIMIT].is_given) {
        const double limit_ms = line->clauses[LIMIT].value;
        vet_add(job->result->times, guard_ms < limit_ms ? VET_FITS : VET_TIGHT, line->name.text,
                "runs on past its limit where your code hangs", guard_ms, limit_ms, "ms",
                g_strdup("break your own code into pieces, and say so: own code blocks 50 ms"));
    }
}

static void *wire(sim_bench *bench, const plan *loaded, guint output)
{
    const drom_motor_settings *const settings = plan_output(loaded, output)->settings;
    return sim_bench_wire_motor(bench, settings->forward_pin, settings->back_pin, settings->speed_pin);
}

static int percent_driven(const drom_motor_state *state)
{
    const int percent = (int)percent_of((uint32_t)abs(state->speed));
    return state->speed < 0 ? -percent : percent;
}

static bool moves(const drom_output *output, int32_t *position)
{
    const drom_motor_state *const state = output->state;
    *position = percent_driven(state);
    return state->speed != state->target;
}

static char *speed_text(const drom_motor_state *state, const char *runs, const char *stands)
{
    const int percent = percent_driven(state);
    return percent == 0 ? g_strdup(state->is_braking ? "brakes" : stands)
                        : g_strdup_printf("%s%s%d %%", runs, percent < 0 ? "back at " : "at ", abs(percent));
}

static char *place_text(const output_view *seen)
{
    return speed_text(seen->row->state, "runs ", "stands");
}

static const char *const states[] = {"at INT %", "runs", "stands", NULL};

static bool is_in_state(const output_view *seen, unsigned state, const phrase_value *values)
{
    const drom_motor_state *const motor = seen->row->state;
    return state == 0 ? percent_driven(motor) == (int32_t)values[0].number
                      : (motor->speed != 0) == (state == 1);
}

static char *state_text(const output_view *seen)
{
    const int percent = percent_driven(seen->row->state);
    return percent == 0 ? g_strdup("stands") : g_strdup_printf("at %d %%", percent);
}

/* True if it stands at a switch in its direction. */
static char *end(const output_view *seen)
{
    const drom_motor_settings *const settings = seen->row->settings;
    const drom_motor_state *const state = seen->row->state;
    const bool *const stops = state->is_back ? settings->stops_back : settings->stops_forward;
    return state->speed == 0 && stops != NULL && *stops
               ? g_strdup(plan_line(seen->plan, seen->output)
                              ->clauses[state->is_back ? ENDS_BACK : ENDS_FORWARD]
                              .name.text)
               : NULL;
}

static double drawn(const output_view *seen)
{
    return percent_driven(seen->row->state) / 100.0;
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    const sim_motion motion = sim_motor_motion(seen->device);
    g_autofree char *now = speed_text(seen->row->state, "", "standing");
    (void)on_us;
    g_autofree char *shorts = motion.shorts > 0
                                  ? g_strdup_printf(", ITS BRIDGE WAS SHORTED %u times", motion.shorts)
                                  : g_strdup("");
    return g_strdup_printf("took up to %.0f mA, ends %s%s", motion.max_ma, now, shorts);
}

static void wire_bridge(wiring_up *job)
{
    const output_line *const line = job->line;
    const guint ground = job->made->ground;
    const guint ends[] = {wire_net(job, "OUT1"), wire_net(job, "OUT2")};
    const double volts = circuit_net_at(job->made, wire_feed(job))->volts;
    const module_leg legs[] = {{"IN1", ground},        {"IN2", ground}, {"EN", job->made->logic},
                               {"VM", wire_feed(job)}, {"GND", ground}, {"OUT1", ends[0]},
                               {"OUT2", ends[1]},      {NULL, 0}};
    g_autofree char *value = g_strdup_printf("motor bridge, %g V, %g A, inputs for %g V", volts,
                                             START_MA / 1000.0, job->board->logic_volts);
    const guint bridge = wire_module(job, MODULE_BRIDGE, value, legs);
    wire_to_module(job, 0, bridge, 0, "forward", 0, true);
    wire_to_module(job, 1, bridge, 1, "back", 0, true);
    if (has_speed_pin(line)) {
        wire_to_module(job, line->clauses[SPEED_PIN].value, bridge, 2, "speed", 0, true);
    }
    (void)wire_part(job, SYMBOL_MOTOR, volts * 1000 / LOAD_MA, LOAD_MA / 1000.0,
                    g_strdup_printf("motor for %g V", volts), ends[0], ends[1]);
}

static void wire_up(wiring_up *job)
{
    const double volts = circuit_net_at(job->made, wire_feed(job))->volts;
    g_autofree char *value = g_strdup_printf("motor for %g V", volts);
    if (is_one_way(job->line)) {
        wire_switched(job, 0,
                      &(switched){.symbol = SYMBOL_MOTOR,
                                  .value = value,
                                  .ma = LOAD_MA,
                                  .start_ma = START_MA,
                                  .has_coil = true,
                                  .has_mosfet = true,
                                  .terminal = "speed"});
    } else {
        wire_bridge(job);
    }
    wire_load(job, LOAD_MA, START_MA, LOAD_MA);
}

const output_kind motor_kind = {
    .name = "motor",
    .core = &drom_motor,
    .words =
        {
            .heads = (const char *const[]){"NAME on pins PIN and PIN", "NAME on pin PIN", NULL},
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
            .is_guarded = always,
            .rests_high = rests_high,
        },
    .bake =
        {
            .settings = bake_settings,
        },
    .vet =
        {
            .min_mv = 1500,
            .max_mv = 48000,
            .driver = "a bridge or, one way, a transistor with a diode",
            .wire_up = wire_up,
            .is_pwm = is_pwm,
            .output = vet,
            .never_ends = never_ends,
        },
    .bench =
        {
            .activity = activity_of,
            .wire = wire,
            .end = end,
            .moves = moves,
            .place_text = place_text,
            .states = states,
            .is_in_state = is_in_state,
            .state_text = state_text,
            .drawn_as = DRAWN_AS_SIGNED,
            .drawn = drawn,
            .sum_up = sum_up,
        },
};
