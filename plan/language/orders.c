/* The orders of actions, when all names of a plan are known: which phrase each is, by what its name stands
 * for. */
#include "plan/language/kind.h"
#include "plan/language/statements.h"

#include <string.h>

static const char *const then_operator[] = {"'+'", "'-'", "'*'", "'/'", "';'", "the end of the line", NULL};

/* Finds the phrase of an order. Only orders to outputs can be held. */
static int match(const plan_source *source, action_words *action, const char *const *phrases,
                 const char *about, const char *const *then)
{
    const int said = phrase_match(source->faults, action->order, phrases, about, then, action->values);
    if (said >= 0 && action->is_while_held) {
        report_error(source->faults, action->where, "only an order to an output can be 'while held'");
        return -1;
    }
    return said;
}

static void match_output(plan_source *source, action_words *action, report *faults)
{
    static const char *const then_held[] = {"'while'", "';'", "the end of the line", NULL};
    const output_kind *const kind = g_array_index(source->outputs, output_line, action->row).kind;
    const char *phrases[KIND_MAX_PHRASES + 1] = {NULL};
    for (unsigned i = 0; kind->words.orders[i].phrase != NULL; i++) {
        phrases[i] = kind->words.orders[i].phrase;
    }
    g_autofree char *about = g_strdup_printf("'%s' is a %s: ", action->name.text, kind->name);
    action->target = DROM_TO_OUTPUT;
    action->said = phrase_match(faults, action->order, phrases, about, then_held, action->values);
    if (action->said >= 0 && action->is_while_held && !kind->words.orders[action->said].can_be_held) {
        if (faults == source->faults) {
            statement_unexpected(source, action->order.end, statement_then_action);
        }
        action->said = -1;
    }
}

static void match_value(const plan_source *source, action_words *action)
{
    static const char *const phrases[] = {"up COUNT", "down COUNT", "to NUMBER", "up", "down", NULL};
    static const uint8_t verbs[] = {DROM_VALUE_UP, DROM_VALUE_DOWN, DROM_VALUE_TO, DROM_VALUE_UP,
                                    DROM_VALUE_DOWN};
    enum { FIRST_OF_ONE = 3 };
    g_autofree char *about = g_strdup_printf("'%s' is a value: ", action->name.text);
    const token *const last = statement_token(source, action->order.end - 1);
    if (action->order.end > action->order.from && last->kind == TOKEN_CHORD) {
        report_error(source->faults, last->where, "put blanks around each '+', as in: %s to %s + 1",
                     action->name.text, action->name.text);
        action->target = DROM_TARGETS;
        return;
    }
    const bool is_sum = strcmp(statement_token(source, action->order.from)->text, "to") == 0;
    const int said = match(source, action, phrases, about, is_sum ? then_operator : statement_then_action);
    action->target = said < 0 ? DROM_TARGETS : DROM_TO_VALUE;
    action->verb = verbs[MAX(said, 0)];
    action->value = 1;
    action->number = said < FIRST_OF_ONE;
}

/* Returns the verb of an operator; DROM_VALUE_VERBS: no operator. */
static drom_value_verb operation_of(const token *given)
{
    static const char operators[] = "+-*/";
    static const drom_value_verb verbs[] = {DROM_VALUE_UP, DROM_VALUE_DOWN, DROM_VALUE_TIMES,
                                            DROM_VALUE_OVER};
    const char *const found =
        given->kind == TOKEN_MARK && given->text[1] == '\0' ? strchr(operators, given->text[0]) : NULL;
    return found != NULL ? verbs[found - operators] : DROM_VALUE_VERBS;
}

static bool has_operator(const plan_source *source, wording order)
{
    bool has = false;
    for (guint i = order.from; i < order.end; i++) {
        has |= operation_of(statement_token(source, i)) != DROM_VALUE_VERBS;
    }
    return has;
}

