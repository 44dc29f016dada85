/* The parts that all rules have: mode, conditions, `again`; and rules without an event of their own: at the
 * start, and scenes. */
#include "plan/language/rules.h"

#include <string.h>

rule_line rule_new(void)
{
    return (rule_line){
        .triggers = g_array_new(FALSE, FALSE, sizeof(trigger)),
        .conditions = g_array_new(FALSE, FALSE, sizeof(condition_words)),
        .actions = g_array_new(FALSE, FALSE, sizeof(action_words)),
        .otherwise = g_array_new(FALSE, FALSE, sizeof(action_words)),
    };
}

void rule_free(rule_line *rule)
{
    g_array_unref(rule->triggers);
    g_array_unref(rule->conditions);
    g_array_unref(rule->actions);
    g_array_unref(rule->otherwise);
}

/* Returns the place from the statement's first word to its ':', on the first one's line. */
place rule_place(const plan_source *source, const statement *whole)
{
    const place head = statement_token(source, whole->head)->where;
    const guint last = statement_segment(whole->segments, whole->segments->len - 1)->words.end;
    place all = wording_place((wording){source->tokens, whole->head, last, false});
    all.length = all.line == head.line ? all.length : head.length;
    return all;
}

/* "again ignored", after a comma. */
bool rule_take_again(plan_source *source, rule_line *rule, const segment *given)
{
    static const char *const phrases[] = {"again restarts", "again ignored", "again queued", "again stops",
                                          NULL};
    phrase_value values[PHRASE_VALUES];
    const int said = statement_match(source, given, phrases, ",", statement_then_list, values);
    rule->has_again = true;
    rule->again = (drom_again)MAX(said, 0);
    return said >= 0;
}

static const struct {
    const char *phrase;
    drom_subject subject;
    uint8_t compare;
    int16_t number; /* if the phrase has none */
} conditions[] = {
    {"NAME < NUMBER", DROM_IF_VALUE, DROM_LESS, 0},
    {"NAME <= NUMBER", DROM_IF_VALUE, DROM_LESS | DROM_EQUAL, 0},
    {"NAME = NUMBER", DROM_IF_VALUE, DROM_EQUAL, 0},
    {"NAME != NUMBER", DROM_IF_VALUE, DROM_LESS | DROM_GREATER, 0},
    {"NAME >= NUMBER", DROM_IF_VALUE, DROM_EQUAL | DROM_GREATER, 0},
    {"NAME > NUMBER", DROM_IF_VALUE, DROM_GREATER, 0},
    {"mode is NAME", DROM_IF_MODE, DROM_EQUAL, 1},
    {"mode is not NAME", DROM_IF_MODE, DROM_EQUAL, 0},
    {"NAME is on", DROM_IF_OUTPUT, DROM_EQUAL, 1},
    {"NAME is off", DROM_IF_OUTPUT, DROM_EQUAL, 0},
    {"NAME runs", DROM_IF_TIMER, DROM_EQUAL, 1},
    {"NAME is closed", DROM_IF_SWITCH, DROM_EQUAL, 1},
    {"NAME is open", DROM_IF_SWITCH, DROM_EQUAL, 0},
};

