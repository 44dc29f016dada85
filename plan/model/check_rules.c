/* Checks each rule: its event, its conditions and its actions. */
#include "plan/model/numbers.h"

#include <string.h>

static rule_line *rule_at(const plan *made, guint rule)
{
    return &g_array_index(made->source->rules, rule_line, rule);
}

static void check_conditions(const plan *made, const rule_line *rule)
{
    static const thing kinds[DROM_SUBJECTS] = {[DROM_IF_VALUE] = A_VALUE,
                                               [DROM_IF_OUTPUT] = AN_OUTPUT,
                                               [DROM_IF_TIMER] = A_TIMER,
                                               [DROM_IF_SWITCH] = A_SWITCH,
                                               [DROM_IF_MODE] = A_MODE};
    for (guint i = 0; i < rule->conditions->len; i++) {
        condition_words *const condition = &g_array_index(rule->conditions, condition_words, i);
        const int row = source_look_up(made->source, kinds[condition->row.subject], &condition->name);
        condition->row.row = (uint8_t)MAX(row, 0);
        if (row >= 0 && condition->row.subject == DROM_IF_OUTPUT &&
            plan_line(made, (guint)row)->kind->core->is_on == NULL) {
            report_error(made->source->faults, condition->where, "a %s is neither on nor off",
                         plan_line(made, (guint)row)->kind->name);
        }
        if (condition->than.text != NULL) {
            const int than = source_look_up(made->source, A_VALUE, &condition->than);
            condition->row.compare |= DROM_THAN_VALUE;
            condition->row.number = (int16_t)MAX(than, 0);
            continue;
        }
        if (row < 0 || condition->row.subject != DROM_IF_VALUE) {
            continue;
        }
        const drom_value *const limits = &g_array_index(made->source->values, value_line, row).limits;
        const int number = condition->row.number;
        const uint8_t compare = condition->row.compare;
        const bool can_be = ((compare & DROM_LESS) != 0 && limits->min < number) ||
                            ((compare & DROM_GREATER) != 0 && limits->max > number) ||
                            ((compare & DROM_EQUAL) != 0 && number >= limits->min && number <= limits->max);
        if (!can_be) {
            report_warning(made->source->faults, condition->where,
                           "this is never so: '%s' goes from %d to %d", condition->name.text, limits->min,
                           limits->max);
        }
    }
}

static bool begins_a_hold(const rule_line *rule)
{
    bool begins = true;
    for (guint i = 0; i < rule->triggers->len; i++) {
        const trigger *const about = &g_array_index(rule->triggers, trigger, i);
        const uint8_t gesture = about->gesture.gesture;
        begins &= about->source == DROM_SOURCE_KEY &&
                  (gesture == DROM_PRESS || gesture == DROM_HOLD || gesture == DROM_REPEAT);
    }
    return begins;
}

/* Returns the names of all that can be ordered, ending with NULL; free the array, not the names. */
static const char **ordered_names(const plan_source *source)
{
    static const thing kinds[] = {AN_OUTPUT, A_GROUP, A_VALUE, A_TIMER, A_SCENE};
    GPtrArray *const names = g_ptr_array_new();
    for (gsize i = 0; i < G_N_ELEMENTS(kinds); i++) {
        for (guint j = 0; j < source_count(source, kinds[i]); j++) {
            g_ptr_array_add(names, (gpointer)source_name(source, kinds[i], j)->text);
        }
    }
    g_ptr_array_add(names, NULL);
    return (const char **)g_ptr_array_free(names, FALSE);
}