/* "to cue * 10 + digit": an action per number; all but the last leave a sum for the next. */
static void match_sum(plan_source *source, const action_words *action, GArray *matched)
{
    static const char *const first[] = {"to NUMBER", NULL};
    static const char *const next[] = {"+ NUMBER", "- NUMBER", "* NUMBER", "/ NUMBER", NULL};
    static const drom_value_verb verbs[] = {DROM_VALUE_UP, DROM_VALUE_DOWN, DROM_VALUE_TIMES,
                                            DROM_VALUE_OVER};
    enum { PAIR = 2 };
    for (guint at = action->order.from; at < action->order.end; at += PAIR) {
        const bool is_first = at == action->order.from;
        const bool is_last = at + PAIR >= action->order.end;
        action_words one = *action;
        one.order.from = at;
        one.order.end = MIN(at + PAIR, action->order.end);
        const int said = match(source, &one, is_first ? first : next, "", then_operator);
        if (said < 0) {
            return;
        }
        one.target = DROM_TO_VALUE;
        one.verb = is_first ? (uint8_t)DROM_VALUE_TO : (uint8_t)verbs[said];
        one.number = 1;
        one.flags = (uint8_t)((is_first ? 0 : DROM_OF_SUM) | (is_last ? 0 : DROM_INTO_SUM));
        g_array_append_val(matched, one);
    }
}

static void match_timer(const plan_source *source, action_words *action)
{
    static const char *const phrases[] = {"start TIME", "add TIME", "cancel", NULL};
    g_autofree char *about = g_strdup_printf("'%s' is a timer: ", action->name.text);
    const int said = match(source, action, phrases, about, statement_then_action);
    action->target = said < 0 ? DROM_TARGETS : DROM_TO_TIMER;
    action->verb = (uint8_t)MAX(said, 0);
    action->number = said >= 0 && said < 2;
}

static void match_scene(const plan_source *source, action_words *action)
{
    static const char *const nothing[] = {"", NULL};
    action->target =
        match(source, action, nothing, "", statement_then_action) < 0 ? DROM_TARGETS : DROM_TO_SCENE;
    action->verb = DROM_SCENE_BEGIN;
}

static void match_stop(const plan_source *source, action_words *action)
{
    static const char *const phrases[] = {"NAME", NULL};
    action->target = DROM_TARGETS;
    if (match(source, action, phrases, "", statement_then_action) >= 0) {
        action->row = source_look_up(source, A_SCENE, &action->values[0].name);
        action->target = DROM_TO_SCENE;
        action->verb = DROM_SCENE_STOP;
    }
}

/* Puts every output into its rest state. */
static void match_everything(const plan_source *source, action_words *action, GArray *matched)
{
    static const char *const phrases[] = {"rests", NULL};
    if (match(source, action, phrases, "", statement_then_action) < 0) {
        return;
    }
    for (guint i = 0; i < source->outputs->len; i++) {
        const output_line *const line = &g_array_index(source->outputs, output_line, i);
        action_words one = *action;
        one.target = DROM_TO_OUTPUT;
        one.row = (int)i;
        one.verb = line->kind->checks.rest_verb != NULL ? line->kind->checks.rest_verb(line)
                                                        : line->kind->core->undo;
        g_array_append_val(matched, one);
    }
}

/* The order that sends a key while another is held, once or each TIME. */
static void match_translation(plan_source *source, action_words *action)
{
    action->row = source_look_up(source, AN_OUTPUT, &action->name);
    if (action->row < 0) {
        action->target = DROM_TARGETS;
        return;
    }
    const output_kind *const kind = g_array_index(source->outputs, output_line, action->row).kind;
    for (int i = 0; kind->words.sends_keys && kind->words.orders[i].phrase != NULL && action->said < 0; i++) {
        const char *const phrase = kind->words.orders[i].phrase;
        const bool is_it = kind->words.orders[i].can_be_held && strstr(phrase, "KEY") != NULL &&
                           (strstr(phrase, "TIME") != NULL) == (action->values[1].number > 0);
        action->said = is_it ? i : -1;
    }
    if (action->said < 0) {
        action->target = DROM_TARGETS;
        report_error(source->faults, action->name.where, "'%s' is a %s, which sends no keys",
                     action->name.text, kind->name);
    }
}

