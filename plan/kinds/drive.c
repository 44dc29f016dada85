/* The drive: two motors of the plan, left and right. */
#include "plan/kinds/kinds.h"

#include "dromikos/outputs/drive.h"

enum { FULL = DROM_FULL_LEVEL };

static const kind_clause clauses[] = {{0}};

static void check(plan *made, const output_line *line)
{
    for (unsigned i = 0; i < MAX_MEMBERS; i++) {
        int row;
        if (source_find(made->source, line->members[i].text, &row) == AN_OUTPUT &&
            plan_line(made, (guint)row)->kind->core != &drom_motor) {
            report_error(made->source->faults, line->members[i].where,
                         "a drive is made of two motors; '%s' is a %s", line->members[i].text,
                         plan_line(made, (guint)row)->kind->name);
        }
    }
}

/* Checks an order that not every motor can do. */
static uint32_t check_sides(plan *made, action_words *action, uint32_t value, unsigned pins, const char *why)
{
    const output_line *const line = plan_line(made, (guint)action->row);
    for (unsigned i = 0; i < MAX_MEMBERS; i++) {
        int row;
        if (source_find(made->source, line->members[i].text, &row) == AN_OUTPUT &&
            plan_line(made, (guint)row)->pin_count < pins) {
            report_error(made->source->faults, action->where, "'%s' can't do this, since '%s' %s",
                         line->name.text, line->members[i].text, why);
        }
    }
    return value;
}

/* One side runs back, or both. */
static uint32_t turned(plan *made, action_words *action, const kind_order *order)
{
    const uint32_t level = order->fixed != 0 ? order->fixed : order_level(made, action, order);
    return check_sides(made, action, level, 2, "is on one pin, and runs one way");
}

static uint32_t brake(plan *made, action_words *action, const kind_order *order)
{
    (void)order;
    return check_sides(made, action, 0, 3, "has no speed pin, and can't brake");
}

static const kind_order orders[] = {
    {"stop", .verb = DROM_DRIVE_STOP},
    {"coast", .verb = DROM_DRIVE_COAST},
    {"brake", .verb = DROM_DRIVE_BRAKE, .value = brake},
    {"forward", DROM_DRIVE_FORWARD, .can_be_held = true, .fixed = FULL},
    {"forward LEVEL", DROM_DRIVE_FORWARD, .can_be_held = true, .value = order_level},
    {"back", DROM_DRIVE_BACK, .can_be_held = true, .fixed = FULL, .value = turned},
    {"back LEVEL", DROM_DRIVE_BACK, .can_be_held = true, .value = turned},
    {"left", DROM_DRIVE_LEFT, .can_be_held = true, .fixed = FULL},
    {"left LEVEL", DROM_DRIVE_LEFT, .can_be_held = true, .value = order_level},
    {"right", DROM_DRIVE_RIGHT, .can_be_held = true, .fixed = FULL},
    {"right LEVEL", DROM_DRIVE_RIGHT, .can_be_held = true, .value = order_level},
    {"spin left", DROM_DRIVE_SPIN_LEFT, .can_be_held = true, .fixed = FULL, .value = turned},
    {"spin left LEVEL", DROM_DRIVE_SPIN_LEFT, .can_be_held = true, .value = turned},
    {"spin right", DROM_DRIVE_SPIN_RIGHT, .can_be_held = true, .fixed = FULL, .value = turned},
    {"spin right LEVEL", DROM_DRIVE_SPIN_RIGHT, .can_be_held = true, .value = turned},
    {0},
};

static drom_drive_side side_of(plan *made, const word *name)
{
    int row = 0;
    (void)source_find(made->source, name->text, &row);
    const drom_output *const motor = &g_array_index(made->outputs, drom_output, row);
    return (drom_drive_side){motor->settings, motor->state};
}

static drom_output row(plan *made, guint output)
{
    const output_line *const line = plan_line(made, output);
    drom_drive_settings *const settings = plan_keep(made, sizeof *settings);
    drom_drive_state *const state = plan_keep(made, sizeof *state);
    settings->left = side_of(made, &line->members[0]);
    settings->right = side_of(made, &line->members[1]);
    return (drom_output)DROM_DRIVE(*settings, *state);
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    const output_line *const line = plan_line(loaded, output);
    g_string_append_printf(out, ".left = {&settings_%s, &state_%s}, .right = {&settings_%s, &state_%s}",
                           line->members[0].text, line->members[0].text, line->members[1].text,
                           line->members[1].text);
}

static char *order_text(const plan *loaded, const drom_action *action)
{
    static const char *const ways[] = {
        [DROM_DRIVE_FORWARD] = "forward",     [DROM_DRIVE_BACK] = "back",
        [DROM_DRIVE_LEFT] = "left",           [DROM_DRIVE_RIGHT] = "right",
        [DROM_DRIVE_SPIN_LEFT] = "spin left", [DROM_DRIVE_SPIN_RIGHT] = "spin right"};
    (void)loaded;
    return action->verb < DROM_DRIVE_FORWARD
               ? NULL
               : g_strdup_printf("%s %u %%", ways[action->verb], percent_of(action->value));
}

static const char *const states[] = {"moves", "stands", NULL};

static bool stands(const plan *loaded, guint output)
{
    const drom_drive_settings *const settings = plan_output(loaded, output)->settings;
    return settings->left.state->speed == 0 && settings->right.state->speed == 0;
}

static bool is_in_state(const output_view *seen, unsigned state, const phrase_value *values)
{
    (void)values;
    return stands(seen->plan, seen->output) == (state == 1);
}

static char *state_text(const output_view *seen)
{
    return g_strdup(stands(seen->plan, seen->output) ? "stands" : "moves");
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    const drom_drive_state *const state = seen->row->state;
    (void)on_us;
    return g_strdup(state->moves_left || state->moves_right ? "ends under way" : "ends standing");
}

const output_kind drive_kind = {
    .name = "drive",
    .core = &drom_drive,
    .words =
        {
            .heads = (const char *const[]){"NAME of NAME and NAME", NULL},
            .clauses = clauses,
            .orders = orders,
            .joins_outputs = true,
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
    .bench =
        {
            .activity = always_idle,
            .states = states,
            .is_in_state = is_in_state,
            .state_text = state_text,
            .drawn_as = DRAWN_AS_NOTHING,
            .sum_up = sum_up,
        },
};
