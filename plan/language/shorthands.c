/* Statements that stand for rules: translate and every. */
#include "plan/language/rules.h"

#include <string.h>

/* "translate wand to hall on horn: vol_up as volume_up, mute": a rule for each key, which sends the other
 * handset's key while it is held. */
void rules_take_translate(plan_source *source, const statement *whole)
{
    static const char *const heads[] = {"NAME to NAME on NAME", NULL};
    static const char *const pairs[] = {"PIN", "PIN as PIN", "PIN again each TIME",
                                        "PIN as PIN again each TIME", NULL}; /* a key's name may be 1 */
    static const char *const then_pair[] = {"','", "the end of the line", NULL};
    phrase_value names[PHRASE_VALUES];
    phrase_value pair[PHRASE_VALUES];
    if (statement_match(source, statement_segment(whole->segments, 0), heads, NULL, statement_then_list,
                        names) < 0) {
        return;
    }
    for (guint i = 0; i < whole->after->len; i++) {
        const segment *const given = statement_segment(whole->after, i);
        const int said = statement_match(source, given, pairs, i == 0 ? NULL : ",", then_pair, pair);
        if (said < 0) {
            return;
        }
        rule_line rule = rule_new();
        const trigger about = {
            .source = DROM_SOURCE_KEY,
            .name = names[0].name,
            .key = pair[0].name,
            .gesture = {DROM_PRESS, 0, pair[0].where},
            .where = pair[0].where,
        };
        action_words sends = {.name = names[2].name,
                              .is_while_held = true,
                              .where = pair[said % 2].where,
                              .row = -1,
                              .said = -1,
                              .is_translation = true};
        sends.values[0].name = names[1].name;
        sends.values[0].key = pair[said % 2].name;
        if (said >= 2) {
            sends.values[1] = pair[1 + said % 2];
        }
        rule.where = pair[0].where;
        rule.is_translation = true;
        g_array_append_val(rule.triggers, about);
        g_array_append_val(rule.actions, sends);
        g_array_append_val(source->rules, rule);
    }
}

enum { LEAST_EVERY_MS = 50 };

static action_words timer_action(word timer, place where, drom_timer_verb verb, uint32_t ms)
{
    return (action_words){.name = timer,
                          .where = where,
                          .row = -1,
                          .said = -1,
                          .target = DROM_TO_TIMER,
                          .verb = (uint8_t)verb,
                          .value = ms,
                          .is_matched = true};
}

/* Adds a rule of the checker's own: an order to a timer at an event. */
static void add_timer_rule(plan_source *source, const trigger *about, word timer, drom_timer_verb verb,
                           uint32_t ms, word only_in)
{
    rule_line rule = rule_new();
    const action_words action = timer_action(timer, about->where, verb, ms);
    const condition_words is_in = {.name = only_in,
                                   .row = {.subject = DROM_IF_MODE, .compare = DROM_EQUAL, .number = 1},
                                   .where = about->where};
    rule.where = about->where;
    g_array_append_val(rule.triggers, *about);
    g_array_append_val(rule.actions, action);
    if (only_in.text != NULL) {
        g_array_append_val(rule.conditions, is_in);
    }
    g_array_append_val(source->rules, rule);
}

/* The timer of "every 10 s" has this name; of several equal ones the later have their line. */
static word add_timer_of(plan_source *source, wording given)
{
    int row;
    const place where = wording_place(given);
    const token *const time = statement_token(source, given.from);
    char *name = g_strdup_printf("every %s", time->text);
    if (source_find(source, name, &row) != NO_THING) {
        g_free(name);
        name = g_strdup_printf("every %s of line %d", time->text, where.line);
    }
    const named_line timer = {.name = {name, where}};
    g_ptr_array_add(source->texts, name);
    g_array_append_val(source->timers, timer);
    return timer.name;
}

/* "every 10 s in MODE if CONDITION: ACTIONS": a timer that restarts itself, first at the start, or when the
 * mode begins. */
void rules_take_every(plan_source *source, const statement *whole)
{
    static const char *const phrases[] = {"TIME", NULL};
    static const char *const then[] = {"'in'", "'if'", "','", "':'", NULL};
    static const char *const joints[] = {"in", "if", ","};
    const segment *const first = statement_segment(whole->segments, 0);
    phrase_value time[PHRASE_VALUES];
    rule_line rule = rule_new();
    unsigned part = 0;
    rule.where = rule_place(source, whole);
    if (statement_match(source, first, phrases, NULL, then, time) < 0) {
        rule_free(&rule);
        return;
    }
    for (guint i = 1; i < whole->segments->len; i++) {
        const segment *const given = statement_segment(whole->segments, i);
        const char *const joint = statement_token(source, given->before)->text;
        while (part < G_N_ELEMENTS(joints) && strcmp(joints[part], joint) != 0) {
            part++;
        }
        if (part == G_N_ELEMENTS(joints)) {
            statement_unexpected(source, given->before, statement_then_list);
        }
        if (part == G_N_ELEMENTS(joints) || !(part == 0   ? rule_take_mode(source, &rule, given)
                                              : part == 1 ? rule_take_conditions(source, &rule, given)
                                                          : rule_take_again(source, &rule, given))) {
            rule_free(&rule);
            return;
        }
        part++;
    }
    if (time[0].number < LEAST_EVERY_MS || time[0].number > DROM_TIMER_LONGEST_MS) {
        report_error(source->faults, time[0].where, "this time may be %d ms to 24 h", LEAST_EVERY_MS);
    }
    const uint32_t ms = time[0].number;
    const word timer = add_timer_of(source, first->words);
    const trigger ends = {.source = DROM_SOURCE_TIMER, .name = timer, .where = rule.where};
    const trigger starts = {.source = DROM_SOURCE_START, .where = rule.where};
    trigger of_mode = {
        .source = DROM_SOURCE_MODE, .name = rule.mode, .what = DROM_BEGINS, .where = rule.where};
    add_timer_rule(source, &starts, timer, DROM_TIMER_START, ms, rule.mode);
    if (rule.mode.text != NULL) {
        add_timer_rule(source, &of_mode, timer, DROM_TIMER_START, ms, (word){0});
        of_mode.what = DROM_ENDS;
        add_timer_rule(source, &of_mode, timer, DROM_TIMER_CANCEL, 0, (word){0});
    }
    if (rule.mode.text != NULL || rule.conditions->len > 0) {
        add_timer_rule(source, &ends, timer, DROM_TIMER_START, ms, (word){0});
    } else {
        const action_words again = timer_action(timer, rule.where, DROM_TIMER_START, ms);
        g_array_append_val(rule.actions, again);
    }
    g_array_append_val(rule.triggers, ends);
    actions_take(source, rule.actions, whole->after);
    if (whole->otherwise != NULL) {
        actions_take(source, rule.otherwise, whole->otherwise);
    }
    g_array_append_val(source->rules, rule);
}