/* True if the order matches one of these completely; reports nothing. */
static bool is_order(plan_source *source, action_words action)
{
    report *const faults = report_new();
    report_file(faults, "", NULL);
    match_output(source, &action, faults);
    report_free(faults);
    return action.said >= 0;
}

/* "house on for 2 s": an order that can be undone, and whose phrase has no time. */
static bool is_for_a_time(plan_source *source, const action_words *action, phrase_value *time)
{
    static const char *const phrases[] = {"for TIME", NULL};
    action_words shorter = *action;
    if (action->order.end < action->order.from + 3 || action->is_while_held) {
        return false;
    }
    const guint words = statement_token(source, action->order.end - 1)->kind == TOKEN_TIME ? 2 : 3;
    report *const faults = report_new();
    report_file(faults, "", NULL);
    phrase_value values[PHRASE_VALUES];
    wording lasts = action->order;
    lasts.from = action->order.end - words;
    shorter.order.end -= words;
    shorter.is_while_held = true; /* only what can be held can be undone */
    const bool is_so = phrase_match(faults, lasts, phrases, "", statement_then_action, values) == 0 &&
                       !is_order(source, *action) && is_order(source, shorter);
    report_free(faults);
    *time = values[0];
    return is_so;
}

/* Returns the words of an action, separated by blanks. */
static char *text_of(const plan_source *source, const action_words *action)
{
    GString *const text = g_string_new(action->name.text);
    for (guint i = action->order.from; i < action->order.end; i++) {
        const char *const next = statement_token(source, i)->text;
        g_string_append_printf(text, " %s", next);
    }
    return g_string_free(text, FALSE);
}

/* Makes a scene of the order, a wait, and the undo, so that following actions don't wait. */
static void match_for_a_time(plan_source *source, action_words *action, const phrase_value *time,
                             GArray *matched)
{
    char *const name = text_of(source, action);
    g_ptr_array_add(source->texts, name);
    action_words begins = {.name = {name, action->name.where},
                           .where = action->where,
                           .said = -1,
                           .target = DROM_TO_SCENE,
                           .verb = DROM_SCENE_BEGIN,
                           .is_matched = true};
    if (time->is_named && strcmp(time->name.text, "digit") == 0) {
        report_error(source->faults, time->where,
                     "put the digit into a value first, and say the value's name here");
        return;
    }
    const bool is_known = source_find(source, name, &begins.row) == A_SCENE;
    if (!is_known && source->scenes->len >= PLAN_MAX_ROWS) {
        report_error(source->faults, action->where,
                     "%d scenes fit, and an order that lasts for a time is one: there is no room for this",
                     PLAN_MAX_ROWS);
        return;
    }
    if (!is_known) {
        const output_kind *const kind = g_array_index(source->outputs, output_line, action->row).kind;
        const named_line scene = {{name, action->name.where}, action->row + 1};
        const trigger about = {.source = DROM_SOURCE_SCENE, .name = scene.name, .where = action->where};
        rule_line rule = {
            .triggers = g_array_new(FALSE, FALSE, sizeof(trigger)),
            .conditions = g_array_new(FALSE, FALSE, sizeof(condition_words)),
            .actions = g_array_new(FALSE, FALSE, sizeof(action_words)),
            .otherwise = g_array_new(FALSE, FALSE, sizeof(action_words)),
            .where = action->where,
        };
        action_words first = *action;
        const action_words waits = {.where = action->where,
                                    .row = -1,
                                    .said = -1,
                                    .target = DROM_TO_WAIT,
                                    .values = {*time},
                                    .number = 1,
                                    .is_matched = true};
        const action_words undoes = {.name = action->name,
                                     .where = action->where,
                                     .row = action->row,
                                     .said = -1,
                                     .target = DROM_TO_OUTPUT,
                                     .verb = kind->core->undo,
                                     .is_matched = true};
        first.order.end -= time->is_named ? 3 : 2;
        g_array_append_val(rule.triggers, about);
        g_array_append_val(rule.actions, first);
        g_array_append_val(rule.actions, waits);
        g_array_append_val(rule.actions, undoes);
        begins.row = (int)source->scenes->len;
        g_array_append_val(source->scenes, scene);
        g_array_append_val(source->rules, rule);
    }
    g_array_append_val(matched, begins);
}

