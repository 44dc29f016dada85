/* The events of each rule, one row each, and rules about the same event. */
#include "plan/model/build.h"

#include <string.h>

/* In a row of keys. */
enum { MAX_KEY_ROW = 100 };

/* The handset and key of a code: the first that has it. */
static const sheet_key *first_with_code(const plan *made, const drom_code *code, guint *handset)
{
    for (guint i = 0; i < made->sheets->len; i++) {
        const sheet *const keys = g_ptr_array_index(made->sheets, i);
        const sheet_key *const key = keys != NULL ? sheet_find_code(keys, code) : NULL;
        if (key != NULL) {
            *handset = i;
            return key;
        }
    }
    return NULL;
}

/* Returns the row of a key; reports an error and returns -1 if the sheet has none. */
static int find_key(const plan *made, const sheet *keys, const trigger *about, const char *name, place where)
{
    report *const faults = made->source->faults;
    const int row = sheet_find(keys, name);
    if (row < 0) {
        g_autofree const char **names = sheet_names(keys);
        g_autofree char *hint = did_you_mean(name, names);
        const int handset = source_find_handset(made->source, about->name.text);
        const bool is_sheet = g_array_index(made->source->handsets, handset_line, handset).buttons == NULL;
        report_error(faults, where, "%s'%s' has no key '%s'%s", is_sheet ? "the sheet of " : "",
                     about->name.text, name, hint);
        return -1;
    }
    const sheet_key *const key = &g_array_index(keys->keys, sheet_key, (guint)row);
    guint first_handset = 0;
    const sheet_key *const first = first_with_code(made, &key->code, &first_handset);
    if (key->protocol != NULL && first != key) {
        report_warning(faults, about->where,
                       "this can never fire: '%s.%s' has the code of '%s.%s', which counts", about->name.text,
                       name, source_name(made->source, A_HANDSET, first_handset)->text, first->name);
    }
    return row;
}

/* One more than the limit is enough to show that it is exceeded. */
static bool is_full(const plan *made)
{
    return made->placed->len > PLAN_MAX_ROWS;
}

static void add_placed(plan *made, placed_rule one)
{
    if (!is_full(made)) {
        g_array_append_val(made->placed, one);
    }
}

/* "wand.0 to wand.9": the names differ in the number at the end, which is the digit. */
static void place_key_row(plan *made, const sheet *keys, const trigger *about, placed_rule one)
{
    report *const faults = made->source->faults;
    const char *const first = about->key.text;
    const char *const last = about->last_key.text;
    const gsize stem = strlen(first) - strspn(first + strcspn(first, "0123456789"), "0123456789");
    const guint64 from = g_ascii_strtoull(first + MIN(stem, strlen(first)), NULL, 10);
    const guint64 last_number = strlen(last) > stem ? g_ascii_strtoull(last + stem, NULL, 10) : 0;
    const bool is_row = stem < strlen(first) && strncmp(first, last, stem) == 0 && strlen(last) > stem &&
                        strspn(last + stem, "0123456789") == strlen(last + stem);
    if (!is_row || from >= last_number || last_number - from >= MAX_KEY_ROW) {
        report_error(faults, about->last_key.where,
                     "a row of keys goes from one number up to another, as in: wand.0 to wand.9");
        return;
    }
    for (guint64 number = from; number <= last_number && !is_full(made); number++) {
        g_autofree char *name = g_strdup_printf("%.*s%u", (int)stem, first, (unsigned)number);
        const int key = find_key(made, keys, about, name, about->where);
        one.key = (uint8_t)key;
        one.digit = (int)number;
        if (key >= 0) {
            add_placed(made, one);
        }
    }
}

static void place_keys(plan *made, const trigger *about, placed_rule one)
{
    const int handset = source_look_up(made->source, A_HANDSET, &about->name);
    const sheet *const keys = handset >= 0 ? g_ptr_array_index(made->sheets, (guint)handset) : NULL;
    if (keys == NULL) {
        return; /* a missing or unreadable sheet has been reported */
    }
    one.row = (uint8_t)handset;
    if (about->key.text == NULL) {
        one.key = DROM_ANY_OTHER_KEY;
        add_placed(made, one);
        return;
    }
    if (about->last_key.text != NULL) {
        place_key_row(made, keys, about, one);
        return;
    }
    const int key = find_key(made, keys, about, about->key.text, about->key.where);
    one.key = (uint8_t)key;
    if (key >= 0) {
        add_placed(made, one);
    }
}

/* "rigging ends": a mode's end or a timer's; and "doorbell", an event. */
static void place_event(plan *made, trigger *about, placed_rule one)
{
    static const thing kinds[DROM_SOURCES] = {
        [DROM_SOURCE_MODE] = A_MODE,   [DROM_SOURCE_VALUE] = A_VALUE,   [DROM_SOURCE_TIMER] = A_TIMER,
        [DROM_SOURCE_SCENE] = A_SCENE, [DROM_SOURCE_POSTED] = AN_EVENT, [DROM_SOURCE_SWITCH] = A_SWITCH,
    };
    int row;
    if (about->source == DROM_SOURCE_MODE && about->what == DROM_ENDS &&
        source_find(made->source, about->name.text, &row) == A_TIMER) {
        about->source = DROM_SOURCE_TIMER;
        about->what = 0;
    }
    row = source_look_up(made->source, kinds[about->source], &about->name);
    if (row >= 0) {
        one.row = (uint8_t)row;
        one.key = about->what;
        add_placed(made, one);
    }
}

