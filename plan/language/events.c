/* The heads of rules: gestures of keys and other events, mode, and conditions. */
#include "plan/language/statements.h"

#include "dromikos/internal/keys.h"

#include <string.h>

static const char *const then_actions[] = {"'or'", "'in'", "'if'", "','", "':'", NULL};

static rule_line new_rule(void)
{
    return (rule_line){
        .triggers = g_array_new(FALSE, FALSE, sizeof(trigger)),
        .conditions = g_array_new(FALSE, FALSE, sizeof(condition_words)),
        .actions = g_array_new(FALSE, FALSE, sizeof(action_words)),
        .otherwise = g_array_new(FALSE, FALSE, sizeof(action_words)),
    };
}

static void free_rule(rule_line *rule)
{
    g_array_unref(rule->triggers);
    g_array_unref(rule->conditions);
    g_array_unref(rule->actions);
    g_array_unref(rule->otherwise);
}

/* Returns the place from the statement's first word to its ':', on the first one's line. */
static place place_of(const plan_source *source, const statement *whole)
{
    const place head = statement_token(source, whole->head)->where;
    const guint last = statement_segment(whole->segments, whole->segments->len - 1)->words.end;
    place all = wording_place((wording){source->tokens, whole->head, last, false});
    all.length = all.line == head.line ? all.length : head.length;
    return all;
}

/* "again ignored", after a comma. */
static bool take_again(plan_source *source, rule_line *rule, const segment *given)
{
    static const char *const phrases[] = {"again restarts", "again ignored", "again queued", "again stops",
                                          NULL};
    phrase_value values[PHRASE_VALUES];
    const int said = statement_match(source, given, phrases, ",", statement_then_list, values);
    rule->has_again = true;
    rule->again = (drom_again)MAX(said, 0);
    return said >= 0;
}

static bool take_conditions(plan_source *source, rule_line *rule, const segment *given);