static void check_actions(plan *made, const rule_line *rule, GArray *actions, bool *is_driven)
{
    report *const faults = made->source->faults;
    for (guint i = 0; i < actions->len; i++) {
        action_words *const action = &g_array_index(actions, action_words, i);
        if (action->target == DROM_TO_OUTPUT && action->row < 0) {
            g_autofree const char **names = ordered_names(made->source);
            g_autofree char *hint = did_you_mean(action->name.text, names);
            report_error(faults, action->name.where, "there is no output '%s'%s", action->name.text, hint);
            continue;
        }
        if (action->target == DROM_TO_OUTPUT) {
            is_driven[action->row] = true;
        }
        if (action->target != DROM_TARGETS && action->row >= -1) {
            number_take(made, rule, action);
        }
        if (action->is_while_held && !begins_a_hold(rule)) {
            report_error(faults, action->where,
                         "'while held' needs a key that goes down: a rule with 'pressed' or 'held'");
        }
    }
}

static guint count_flagged(const GArray *actions)
{
    guint count = 0;
    for (guint i = 0; i < actions->len; i++) {
        count += g_array_index(actions, action_words, i).is_while_held;
    }
    return count;
}

static bool has_wait(const GArray *actions)
{
    bool has = false;
    for (guint i = 0; i < actions->len; i++) {
        const drom_target target = g_array_index(actions, action_words, i).target;
        has |= target == DROM_TO_WAIT || target == DROM_TO_WAIT_FOR;
    }
    return has;
}

bool rule_waits(const rule_line *rule)
{
    return has_wait(rule->actions) || has_wait(rule->otherwise);
}

static void check_again(const plan *made, const rule_line *rule)
{
    report *const faults = made->source->faults;
    if (rule->has_again && !rule_waits(rule)) {
        report_error(faults, rule->where,
                     "'again' says what becomes of a rule that still waits, and this one "
                     "never does: it has no 'wait'");
    }
    for (guint i = 0; i < rule->triggers->len; i++) {
        const trigger *const about = &g_array_index(rule->triggers, trigger, i);
        if (about->gesture.gesture == DROM_REPEAT && rule_waits(rule) && !rule->has_again) {
            report_error(
                faults, about->gesture.where,
                "this fires again and again while it waits; say which of them count: again restarts, "
                "again ignored, again queued or again stops");
        }
    }
}

/* True if an immediate action of a rule causes another's event: a mode, a value, a scene. */
static bool leads_to(const plan *made, const placed_rule *from, const placed_rule *target)
{
    const trigger *const about = plan_trigger_of(made, target);
    const rule_line *const rule = plan_rule_of(made, from);
    const GArray *const lists[] = {rule->actions, rule->otherwise};
    for (gsize list = 0; list < G_N_ELEMENTS(lists); list++) {
        for (guint i = 0; i < lists[list]->len; i++) {
            const action_words *const action = &g_array_index(lists[list], action_words, i);
            const bool is_fixed = action->verb == DROM_VALUE_TO && action->flags == 0;
            if (action->target == DROM_TO_WAIT || action->target == DROM_TO_WAIT_FOR) {
                break; /* later actions don't form an endless loop */
            }
            if (action->row == target->row &&
                ((action->target == DROM_TO_MODE && about->source == DROM_SOURCE_MODE &&
                  about->what == DROM_BEGINS) ||
                 (action->target == DROM_TO_VALUE && about->source == DROM_SOURCE_VALUE && !is_fixed) ||
                 (action->target == DROM_TO_SCENE && about->source == DROM_SOURCE_SCENE &&
                  action->verb == DROM_SCENE_BEGIN))) {
                return true;
            }
        }
    }
    return false;
}

/* True if a rule causes itself. */
static bool comes_round(const plan *made, guint start)
{
    const guint count = made->placed->len;
    bool *const is_reached = g_new0(bool, count);
    GArray *const next = g_array_new(FALSE, FALSE, sizeof(guint));
    g_array_append_val(next, start);
    for (guint i = 0; i < next->len; i++) {
        const placed_rule *const from =
            &g_array_index(made->placed, placed_rule, g_array_index(next, guint, i));
        for (guint row = 0; row < count; row++) {
            if (!is_reached[row] && leads_to(made, from, &g_array_index(made->placed, placed_rule, row))) {
                is_reached[row] = true;
                g_array_append_val(next, row);
            }
        }
    }
    const bool comes = is_reached[start];
    g_array_unref(next);
    g_free(is_reached);
    return comes;
}