static bool take_condition(plan_source *source, rule_line *rule, wording given)
{
    static const char *const then_and[] = {"'and'", "','", "':'", NULL};
    const char *phrases[G_N_ELEMENTS(conditions) + 1] = {NULL};
    phrase_value values[PHRASE_VALUES] = {0};
    for (size_t i = 0; i < G_N_ELEMENTS(conditions); i++) {
        phrases[i] = conditions[i].phrase;
    }
    const bool is_not =
        given.from < given.end && strcmp(statement_token(source, given.from)->text, "not") == 0;
    const place where = wording_place(given);
    given.from += is_not;
    given.has_values = true;
    const int said = phrase_match(source->faults, given, phrases, "", then_and, values);
    if (said < 0) {
        return false;
    }
    const bool is_of_value = conditions[said].subject == DROM_IF_VALUE;
    const int32_t number = is_of_value ? (int32_t)values[1].number : conditions[said].number;
    if (number < INT16_MIN || number > INT16_MAX) {
        report_error(source->faults, values[1].where, "a value is a number from -32768 to 32767");
    }
    const uint8_t all = DROM_LESS | DROM_EQUAL | DROM_GREATER;
    condition_words condition = {
        .name = values[0].name,
        .row = {.subject = (uint8_t)conditions[said].subject,
                .compare = (uint8_t)(is_not ? all ^ conditions[said].compare : conditions[said].compare),
                .number = (int16_t)CLAMP(number, INT16_MIN, INT16_MAX)},
        .where = where,
    };
    if (is_of_value && values[1].is_named) {
        condition.than = values[1].name;
    }
    g_array_append_val(rule->conditions, condition);
    return true;
}

/* Conditions, joined by 'and'. */
bool rule_take_conditions(plan_source *source, rule_line *rule, const segment *given)
{
    if (given->has_while) {
        statement_unexpected(source, given->words.end, statement_then_list);
        return false;
    }
    wording one = given->words;
    for (guint at = one.from; at <= given->words.end; at++) {
        if (at == given->words.end || strcmp(statement_token(source, at)->text, "and") == 0) {
            one.end = at;
            if (!take_condition(source, rule, one)) {
                return false;
            }
            one.from = at + 1;
        }
    }
    return true;
}

bool rule_take_mode(plan_source *source, rule_line *rule, const segment *given)
{
    static const char *const phrases[] = {"NAME", NULL};
    static const char *const then_if[] = {"'if'", "','", "':'", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match(source, given, phrases, NULL, then_if, values) < 0) {
        return false;
    }
    if (rule->mode.text != NULL) {
        report_error(source->faults, values[0].where, "this block of rules is in '%s' already",
                     rule->mode.text);
        return false;
    }
    rule->mode = values[0].name;
    return true;
}

/* A rule with a name of its own. */
static void take_rule_about(plan_source *source, const statement *whole, const trigger *about, guint words)
{
    rule_line rule = rule_new();
    bool is_good = true;
    rule.where = rule_place(source, whole);
    g_array_append_val(rule.triggers, *about);
    for (guint i = words; i < whole->segments->len && is_good; i++) {
        const segment *const given = statement_segment(whole->segments, i);
        const bool is_asked = strcmp(statement_token(source, given->before)->text, "if") == 0;
        is_good = is_asked && about->source == DROM_SOURCE_START ? rule_take_conditions(source, &rule, given)
                                                                 : rule_take_again(source, &rule, given);
    }
    if (is_good) {
        actions_take(source, rule.actions, whole->after);
        if (whole->otherwise != NULL) {
            actions_take(source, rule.otherwise, whole->otherwise);
        }
    }
    g_array_append_val(source->rules, rule);
}

void rules_take_at(plan_source *source, const statement *whole)
{
    static const char *const phrases[] = {"start", NULL};
    static const char *const then_again[] = {"'if'", "','", "':'", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match(source, statement_segment(whole->segments, 0), phrases, NULL, then_again, values) <
        0) {
        return;
    }
    take_rule_about(source, whole, &(trigger){.source = DROM_SOURCE_START}, 1);
}

void rules_take_scene(plan_source *source, const statement *whole)
{
    static const char *const phrases[] = {"NAME", NULL};
    static const char *const then_again[] = {"','", "':'", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match(source, statement_segment(whole->segments, 0), phrases, NULL, then_again, values) >=
        0) {
        const named_line scene = {.name = values[0].name};
        g_array_append_val(source->scenes, scene);
        take_rule_about(source, whole, &(trigger){.source = DROM_SOURCE_SCENE, .name = values[0].name}, 1);
    }
}