/* A rule with a name of its own. */
static void take_rule_about(plan_source *source, const statement *whole, const trigger *about, guint words)
{
    rule_line rule = new_rule();
    bool is_good = true;
    rule.where = place_of(source, whole);
    g_array_append_val(rule.triggers, *about);
    for (guint i = words; i < whole->segments->len && is_good; i++) {
        const segment *const given = statement_segment(whole->segments, i);
        const bool is_asked = strcmp(statement_token(source, given->before)->text, "if") == 0;
        is_good = is_asked && about->source == DROM_SOURCE_START ? take_conditions(source, &rule, given)
                                                                 : take_again(source, &rule, given);
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

static const struct {
    const char *text;
    uint8_t gesture;
} gestures[] = {
    {"pressed", DROM_PRESS},      {"repeated", DROM_REPEAT}, {"held", DROM_HOLD},
    {"released", DROM_RELEASE},   {"tapped", DROM_TAP},      {"tapped twice", DROM_DOUBLE},
    {"held for TIME", DROM_HOLD},
};

/* A piece of a rule's head: keys, with a gesture or still without; a gesture for the keys before it; or
 * another event. */
enum form { KEY_FORM, ROW_FORM, OTHERS_FORM, GESTURE_FORM, FORMS };

static const struct {
    const char *keys;
    unsigned values; /* that stand for something */
    unsigned words;  /* tokens, before a gesture */
} forms[FORMS] = {
    [KEY_FORM] = {"KEY", 1, 3},
    [ROW_FORM] = {"KEY to KEY", 2, 7},
    [OTHERS_FORM] = {"any other NAME key", 1, 4},
    [GESTURE_FORM] = {"", 0, 0},
};

enum { GESTURES = G_N_ELEMENTS(gestures), BARE = GESTURES, PHRASES_A_FORM = GESTURES + 1 };

static const struct {
    const char *phrase;
    drom_source source; /* of what ends: a mode or a timer */
    uint8_t what;
} events[] = {
    {"NAME begins", DROM_SOURCE_MODE, DROM_BEGINS},   {"NAME ends", DROM_SOURCE_MODE, DROM_ENDS},
    {"NAME closes", DROM_SOURCE_SWITCH, DROM_CLOSES}, {"NAME opens", DROM_SOURCE_SWITCH, DROM_OPENS},
    {"NAME changes", DROM_SOURCE_VALUE, 0},           {"NAME", DROM_SOURCE_POSTED, 0},
    {"any code heard", DROM_SOURCE_HEARD, 0},
};

enum { EVENTS = G_N_ELEMENTS(events) };

/* A rule's head that is being read: the keys that wait for their gesture, or to which the next one applies as
 * well. */
typedef struct head {
    plan_source *source;
    rule_line *rule;
    GArray *keys; /* of trigger */
    bool has_gesture;
    guint end; /* the token after the newest piece */
} head;

static bool add_gesture(head *in, const gesture_word *gesture)
{
    for (guint i = 0; i < in->keys->len; i++) {
        trigger one = g_array_index(in->keys, trigger, i);
        one.gesture = *gesture;
        g_array_append_val(in->rule->triggers, one);
    }
    in->has_gesture = true;
    return in->keys->len > 0;
}

static bool lacks_gesture(const head *in)
{
    static const char *const wanted[] = {"'pressed'", "'repeated'", "'held'", "'released'", "'tapped'", NULL};
    if (in->keys->len > 0 && !in->has_gesture) {
        statement_unexpected(in->source, in->end, wanted);
        return true;
    }
    return false;
}

static gesture_word gesture_of(plan_source *source, int which, const phrase_value *time, place where)
{
    gesture_word made = {gestures[which].gesture, time->number, where};
    if (which == GESTURES - 1 && (time->number < 1 || time->number > UINT16_MAX)) {
        report_error(source->faults, time->where, "a key can be held for 1 ms to 65 s");
        made.hold_ms = 0;
    }
    return made;
}

static bool take_event(head *in, int which, const phrase_value *value, place where)
{
    const trigger one = {
        .source = events[which].source,
        .name = value->name,
        .what = events[which].what,
        .where = value->name.text != NULL ? value->where : where,
    };
    if (lacks_gesture(in)) {
        return false;
    }
    g_array_set_size(in->keys, 0);
    g_array_append_val(in->rule->triggers, one);
    return true;
}

static bool take_keys(head *in, enum form form, const phrase_value *values)
{
    const trigger key = {
        .source = DROM_SOURCE_KEY,
        .name = values[0].name,
        .key = values[0].key,
        .last_key = form == ROW_FORM ? values[1].key : (word){0},
        .where = values[0].where,
    };
    if (form == ROW_FORM && strcmp(values[0].name.text, values[1].name.text) != 0) {
        report_error(in->source->faults, values[1].name.where, "a row of keys is one handset's");
        return false;
    }
    if (in->has_gesture) {
        g_array_set_size(in->keys, 0);
        in->has_gesture = false;
    }
    g_array_append_val(in->keys, key);
    return true;
}

static bool take_piece(head *in, const segment *given, bool is_first)
{
    char texts[FORMS * PHRASES_A_FORM][32];
    const char *phrases[FORMS * PHRASES_A_FORM + EVENTS + 1];
    int which[FORMS * PHRASES_A_FORM + EVENTS];
    phrase_value values[PHRASE_VALUES] = {0};
    unsigned count = 0;
    /* Of several keys the last one has the gesture, for all. */
    const bool is_followed = strcmp(statement_token(in->source, given->words.end)->text, "or") == 0;
    for (int i = 0; i < FORMS * PHRASES_A_FORM; i++) {
        const int form = i / PHRASES_A_FORM;
        const int gesture = i % PHRASES_A_FORM;
        if (form == GESTURE_FORM ? is_first || gesture == BARE : gesture == BARE && !is_followed) {
            continue;
        }
        (void)g_snprintf(texts[i], sizeof texts[i], "%s%s%s", forms[form].keys,
                         form == GESTURE_FORM || gesture == BARE ? "" : " ",
                         gesture == BARE ? "" : gestures[gesture].text);
        which[count] = i;
        phrases[count++] = texts[i];
    }
    for (int i = 0; i < (int)EVENTS; i++) {
        which[count] = FORMS * PHRASES_A_FORM + i;
        phrases[count++] = events[i].phrase;
    }
    phrases[count] = NULL;
    const int said =
        statement_match(in->source, given, phrases, is_first ? NULL : "or", then_actions, values);
    if (said < 0) {
        return false;
    }
    const int found = which[said];
    if (found >= FORMS * PHRASES_A_FORM) {
        return take_event(in, found - FORMS * PHRASES_A_FORM, &values[0], wording_place(given->words));
    }
    in->end = given->words.end;
    const enum form form = (enum form)(found / PHRASES_A_FORM);
    const int gesture = found % PHRASES_A_FORM;
    if (form != GESTURE_FORM && !take_keys(in, form, values)) {
        return false;
    }
    if (gesture == BARE) {
        return true;
    }
    const wording itself = {in->source->tokens, given->words.from + forms[form].words, given->words.end,
                            false};
    const gesture_word gesture_given =
        gesture_of(in->source, gesture, &values[forms[form].values], wording_place(itself));
    if (!add_gesture(in, &gesture_given)) {
        report_error(in->source->faults, gesture_given.where, "say of which key, as in: wand.power pressed");
        return false;
    }
    return true;
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
static bool take_conditions(plan_source *source, rule_line *rule, const segment *given)
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

static bool take_mode(plan_source *source, rule_line *rule, const segment *given)
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

/* The order is fixed: WHAT [or WHAT ...] [in MODE] [if CONDITION] [, again ...]. */
static bool take_head(plan_source *source, rule_line *rule, const GArray *segments)
{
    enum part { WHAT, MODE, CONDITION, AGAIN } part = WHAT;
    static const char *const joints[] = {"or", "in", "if", ","};
    static const char *const then[][6] = {{"'or'", "'in'", "'if'", "','", "':'", NULL},
                                          {"'if'", "','", "':'", NULL},
                                          {"','", "':'", NULL},
                                          {"':'", NULL}};
    head in = {source, rule, g_array_new(FALSE, FALSE, sizeof(trigger)), false, 0};
    bool is_good = take_piece(&in, statement_segment(segments, 0), true);
    for (guint i = 1; i < segments->len && is_good; i++) {
        const segment *const given = statement_segment(segments, i);
        const char *const joint = statement_token(source, given->before)->text;
        enum part next = part == WHAT ? WHAT : (enum part)(part + 1);
        while (next <= AGAIN && strcmp(joints[next], joint) != 0) {
            next++;
        }
        if (next > AGAIN) {
            statement_unexpected(source, given->before, then[part]);
            is_good = false;
            break;
        }
        part = next;
        is_good = part == WHAT        ? take_piece(&in, given, false)
                  : part == MODE      ? take_mode(source, rule, given)
                  : part == CONDITION ? take_conditions(source, rule, given)
                                      : take_again(source, rule, given);
    }
    is_good = is_good && !lacks_gesture(&in);
    g_array_unref(in.keys);
    return is_good;
}

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
        rule_line rule = new_rule();
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
    rule_line rule = new_rule();
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
    rule_line rule = new_rule();
    unsigned part = 0;
    rule.where = place_of(source, whole);
    if (statement_match(source, first, phrases, NULL, then, time) < 0) {
        free_rule(&rule);
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
        if (part == G_N_ELEMENTS(joints) || !(part == 0   ? take_mode(source, &rule, given)
                                              : part == 1 ? take_conditions(source, &rule, given)
                                                          : take_again(source, &rule, given))) {
            free_rule(&rule);
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

void rules_take_when(plan_source *source, const statement *whole)
{
    rule_line rule = new_rule();
    rule.where = place_of(source, whole);
    rule.mode = source->block;
    if (!take_head(source, &rule, whole->segments)) {
        free_rule(&rule);
        return;
    }
    actions_take(source, rule.actions, whole->after);
    if (whole->otherwise != NULL) {
        actions_take(source, rule.otherwise, whole->otherwise);
    }
    g_array_append_val(source->rules, rule);
}
