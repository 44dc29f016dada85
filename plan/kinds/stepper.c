/* The stepper. */
#include "plan/kinds/kinds.h"
#include "plan/kinds/vetting.h"
#include "plan/kinds/wires.h"

#include "dromikos/outputs/stepper.h"

#include <math.h>
#include <stdlib.h>

enum { STEPS, SPEED, STILL, HOME, HOME_WITHIN };

enum {
    USUAL_STEPS = 2048, /* per turn: a small geared stepper */
    USUAL_STEPS_S = 200,
    USUAL_RAMP_MS = 500,
    MAX_STEPS_S = 5000,
    MAX_RAMP_MS = 60000,
    MAX_FIRST_US = 10000000,
    COIL_MA = 160, /* of a small geared stepper, with two coils on */
    USUAL_HOME_TURNS = 10,
    MAX_HOME_TURNS = 1000,
    BENCH_HOME = -300, /* steps: where the switch on the bench closes */
};

static const kind_clause clauses[] = {
    {"N steps a turn", STEPS, 0, 4, 100000, "a turn has so many steps"},
    {"up to N steps/s", SPEED, 0, 1, MAX_STEPS_S, "steps a second"},
    {"up to N steps/s within TIME", SPEED, 0, 1, MAX_STEPS_S, "steps a second"},
    {"holds still", STILL, .fixed = 1},
    {"home at NAME", HOME, 0, 0, 0, NULL},
    {"home at NAME within N turn", HOME_WITHIN, 0, 0, 0, NULL},
    {"home at NAME within N turns", HOME_WITHIN, 0, 0, 0, NULL},
    {0},
};

static bool has_home(const output_line *line)
{
    return line->clauses[HOME].is_given || line->clauses[HOME_WITHIN].is_given;
}

/* Returns the name of the switch. */
static const word *home_of(const output_line *line)
{
    return &line->clauses[line->clauses[HOME].is_given ? HOME : HOME_WITHIN].name;
}

static void check(plan *made, const output_line *line)
{
    const clause_given *const within = &line->clauses[HOME_WITHIN];
    if (has_home(line)) {
        (void)source_look_up(made->source, A_SWITCH, home_of(line));
    }
    if (within->is_given && line->clauses[HOME].is_given) {
        report_error(made->source->faults, within->where, "this is said of '%s' already", line->name.text);
    }
    if (within->is_given && (within->second < 1 || within->second > MAX_HOME_TURNS)) {
        report_error(made->source->faults, within->where, "home is found within 1 to %d turns",
                     MAX_HOME_TURNS);
    }
    if (line->clauses[SPEED].second > MAX_RAMP_MS) {
        report_error(made->source->faults, line->clauses[SPEED].where,
                     "a stepper speeds up within 1 ms to 1 min");
    }
}

static uint32_t steps_of(const output_line *line, const phrase_value *way)
{
    const double turn = line_value(line, STEPS, USUAL_STEPS);
    const double steps = way->unit == WAY_STEPS   ? way->amount
                         : way->unit == WAY_TURNS ? way->amount * turn
                                                  : way->amount * turn / 360;
    return (uint32_t)(int32_t)lround(MIN(steps, (double)DROM_STEPPER_FARTHEST));
}

/* `sign`: of the way. For a name, the steps of a unit, or of 360, are above the row. */
static uint32_t signed_way(const plan *made, action_words *action, int sign)
{
    const output_line *const line = plan_line(made, (guint)action->row);
    const phrase_value *const way = &action->values[0];
    if (!way->is_named) {
        return (uint32_t)sign * steps_of(line, way);
    }
    const uint32_t unit = way->unit == WAY_STEPS ? 1 : line_value(line, STEPS, USUAL_STEPS);
    action->flags |= way->unit == WAY_DEGREES ? DROM_AS_TURN : DROM_AS_MULTIPLE;
    return (uint32_t)sign * unit << 8;
}

static uint32_t forward(plan *made, action_words *action, const kind_order *order)
{
    (void)order;
    return signed_way(made, action, 1);
}

static uint32_t backward(plan *made, action_words *action, const kind_order *order)
{
    (void)order;
    return signed_way(made, action, -1);
}

