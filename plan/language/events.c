/* The events of rules: gestures of keys, and others. */
#include "plan/language/rules.h"

#include "dromikos/internal/keys.h"

#include <string.h>

static const char *const then_actions[] = {"'or'", "'in'", "'if'", "','", "':'", NULL};

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
                  : part == MODE      ? rule_take_mode(source, rule, given)
                  : part == CONDITION ? rule_take_conditions(source, rule, given)
                                      : rule_take_again(source, rule, given);
    }
    is_good = is_good && !lacks_gesture(&in);
    g_array_unref(in.keys);
    return is_good;
}

void rules_take_when(plan_source *source, const statement *whole)
{
    rule_line rule = rule_new();
    rule.where = rule_place(source, whole);
    rule.mode = source->block;
    if (!take_head(source, &rule, whole->segments)) {
        rule_free(&rule);
        return;
    }
    actions_take(source, rule.actions, whole->after);
    if (whole->otherwise != NULL) {
        actions_take(source, rule.otherwise, whole->otherwise);
    }
    g_array_append_val(source->rules, rule);
}
