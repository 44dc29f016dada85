/* Limits of a plan. What exceeds a limit is reported and left out, so that later checks are fast for any
 * input. */
#include "plan/language/kind.h"

static void limit(plan_source *source, GArray *lines, guint max, const char *what)
{
    if (lines->len > max) {
        report_error(source->faults, (place){0}, "has %u %s; %u fit", lines->len, what, max);
        g_array_set_size(lines, max);
    }
}

void source_limit(plan_source *source)
{
    const struct {
        GArray *lines;
        guint max;
        const char *what;
    } all[] = {
        {source->handsets, PLAN_MAX_HANDSETS - 1, "handsets"},
        {source->protocols, DROM_UNKNOWN - DROM_OWN_PROTOCOL, "protocols of its own"},
        {source->outputs, DROM_ANY_OUTPUT, "outputs"},
        {source->palettes, PLAN_MAX_ROWS, "palettes"},
        {source->modes, PLAN_MAX_ROWS - 1, "modes"},
        {source->values, PLAN_MAX_ROWS, "values"},
        {source->timers, PLAN_MAX_ROWS, "timers"},
        {source->scenes, PLAN_MAX_ROWS, "scenes"},
        {source->events, PLAN_MAX_ROWS, "events"},
        {source->groups, PLAN_MAX_ROWS, "names for several outputs"},
        {source->switches, DROM_MAX_CONTACTS, "switches"},
        {source->rules, PLAN_MAX_ROWS, "rules"},
    };
    for (gsize i = 0; i < G_N_ELEMENTS(all); i++) {
        limit(source, all[i].lines, all[i].max, all[i].what);
    }
    for (guint i = 0; i < source->handsets->len; i++) {
        GArray *const buttons = g_array_index(source->handsets, handset_line, i).buttons;
        if (buttons != NULL) {
            limit(source, buttons, DROM_MAX_CONTACTS, "buttons in one row");
        }
    }
    for (guint i = 0; i < source->groups->len; i++) {
        limit(source, g_array_index(source->groups, group_line, i).members, DROM_ANY_OUTPUT,
              "outputs of one name");
    }
    for (guint i = 0; i < source->rules->len; i++) {
        const rule_line *const rule = &g_array_index(source->rules, rule_line, i);
        limit(source, rule->triggers, PLAN_MAX_ROWS, "events of one rule");
        limit(source, rule->conditions, PLAN_MAX_ROWS, "conditions in one rule");
        limit(source, rule->actions, PLAN_MAX_ROWS, "actions in one rule");
        limit(source, rule->otherwise, PLAN_MAX_ROWS, "actions in one rule");
    }
}