static uint32_t home(plan *made, action_words *action, const kind_order *order)
{
    const output_line *const line = plan_line(made, (guint)action->row);
    (void)order;
    if (!has_home(line)) {
        report_error(made->source->faults, action->where,
                     "'%s' has no switch to find home at, as in: home at top", line->name.text);
    }
    return 0;
}

static const kind_order orders[] = {
    {"stop", .verb = DROM_STEPPER_STOP},
    {"run", DROM_STEPPER_RUN, .can_be_held = true, .fixed = 1},
    {"run back", DROM_STEPPER_RUN, .can_be_held = true, .fixed = 0},
    {"turn WAY", DROM_STEPPER_TURN, .value = forward},
    {"turn back WAY", DROM_STEPPER_TURN, .value = backward},
    {"forward WAY", DROM_STEPPER_TURN, .value = forward},
    {"back WAY", DROM_STEPPER_TURN, .value = backward},
    {"go to WAY", DROM_STEPPER_GO, .value = forward},
    {"go to back WAY", DROM_STEPPER_GO, .value = backward},
    {"home", .verb = DROM_STEPPER_HOME, .value = home},
    {0},
};

static double steps_s(const output_line *line)
{
    return line_value(line, SPEED, USUAL_STEPS_S);
}

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    drom_stepper_settings *const settings = plan_keep(made, sizeof *settings);
    drom_stepper_state *const state = plan_keep(made, sizeof *state);
    const uint32_t ramp_ms = line->clauses[SPEED].second != 0 ? line->clauses[SPEED].second : USUAL_RAMP_MS;
    const double first_us = 1e6 * sqrt(2 * ramp_ms / 1000.0 / steps_s(line));
    settings->fastest_us = (uint32_t)ceil(1e6 / steps_s(line));
    settings->first_us = (uint32_t)CLAMP(first_us, settings->fastest_us, MAX_FIRST_US);
    settings->holds_still = line_value(line, STILL, 0) != 0;
    if (has_home(line)) {
        const uint32_t turns = line->clauses[HOME_WITHIN].second;
        const uint32_t steps = (turns > 0 ? turns : USUAL_HOME_TURNS) * line_value(line, STEPS, USUAL_STEPS);
        settings->home = plan_switch(made, home_of(line));
        settings->home_max = (int32_t)MIN(steps, (uint32_t)DROM_STEPPER_FARTHEST);
    }
    for (unsigned i = 0; i < 4; i++) {
        settings->pins[i] = plan_pin(made, line, i);
    }
    return (drom_output)DROM_STEPPER(*settings, *state);
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const drom_stepper_settings *const settings = plan_output(loaded, output)->settings;
    g_string_append_printf(out,
                           ".pins = {%u, %u, %u, %u}, .first_us = %u, .fastest_us = %u, .holds_still = %s",
                           settings->pins[0], settings->pins[1], settings->pins[2], settings->pins[3],
                           settings->first_us, settings->fastest_us, c_bool(settings->holds_still));
    if (settings->home != NULL) {
        g_string_append_printf(out, ", .home = &touches[%u].is_closed, .home_max = %d",
                               plan_touch_of(loaded, settings->home), (int)settings->home_max);
    }
}

static char *order_text(const plan *loaded, const drom_action *action)
{
    const int32_t steps = (int32_t)action->value;
    (void)loaded;
    switch ((drom_stepper_verb)action->verb) {
    case DROM_STEPPER_RUN:
        return g_strdup(steps != 0 ? "run" : "run back");
    case DROM_STEPPER_TURN:
    case DROM_STEPPER_GO:
        return g_strdup_printf("%s %s%u steps", action->verb == DROM_STEPPER_GO ? "go to" : "turn",
                               steps < 0 ? "back " : "", (unsigned)abs(steps));
    default:
        return NULL;
    }
}

static activity activity_of(const drom_output *output)
{
    const drom_stepper_state *const state = output->state;
    const bool is_far = state->target == DROM_STEPPER_FARTHEST || state->target == -DROM_STEPPER_FARTHEST;
    return is_far ? ENDLESS : drom_stepper.is_busy(state) ? ENDING : IDLE;
}

static bool never_ends(const plan *loaded, const drom_action *action)
{
    (void)loaded;
    return action->verb == DROM_STEPPER_RUN;
}

