/* The servo. */
#include "plan/kinds/kinds.h"
#include "plan/kinds/vetting.h"
#include "plan/kinds/wires.h"

#include "dromikos/outputs/servo.h"

#include <math.h>
#include <stdlib.h>

enum { PULSES };

enum {
    USUAL_MIN_US = 1000,
    USUAL_MAX_US = 2000,
    NARROWEST_US = 400,
    WIDEST_US = 2600,
    PULSES_S = 50,
    MOTOR_MA = 500,  /* of a small servo, holding */
    START_MA = 1000, /* and moving */
};

static const kind_clause clauses[] = {
    {"pulses N to N us", PULSES, 0, NARROWEST_US, WIDEST_US, "a pulse lasts so many µs"},
    {0},
};

static void check(plan *made, const output_line *line)
{
    const clause_given *const pulses = &line->clauses[PULSES];
    if (pulses->is_given && (pulses->second < NARROWEST_US || pulses->second > WIDEST_US)) {
        report_error(made->source->faults, pulses->where, "a pulse lasts so many µs: %d to %d", NARROWEST_US,
                     WIDEST_US);
    } else if (pulses->is_given && pulses->second == pulses->value) {
        report_error(made->source->faults, pulses->where, "the pulses for 0 and for 180 degrees must differ");
    }
}

static uint32_t go(plan *made, action_words *action, const kind_order *order)
{
    const phrase_value *const way = &action->values[0];
    const unsigned eighths = (unsigned)lround(MIN(way->amount, DROM_SERVO_FARTHEST) * 8);
    (void)order;
    if (way->unit != WAY_DEGREES || way->amount > DROM_SERVO_FARTHEST) {
        report_error(made->source->faults, way->where, "a servo goes to 0 to 180 degrees");
    }
    if (way->is_named) {
        action->flags |= DROM_AS_DEGREES;
    }
    return DROM_SERVO_TO(eighths / 8, 0) | DROM_SERVO_EIGHTHS(eighths % 8);
}

static uint32_t go_slowly(plan *made, action_words *action, const kind_order *order)
{
    const phrase_value *const over = &action->values[1];
    const uint32_t way = go(made, action, order);
    if (over->is_named && way > UINT8_MAX) {
        report_error(made->source->faults, action->values[0].where,
                     "with a time that isn't fixed a servo goes to whole degrees");
    }
    return way | DROM_SERVO_TO(0, order_time_above(made, action, over));
}

static const kind_order orders[] = {
    {"off", .verb = DROM_SERVO_OFF},
    {"go to WAY", DROM_SERVO_GO, .can_be_held = true, .value = go},
    {"go to WAY over TIME", DROM_SERVO_GO, .can_be_held = true, .value = go_slowly},
    {"forward WAY", DROM_SERVO_FORWARD, .value = go},
    {"forward WAY over TIME", DROM_SERVO_FORWARD, .value = go_slowly},
    {"back WAY", DROM_SERVO_BACK, .value = go},
    {"back WAY over TIME", DROM_SERVO_BACK, .value = go_slowly},
    {0},
};

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    const clause_given *const pulses = &line->clauses[PULSES];
    drom_servo_settings *const settings = plan_keep(made, sizeof *settings);
    drom_servo_state *const state = plan_keep(made, sizeof *state);
    settings->min_us = pulses->is_given ? (uint16_t)pulses->value : USUAL_MIN_US;
    settings->max_us = pulses->is_given ? (uint16_t)pulses->second : USUAL_MAX_US;
    settings->pin = plan_pin(made, line, 0);
    return (drom_output)DROM_SERVO(*settings, *state);
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const drom_servo_settings *const settings = plan_output(loaded, output)->settings;
    g_string_append_printf(out, ".min_us = %u, .max_us = %u, .pin = %u", settings->min_us, settings->max_us,
                           settings->pin);
}

static char *order_text(const plan *loaded, const drom_action *action)
{
    static const char *const ways[] = {
        [DROM_SERVO_GO] = "go to", [DROM_SERVO_FORWARD] = "forward", [DROM_SERVO_BACK] = "back"};
    const double degrees = (action->value & 0xff) + (action->value >> 29) / 8.0;
    const unsigned ms = action->value >> 8 & 0x1fffff;
    g_autofree char *over = ms > 0 ? g_strdup_printf(" over %u ms", ms) : g_strdup("");
    (void)loaded;
    return action->verb == DROM_SERVO_OFF
               ? NULL
               : g_strdup_printf("%s %g degrees%s", ways[action->verb], degrees, over);
}

