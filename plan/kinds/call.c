/* The call. Nothing is called on the bench: the timeline shows the value. */
#include "plan/kinds/kinds.h"

#include "dromikos/outputs/call.h"

static uint32_t number(plan *made, action_words *action, const kind_order *order)
{
    const int32_t given = (int32_t)action->values[0].number;
    (void)order;
    if (action->values[0].is_named) {
        action->flags |= DROM_AS_SIGNED;
    }
    if (given < INT16_MIN || given > INT16_MAX) {
        report_error(made->source->faults, action->values[0].where,
                     "a function gets a number from -32768 to 32767");
    }
    return (uint16_t)given;
}

static const kind_clause clauses[] = {{0}};

static const kind_order orders[] = {
    {"", .verb = DROM_CALL_CALL},
    {"NUMBER", .verb = DROM_CALL_CALL, .value = number},
    {0},
};

static void nothing(int16_t value)
{
    (void)value;
}

static drom_output row(plan *made, guint output)
{
    drom_call_settings *const settings = plan_keep(made, sizeof *settings);
    drom_call_state *const state = plan_keep(made, sizeof *state);
    (void)output;
    settings->function = nothing;
    return (drom_output)DROM_CALL(*settings, *state);
}

static void bake_settings(GString *out, const plan *loaded, guint output)
{
    g_string_append_printf(out, ".function = OWN_FUNCTION(%s)", plan_output_name(loaded, output));
}

static char *order_text(const plan *loaded, const drom_action *action)
{
    (void)loaded;
    return g_strdup_printf("%d", (int16_t)(uint16_t)action->value);
}

static const char *const states[] = {"got INT", NULL};

static bool is_in_state(const output_view *seen, unsigned state, const phrase_value *values)
{
    const drom_call_state *const call = seen->row->state;
    (void)state;
    return call->was_called && call->value == (int32_t)values[0].number;
}

static char *state_text(const output_view *seen)
{
    const drom_call_state *const call = seen->row->state;
    return call->was_called ? g_strdup_printf("got %d", call->value) : g_strdup("wasn't called");
}

static char *sum_up(const output_view *seen, uint64_t on_us)
{
    const drom_call_state *const call = seen->row->state;
    (void)on_us;
    return call->was_called ? g_strdup_printf("called last with %d", call->value) : g_strdup("never called");
}

const output_kind call_kind = {
    .name = "call",
    .core = &drom_call,
    .words =
        {
            .heads = (const char *const[]){"NAME", NULL},
            .clauses = clauses,
            .orders = orders,
            .is_called = true,
            .order_text = order_text,
        },
    .checks =
        {
            .row = row,
        },
    .bake =
        {
            .declaration = "void %s_%s(int16_t value);",
            .settings = bake_settings,
        },
    .bench =
        {
            .activity = always_idle,
            .states = states,
            .is_in_state = is_in_state,
            .state_text = state_text,
            .drawn_as = DRAWN_AS_WORDS,
            .sum_up = sum_up,
        },
};