static void vet(const vetting *job, guint output)
{
    const output_line *const line = plan_line(job->plan, output);
    const double late_us = vet_longest_wait_us(job) + job->board.masked_us;
    vet_add(job->result->times, late_us * 4 < 1e6 / steps_s(line) ? VET_FITS : VET_TIGHT, line->name.text,
            "a step comes late by up to", late_us, 1e6 / steps_s(line) / 4, "us",
            g_strdup("turn more slowly, or the motor may lose steps"));
}

/* Wires a stepper that is a quarter better than the plan asks for. */
static void *wire(sim_bench *bench, const plan *loaded, guint output)
{
    const drom_stepper_settings *const settings = plan_output(loaded, output)->settings;
    sim_stepper *const stepper = sim_bench_wire_stepper(bench, settings->pins, 1.25e6 / settings->fastest_us);
    if (settings->home != NULL) {
        const guint touch = plan_touch_of(loaded, settings->home);
        sim_stepper_set_home(stepper, plan_tables(loaded)->contacts.contacts.rows[touch].pin, BENCH_HOME);
    }
    return stepper;
}

static bool moves(const drom_output *output, int32_t *position)
{
    const drom_stepper_state *const state = output->state;
    *position = state->position;
    return drom_stepper.is_busy(state);
}

static char *place_text(const output_view *seen)
{
    return g_strdup_printf("stands at step %d",
                           (int)((const drom_stepper_state *)seen->row->state)->position);
}

static const char *const states[] = {"at WAY", "at back WAY", "runs", "stands", NULL};

static bool is_in_state(const output_view *seen, unsigned state, const phrase_value *values)
{
    const drom_stepper_state *const stepper = seen->row->state;
    const int32_t steps = state < 2 ? (int32_t)steps_of(plan_line(seen->plan, seen->output), &values[0]) : 0;
    return state < 2
               ? stepper->position == (state == 0 ? steps : -steps) && sim_stepper_lost(seen->device) == 0
               : drom_stepper.is_busy(stepper) == (state == 2);
}

static char *state_text(const output_view *seen)
{
    const drom_stepper_state *const stepper = seen->row->state;
    const unsigned lost = sim_stepper_lost(seen->device);
    g_autofree char *loss = lost > 0 ? g_strdup_printf(", with %u steps lost", lost) : g_strdup("");
    return g_strdup_printf("%s at %s%d steps%s", drom_stepper.is_busy(stepper) ? "runs" : "stands",
                           stepper->position < 0 ? "back " : "", abs((int)stepper->position), loss);
}

static double drawn(const output_view *seen)
{
    return ((const drom_stepper_state *)seen->row->state)->position;
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    (void)on_us;
    return g_strdup_printf("ends at step %d, %u steps lost",
                           (int)((const drom_stepper_state *)seen->row->state)->position,
                           sim_stepper_lost(seen->device));
}

static void wire_up(wiring_up *job)
{
    static const char *const coils[] = {"coil 1", "coil 2", "coil 3", "coil 4"};
    const double volts = circuit_net_at(job->made, wire_feed(job))->volts;
    g_autofree char *value = g_strdup_printf("a coil of a stepper for %g V", volts);
    for (unsigned i = 0; i < G_N_ELEMENTS(coils); i++) {
        wire_switched(job, i,
                      &(switched){.symbol = SYMBOL_COIL,
                                  .value = value,
                                  .ma = COIL_MA,
                                  .has_coil = true,
                                  .has_mosfet = true,
                                  .terminal = coils[i]});
    }
    wire_load(job, 2 * COIL_MA, 0, COIL_MA);
}

const output_kind stepper_kind = {
    .name = "stepper",
    .core = &drom_stepper,
    .words =
        {
            .heads = (const char *const[]){"NAME on pins PIN PIN PIN PIN", NULL},
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
        },
    .bake =
        {
            .settings = bake_settings,
        },
    .vet =
        {
            .min_mv = 3000,
            .max_mv = 48000,
            .driver = "a driver with four inputs",
            .wire_up = wire_up,
            .output = vet,
            .never_ends = never_ends,
            .timed_edges_s = steps_s,
        },
    .bench =
        {
            .activity = activity_of,
            .wire = wire,
            .moves = moves,
            .place_text = place_text,
            .states = states,
            .is_in_state = is_in_state,
            .state_text = state_text,
            .drawn_as = DRAWN_AS_PLACE,
            .drawn = drawn,
            .sum_up = sum_up,
        },
};
