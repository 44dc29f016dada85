/* What rules say: gestures of keys, and what outputs are to do then. */
#include "statements.h"

#include "kinds.h"

#include "dromikos/keys.h"

#include <string.h>

static const char *const then_gesture[] = {"'or'", "':'", NULL};
static const char *const then_action[] = {"';'", "the end of the line", NULL};

/* An output's name, and what comes after it. Which orders that may be is known when all outputs are. */
static void take_action(plan_source *source, GArray *actions, const segment *given)
{
    static const char *const held[] = {"held", NULL};
    static const char *const an_output[] = {"the name of an output", NULL};
    phrase_value values[PHRASE_VALUES];
    const token *const first = statement_token(source, given->words.from);
    if (given->words.from == given->words.to || first->kind != TOKEN_WORD || word_is_reserved(first->text)) {
        statement_unexpected(source, given->words.from, an_output);
        return;
    }
    if (given->has_while && phrase_match(source->faults, given->held, held, "", then_action, values) < 0) {
        return;
    }
    const action_words action = {
        .output = {first->text, first->where},
        .order = {source->tokens, given->words.from + 1, given->words.to},
        .is_while_held = given->has_while,
        .where = wording_place(given->words),
        .row = -1,
        .said = -1,
    };
    g_array_append_val(actions, action);
}

static void take_actions(plan_source *source, GArray *actions, const GArray *after)
{
    for (guint i = 0; i < after->len; i++) {
        const segment *const given = statement_segment(after, i);
        if (i > 0 && strcmp(statement_token(source, given->before)->text, ";") != 0) {
            statement_unexpected(source, given->before, then_action);
            return;
        }
        take_action(source, actions, given);
    }
}

void statement_take_at(plan_source *source, const GArray *segments, const GArray *after)
{
    static const char *const phrases[] = {"start", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match(source, statement_segment(segments, 0), phrases, NULL, statement_then_list, values) <
        0) {
        return;
    }
    if (segments->len > 1) {
        statement_unexpected(source, statement_segment(segments, 1)->before, statement_then_list);
        return;
    }
    take_actions(source, source->at_start, after);
}

static const struct {
    const char *first; /* with the key */
    const char *more;  /* after 'or' */
    uint8_t gesture;
} gestures[] = {
    {"KEY pressed", "pressed", DROM_PRESS},
    {"KEY repeated", "repeated", DROM_REPEAT},
    {"KEY held", "held", DROM_HOLD},
    {"KEY released", "released", DROM_RELEASE},
    {"KEY tapped", "tapped", DROM_TAP},
    {"KEY tapped twice", "tapped twice", DROM_DOUBLE},
    {"KEY held for TIME", "held for TIME", DROM_HOLD},
};

static bool take_gesture(plan_source *source, rule_line *rule, const segment *given, bool is_first)
{
    const char *phrases[G_N_ELEMENTS(gestures) + 1] = {NULL};
    phrase_value values[PHRASE_VALUES] = {0};
    for (size_t i = 0; i < G_N_ELEMENTS(gestures); i++) {
        phrases[i] = is_first ? gestures[i].first : gestures[i].more;
    }
    const int said = statement_match(source, given, phrases, is_first ? NULL : "or", then_gesture, values);
    if (said < 0) {
        return false;
    }
    enum { KEY_WORDS = 3 };
    const phrase_value *const time = &values[is_first];
    const wording itself = {source->tokens, given->words.from + (is_first ? KEY_WORDS : 0), given->words.to};
    gesture_word gesture = {gestures[said].gesture, time->number, wording_place(itself)};
    if (gestures[said].gesture == DROM_HOLD && said != 2 && (time->number < 1 || time->number > UINT16_MAX)) {
        report_error(source->faults, time->where, "a key can be held for 1 ms to 65 s");
        gesture.hold_ms = 0;
    }
    if (is_first) {
        rule->handset = values[0].name;
        rule->key = values[0].key;
    }
    g_array_append_val(rule->gestures, gesture);
    return true;
}

void statement_take_when(plan_source *source, const GArray *segments, const GArray *after)
{
    rule_line rule = {.gestures = g_array_new(FALSE, FALSE, sizeof(gesture_word)),
                      .actions = g_array_new(FALSE, FALSE, sizeof(action_words))};
    bool is_good = true;
    for (guint i = 0; i < segments->len && is_good; i++) {
        is_good = take_gesture(source, &rule, statement_segment(segments, i), i == 0);
    }
    if (is_good) {
        const guint last = statement_segment(segments, segments->len - 1)->words.to;
        const place head = statement_token(source, statement_segment(segments, 0)->before)->where;
        rule.where = wording_place((wording){source->tokens, statement_segment(segments, 0)->before, last});
        rule.where.length = rule.where.line == head.line ? rule.where.length : head.length;
        take_actions(source, rule.actions, after);
        g_array_append_val(source->rules, rule);
    } else {
        g_array_unref(rule.gestures);
        g_array_unref(rule.actions);
    }
}

static void match_order(plan_source *source, action_words *action)
{
    for (guint i = 0; i < source->outputs->len; i++) {
        if (strcmp(g_array_index(source->outputs, output_line, i).name.text, action->output.text) == 0) {
            action->row = (int)i;
        }
    }
    if (action->row < 0) {
        return; /* the checker reports it */
    }
    const output_kind *const kind = g_array_index(source->outputs, output_line, action->row).kind;
    const char *phrases[KIND_MAX_PHRASES + 1] = {NULL};
    for (unsigned i = 0; kind->orders[i].phrase != NULL; i++) {
        phrases[i] = kind->orders[i].phrase;
    }
    const char *then_held[] = {"'while'", "';'", "the end of the line", NULL};
    g_autofree char *about = g_strdup_printf("'%s' is a %s: ", action->output.text, kind->name);
    action->said = phrase_match(source->faults, action->order, phrases, about, then_held, action->values);
    if (action->said >= 0 && action->is_while_held && !kind->orders[action->said].can_be_held) {
        statement_unexpected(source, action->order.to, then_action);
        action->said = -1;
    }
}

void source_match_orders(plan_source *source)
{
    for (guint i = 0; i < source->at_start->len; i++) {
        match_order(source, &g_array_index(source->at_start, action_words, i));
    }
    for (guint i = 0; i < source->rules->len; i++) {
        GArray *const actions = g_array_index(source->rules, rule_line, i).actions;
        for (guint j = 0; j < actions->len; j++) {
            match_order(source, &g_array_index(actions, action_words, j));
        }
    }
}