static activity activity_of(const drom_output *output)
{
    const drom_servo_state *const state = output->state;
    return state->left > 0 ? ENDING : state->is_on ? ENDLESS : IDLE;
}

static double edges_s(const output_line *line)
{
    (void)line;
    return 2 * PULSES_S;
}

/* A pulse's two edges may be late by different times. */
static void vet(const vetting *job, guint output)
{
    const output_line *const line = plan_line(job->plan, output);
    const double late_us = vet_longest_wait_us(job);
    const double degree_us =
        abs((int)line_value(line, PULSES, USUAL_MIN_US) -
            (line->clauses[PULSES].is_given ? (int)line->clauses[PULSES].second : USUAL_MAX_US)) /
        180.0;
    vet_add(job->result->times, late_us <= 3 * degree_us ? VET_FITS : VET_TIGHT, line->name.text,
            "a pulse is off by up to", late_us, 3 * degree_us, "us",
            g_strdup("the arm may tremble by more than three degrees: give strips another board"));
}

static bool moves(const drom_output *output, int32_t *position)
{
    const drom_servo_settings *const settings = output->settings;
    const drom_servo_state *const state = output->state;
    const double span = (double)settings->max_us - settings->min_us;
    *position = (int32_t)lround((state->width_us - settings->min_us) * 180.0 / span);
    return state->left > 0;
}

static int degrees_of(const drom_output *output)
{
    int32_t degrees;
    (void)moves(output, &degrees);
    return (int)degrees;
}

static char *place_text(const output_view *seen)
{
    return g_strdup_printf("stands at %d degrees", degrees_of(seen->row));
}

static const char *const states[] = {"at WAY", "is off", NULL};

static bool is_in_state(const output_view *seen, unsigned state, const phrase_value *values)
{
    int32_t degrees;
    const bool is_moving = moves(seen->row, &degrees);
    return state == 0 ? !is_moving && degrees == (int32_t)lround(values[0].amount)
                      : !((const drom_servo_state *)seen->row->state)->is_on;
}

static char *state_text(const output_view *seen)
{
    const drom_output *const servo = seen->row;
    return ((const drom_servo_state *)servo->state)->is_on
               ? g_strdup_printf("at %d degrees", degrees_of(servo))
               : g_strdup("is off");
}

static double drawn(const output_view *seen)
{
    return degrees_of(seen->row);
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    (void)on_us;
    return ((const drom_servo_state *)seen->row->state)->is_on
               ? g_strdup_printf("ends at %d degrees", degrees_of(seen->row))
               : g_strdup("ends loose");
}

static void wire_up(wiring_up *job)
{
    const guint feed = wire_feed(job);
    const module_leg legs[] = {
        {"signal", job->made->ground}, {"+", feed}, {"-", job->made->ground}, {NULL, 0}};
    const guint servo = wire_module(job, MODULE_SERVO, "servo", legs);
    g_array_index(job->made->parts, circuit_part, servo - 1).current = MOTOR_MA / 1000.0;
    wire_to_module(job, 0, servo, 0, "signal", 0, false);
    g_array_index(job->made->stages, circuit_stage, job->made->stages->len - 1).parts[PLACE_CAPACITOR] =
        wire_part(job, SYMBOL_CAPACITOR, 470e-6, 0, g_strdup("470 µF, 16 V"), feed, job->made->ground);
    wire_load(job, MOTOR_MA, START_MA, 0);
}

const output_kind servo_kind = {
    .name = "servo",
    .core = &drom_servo,
    .words =
        {
            .heads = (const char *const[]){"NAME on pin PIN", NULL},
            .clauses = clauses,
            .orders = orders,
            .has_supply = true,
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
            .min_mv = 4500,
            .max_mv = 6000,
            .wire_up = wire_up,
            .output = vet,
            .timed_edges_s = edges_s,
        },
    .bench =
        {
            .activity = activity_of,
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