/* An order to a group goes to each member that accepts it. */
static void match_group(plan_source *source, const action_words *action, GArray *matched)
{
    const GArray *const members = g_array_index(source->groups, group_line, action->row).members;
    guint known = 0;
    phrase_value time;
    for (guint i = 0; i < members->len; i++) {
        action_words one = *action;
        report *const faults = report_new();
        report_file(faults, "", NULL);
        if (source_find(source, g_array_index(members, word, i).text, &one.row) == AN_OUTPUT) {
            one.name.text = g_array_index(members, word, i).text;
            if (is_for_a_time(source, &one, &time)) {
                match_for_a_time(source, &one, &time, matched);
                known++;
                report_free(faults);
                continue;
            }
            match_output(source, &one, faults);
            if (one.said >= 0) {
                g_array_append_val(matched, one);
                known++;
            }
        }
        report_free(faults);
    }
    if (known == 0) {
        report_error(source->faults, wording_place(action->order), "none of '%s' knows this order",
                     action->name.text);
    }
}

/* "call announce 4": the order follows the second name. */
static void match_call(plan_source *source, action_words *action)
{
    static const char *const phrases[] = {"NAME", "NAME NUMBER", NULL};
    action->target = DROM_TARGETS;
    if (match(source, action, phrases, "", statement_then_action) < 0) {
        return;
    }
    action->name = action->values[0].name;
    action->row = source_look_up(source, AN_OUTPUT, &action->name);
    if (action->row < 0) {
        return;
    }
    const output_kind *const kind = g_array_index(source->outputs, output_line, action->row).kind;
    if (!kind->words.is_called) {
        report_error(source->faults, action->name.where, "'%s' is a %s, which isn't called",
                     action->name.text, kind->name);
        return;
    }
    action->order.from++;
    match_output(source, action, source->faults);
}

static void match_named(plan_source *source, action_words *action, GArray *matched)
{
    if (action->is_translation) {
        match_translation(source, action);
        g_array_append_val(matched, *action);
        return;
    }
    phrase_value time;
    const thing found = source_find(source, action->name.text, &action->row);
    switch (found) {
    case AN_OUTPUT:
        if (is_for_a_time(source, action, &time)) {
            match_for_a_time(source, action, &time, matched);
            return;
        }
        match_output(source, action, source->faults);
        break;
    case A_GROUP:
        match_group(source, action, matched);
        return;
    case A_VALUE:
        if (has_operator(source, action->order)) {
            match_sum(source, action, matched);
            return;
        }
        match_value(source, action);
        break;
    case A_TIMER:
        match_timer(source, action);
        break;
    case A_SCENE:
        match_scene(source, action);
        break;
    case NO_THING:
        if (strcmp(action->name.text, "everything") == 0) {
            match_everything(source, action, matched);
            return;
        }
        if (strcmp(action->name.text, "stop") == 0) {
            match_stop(source, action);
        } else if (strcmp(action->name.text, "call") == 0) {
            match_call(source, action);
        }
        break;
    case A_MODE:
        action->target = DROM_TARGETS;
        report_error(source->faults, action->name.where, "'%s' is a mode; to begin it say: mode %s",
                     action->name.text, action->name.text);
        break;
    case A_HANDSET:
    case A_PALETTE:
    case AN_EVENT:
    case A_SWITCH:
    case THINGS:
        action->target = DROM_TARGETS;
        report_error(source->faults, action->name.where, "'%s' is %s, which takes no orders",
                     action->name.text, thing_text(found));
        break;
    }
    g_array_append_val(matched, *action);
}