static void place_rule(plan *made, guint rule)
{
    const rule_line *const line = &g_array_index(made->source->rules, rule_line, rule);
    for (guint i = 0; i < line->triggers->len && !is_full(made); i++) {
        trigger *const about = &g_array_index(line->triggers, trigger, i);
        const placed_rule one = {.rule = rule, .trigger = i, .digit = -1};
        if (about->source == DROM_SOURCE_KEY) {
            place_keys(made, about, one);
        } else if (about->source == DROM_SOURCE_START || about->source == DROM_SOURCE_HEARD) {
            add_placed(made, one);
        } else {
            place_event(made, about, one);
        }
    }
}

/* True if two are about the same event. */
static bool are_alike(const plan *made, const placed_rule *one, const placed_rule *other)
{
    const trigger *const a = plan_trigger_of(made, one);
    const trigger *const b = plan_trigger_of(made, other);
    const rule_line *const a_rule = plan_rule_of(made, one);
    const rule_line *const b_rule = plan_rule_of(made, other);
    return a->source == b->source && one->row == other->row && one->key == other->key &&
           a->gesture.gesture == b->gesture.gesture && a->gesture.hold_ms == b->gesture.hold_ms &&
           g_strcmp0(a_rule->mode.text, b_rule->mode.text) == 0 && a_rule->conditions->len == 0 &&
           b_rule->conditions->len == 0 && a_rule->is_translation == b_rule->is_translation;
}

/* Rules about one event that always fire together are one rule, except for scenes and the start. */
static void check_bound_once(const plan *made)
{
    for (guint i = 0; i < made->placed->len; i++) {
        const placed_rule *const one = &g_array_index(made->placed, placed_rule, i);
        const trigger *const about = plan_trigger_of(made, one);
        guint first = 0;
        while (!are_alike(made, &g_array_index(made->placed, placed_rule, first), one) && first < i) {
            first++;
        }
        if (first == i || about->source == DROM_SOURCE_START) {
            continue;
        }
        const int line = plan_rule_of(made, &g_array_index(made->placed, placed_rule, first))->where.line;
        if (about->source != DROM_SOURCE_KEY) {
            report_error(made->source->faults, about->where,
                         "this is bound on line %d already; put both actions there, with ';'", line);
        } else if (about->key.text == NULL) {
            report_error(
                made->source->faults, about->gesture.where,
                "this gesture of any other key of '%s' is bound on line %d already; put both actions "
                "there, with ';'",
                about->name.text, line);
        } else {
            report_error(
                made->source->faults, about->gesture.where,
                "this gesture of '%s.%s' is bound on line %d already; put both actions there, with ';'",
                about->name.text, about->key.text, line);
        }
    }
}

static void check_answers(const plan *made)
{
    for (guint i = 0; i < made->placed->len; i++) {
        const placed_rule *const one = &g_array_index(made->placed, placed_rule, i);
        const trigger *const about = plan_trigger_of(made, one);
        guint answers = 0;
        for (guint j = 0; j <= i; j++) {
            const placed_rule *const other = &g_array_index(made->placed, placed_rule, j);
            const trigger *const other_about = plan_trigger_of(made, other);
            answers += about->source == other_about->source && one->row == other->row &&
                       one->key == other->key && about->gesture.gesture == other_about->gesture.gesture &&
                       about->gesture.hold_ms == other_about->gesture.hold_ms;
        }
        if (answers == DROM_MAX_ANSWERS + 1) {
            report_error(made->source->faults, about->where,
                         "more than %d rules are about this; put some of them together", DROM_MAX_ANSWERS);
        }
    }
}

void plan_place_rules(plan *made)
{
    const GArray *const rules = made->source->rules;
    for (int pass = 0; pass < 2; pass++) { /* a key's own rule replaces its translation */
        for (guint i = 0; i < rules->len; i++) {
            if (g_array_index(rules, rule_line, i).is_translation == (pass == 1)) {
                place_rule(made, i);
            }
        }
    }
    if (is_full(made)) {
        report_error(made->source->faults, (place){0},
                     "has more than %d rules, each gesture of each key counted, which is all that fit",
                     PLAN_MAX_ROWS);
    }
    check_bound_once(made);
    check_answers(made);
}

rule_line *plan_rule_of(const plan *made, const placed_rule *placed)
{
    return &g_array_index(made->source->rules, rule_line, placed->rule);
}

const trigger *plan_trigger_of(const plan *made, const placed_rule *placed)
{
    return &g_array_index(plan_rule_of(made, placed)->triggers, trigger, placed->trigger);
}
