/* The stepper. */
#include "../kinds.h"
#include "../vetting.h"

#include "dromikos/stepper.h"

#include <math.h>
#include <stdlib.h>

enum { STEPS, SPEED, STILL };

enum {
    USUAL_STEPS = 2048, /* of a turn: a small geared stepper */
    USUAL_STEPS_S = 200,
    USUAL_RAMP_MS = 500,
    MAX_STEPS_S = 5000,
    MAX_RAMP_MS = 60000,
    COILS_MA = 320, /* two of a small geared stepper */
};

static const kind_clause clauses[] = {
    {"N steps a turn", STEPS, 0, 4, 100000, "a turn has so many steps"},
    {"up to N steps/s", SPEED, 0, 1, MAX_STEPS_S, "steps a second"},
    {"up to N steps/s within TIME", SPEED, 0, 1, MAX_STEPS_S, "steps a second"},
    {"holds still", STILL, .fixed = 1},
    {0},
};

static void check(plan *made, const output_line *line)
{
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

static uint32_t forward(plan *made, action_words *action, const kind_order *order)
{
    (void)order;
    return steps_of(plan_line(made, (guint)action->row), &action->values[0]);
}

static uint32_t backward(plan *made, action_words *action, const kind_order *order)
{
    return 0 - forward(made, action, order);
}

static const kind_order orders[] = {
    {"stop", .verb = DROM_STEPPER_STOP},
    {"run", DROM_STEPPER_RUN, .can_be_held = true, .fixed = 1},
    {"run back", DROM_STEPPER_RUN, .can_be_held = true, .fixed = 0},
    {"turn WAY", DROM_STEPPER_TURN, .value = forward},
    {"turn back WAY", DROM_STEPPER_TURN, .value = backward},
    {"go to WAY", DROM_STEPPER_GO, .value = forward},
    {"go to back WAY", DROM_STEPPER_GO, .value = backward},
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
    const double first_us = 676000 * sqrt(2 * ramp_ms / 1000.0 / steps_s(line));
    settings->fastest_us = (uint16_t)MIN(ceil(1e6 / steps_s(line)), UINT16_MAX);
    settings->first_us = (uint16_t)CLAMP(first_us, settings->fastest_us, UINT16_MAX);
    settings->holds_still = line_value(line, STILL, 0) != 0;
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
    return is_far ? ENDLESS : state->is_moving ? ENDING : IDLE;
}

static double load_ma(const output_line *line, const board *chosen)
{
    (void)line;
    (void)chosen;
    return COILS_MA;
}

static void vet(const vetting *job, guint output)
{
    const output_line *const line = plan_line(job->plan, output);
    const double late_us = vet_longest_wait_us(job) + job->board.masked_us;
    vet_add(job->result->times, late_us * 4 < 1e6 / steps_s(line) ? VET_FITS : VET_TIGHT, line->name.text,
            "a step comes late by up to", late_us, 1e6 / steps_s(line) / 4, "us",
            g_strdup("turn more slowly, or the motor may lose steps"));
}

/* One that is a quarter better than the plan asks for. */
static void *wire(sim_bench *bench, const drom_output *output)
{
    const drom_stepper_settings *const settings = output->settings;
    return sim_bench_wire_stepper(bench, settings->pins, 1.25e6 / settings->fastest_us);
}

static bool moves(const drom_output *output, int32_t *position)
{
    const drom_stepper_state *const state = output->state;
    *position = state->position;
    return state->is_moving;
}

static char *place_text(const drom_output *output)
{
    return g_strdup_printf("step %d", (int)((const drom_stepper_state *)output->state)->position);
}

static char *sum_up(const drom_output *output, const void *device, uint64_t on_us)
{
    (void)output;
    (void)on_us;
    return g_strdup_printf("ends at step %ld, %u steps lost", sim_stepper_position(device),
                           sim_stepper_lost(device));
}

const output_kind stepper_kind = {
    .name = "stepper",
    .head = "NAME on pins PIN PIN PIN PIN",
    .core = &drom_stepper,
    .clauses = clauses,
    .orders = orders,
    .wiring = "driver with four inputs, supply of its own",
    .way_out = "drive the coils through a driver, from a supply of their own",
    .check = check,
    .row = row,
    .bake_settings = bake_settings,
    .order_text = order_text,
    .activity = activity_of,
    .load_ma = load_ma,
    .vet = vet,
    .timed_edges_s = steps_s,
    .wire = wire,
    .moves = moves,
    .place_text = place_text,
    .sum_up = sum_up,
};