/* Rules that cause each other for ever would block everything else. */
static void check_loops(const plan *made)
{
    for (guint i = 0; i < made->placed->len; i++) {
        const placed_rule *const one = &g_array_index(made->placed, placed_rule, i);
        const drom_source source = plan_trigger_of(made, one)->source;
        if ((source == DROM_SOURCE_MODE || source == DROM_SOURCE_VALUE || source == DROM_SOURCE_SCENE) &&
            comes_round(made, i)) {
            report_error(made->source->faults, plan_rule_of(made, one)->where,
                         "this causes itself again, for ever and without a wait");
            return;
        }
    }
}

/* Warns of names that nothing uses. */
static void check_unused(const plan *made)
{
    const plan_source *const source = made->source;
    static const struct {
        thing kind;
        drom_target target;
        const char *text;
    } causes[] = {
        {A_MODE, DROM_TO_MODE, "nothing begins the mode '%s', as in: mode %s"},
        {A_SCENE, DROM_TO_SCENE, "nothing begins the scene '%s', as in: ...; %s"},
        {A_TIMER, DROM_TO_TIMER, "nothing starts the timer '%s', as in: %s start 5 min"},
    };
    for (gsize i = 0; i < G_N_ELEMENTS(causes); i++) {
        for (guint row = causes[i].kind == A_MODE; row < source_count(source, causes[i].kind); row++) {
            bool is_used = false;
            for (guint j = 0; j < 2 * source->rules->len; j++) {
                const rule_line *const rule = rule_at(made, j / 2);
                const GArray *const actions = j % 2 == 0 ? rule->actions : rule->otherwise;
                for (guint k = 0; k < actions->len; k++) {
                    const action_words *const action = &g_array_index(actions, action_words, k);
                    is_used |= action->target == causes[i].target && action->row == (int)row;
                }
            }
            const word *const name = source_name(source, causes[i].kind, row);
            if (!is_used) {
                g_autofree char *text = g_strdup_printf(causes[i].text, name->text, name->text);
                report_warning(source->faults, name->where, "%s", text);
            }
        }
    }
}

void plan_check_rules(plan *made, bool *is_driven, bool is_all_read)
{
    plan_source *const source = made->source;
    guint held = 0;
    guint sequences = 0;
    plan_place_rules(made);
    for (guint i = 0; i < source->rules->len; i++) {
        const rule_line *const rule = rule_at(made, i);
        if (rule->mode.text != NULL) {
            (void)source_look_up(source, A_MODE, &rule->mode);
        }
        check_conditions(made, rule);
        check_actions(made, rule, rule->actions, is_driven);
        check_actions(made, rule, rule->otherwise, is_driven);
        check_again(made, rule);
        if (rule->otherwise->len > 0 && rule->conditions->len == 0) {
            report_error(source->faults, rule->where, "'otherwise' needs a condition, as in: if cue < 20");
        }
    }
    for (guint i = 0; i < made->placed->len; i++) {
        const rule_line *const rule = plan_rule_of(made, &g_array_index(made->placed, placed_rule, i));
        held += count_flagged(rule->actions) + count_flagged(rule->otherwise);
        sequences += rule_waits(rule);
    }
    if (held > PLAN_MAX_ROWS || sequences >= PLAN_MAX_ROWS) {
        report_error(source->faults, (place){0}, "has %u %s, each gesture of each key counted; %d fit",
                     held > PLAN_MAX_ROWS ? held : sequences,
                     held > PLAN_MAX_ROWS ? "actions 'while held'" : "rules that wait",
                     held > PLAN_MAX_ROWS ? PLAN_MAX_ROWS : PLAN_MAX_ROWS - 1);
    }
    if (is_all_read && report_errors(source->faults) == 0) {
        check_loops(made);
        check_unused(made);
    }
}