/* Returns the actions, matched with orders. */
static GArray *match_all(plan_source *source, GArray *actions)
{
    GArray *const matched = g_array_new(FALSE, FALSE, sizeof(action_words));
    for (guint i = 0; i < actions->len; i++) {
        action_words *const action = &g_array_index(actions, action_words, i);
        if (action->target == DROM_TO_MODE) {
            action->row = source_look_up(source, A_MODE, &action->name);
        } else if (action->target == DROM_TO_TIMER && action->row < 0) {
            action->row = source_look_up(source, A_TIMER, &action->name);
        } else if (action->target == DROM_TO_WAIT_FOR) {
            action->row =
                source_look_up(source, action->verb == DROM_UNTIL_IDLE ? AN_OUTPUT : A_SWITCH, &action->name);
        }
        if (action->target == DROM_TO_OUTPUT && !action->is_matched) {
            match_named(source, action, matched);
        } else {
            g_array_append_val(matched, *action);
        }
    }
    g_array_unref(actions);
    return matched;
}

/* Any other order to an output stops its scene of "for TIME". */
static GArray *end_what_passes(const plan_source *source, GArray *actions, const char *itself)
{
    GArray *const all = g_array_new(FALSE, FALSE, sizeof(action_words));
    for (guint i = 0; i < actions->len; i++) {
        const action_words *const action = &g_array_index(actions, action_words, i);
        const int passing = action->target == DROM_TO_SCENE && action->row >= 0
                                ? g_array_index(source->scenes, named_line, action->row).passing_of
                                : 0;
        const int output = action->target == DROM_TO_OUTPUT ? action->row + 1 : passing;
        for (guint scene = 0; scene < source->scenes->len && output > 0 && all->len <= PLAN_MAX_ROWS;
             scene++) {
            const named_line *const line = &g_array_index(source->scenes, named_line, scene);
            if (line->passing_of == output && strcmp(line->name.text, itself) != 0 &&
                strcmp(line->name.text, action->name.text) != 0) {
                const action_words stops = {.name = line->name,
                                            .where = action->where,
                                            .row = (int)scene,
                                            .said = -1,
                                            .target = DROM_TO_SCENE,
                                            .verb = DROM_SCENE_STOP,
                                            .is_matched = true};
                g_array_append_val(all, stops);
            }
        }
        g_array_append_val(all, *action);
    }
    g_array_unref(actions);
    return all;
}

static rule_line *rule_at(const plan_source *source, guint rule)
{
    return &g_array_index(source->rules, rule_line, rule);
}

void source_match_orders(plan_source *source)
{
    for (guint i = 0; i < source->rules->len; i++) { /* the array grows meanwhile, and may move */
        GArray *const actions = match_all(source, rule_at(source, i)->actions);
        rule_at(source, i)->actions = actions;
        GArray *const otherwise = match_all(source, rule_at(source, i)->otherwise);
        rule_at(source, i)->otherwise = otherwise;
    }
    for (guint i = 0; i < source->rules->len; i++) {
        rule_line *const rule = rule_at(source, i);
        const trigger *const about = &g_array_index(rule->triggers, trigger, 0);
        const char *const itself = about->source == DROM_SOURCE_SCENE ? about->name.text : "";
        rule->actions = end_what_passes(source, rule->actions, itself);
        rule->otherwise = end_what_passes(source, rule->otherwise, itself);
    }
}
