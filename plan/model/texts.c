/* A plan's rows in words: orders, events, rules. */
#include "plan/model/build.h"

#include <string.h>

static char *plain_order_text(const plan *loaded, const drom_action *action)
{
    const output_kind *const kind = plan_output_kind(loaded, action->row);
    char *text = kind->words.order_text != NULL ? kind->words.order_text(loaded, action) : NULL;
    for (const kind_order *order = kind->words.orders; order->phrase != NULL && text == NULL; order++) {
        text = order->verb == action->verb ? g_strdup(order->phrase) : NULL;
    }
    return text != NULL ? text : g_strdup("?");
}

static const char *name_of(const plan *loaded, thing kind, uint8_t row)
{
    return source_name(loaded->source, kind, row)->text;
}

/* Returns the number of an action, or the name that stands for it. To be freed. */
static char *number_text(const plan *loaded, const drom_action *action)
{
    return (action->flags & DROM_OF_VALUE) != 0
               ? g_strdup(name_of(loaded, A_VALUE, drom_rules_row_of_number(action)))
           : (action->flags & DROM_OF_EVENT) != 0 ? g_strdup("the event's number")
                                                  : g_strdup_printf("%d", (int16_t)(uint16_t)action->value);
}

/* Returns the name of a value or an event, with its factor. To be freed. */
static char *multiple_text(const plan *loaded, const drom_action *action)
{
    const uint8_t form = action->flags & DROM_FORM;
    const unsigned factor = action->value >> (form == DROM_AS_TIME ? 16 : 8);
    const int shown = factor < 0x800000 ? (int)factor : (int)factor - 0x1000000;
    g_autofree char *number = number_text(loaded, action);
    return form < DROM_AS_MULTIPLE || shown == 1
               ? g_steal_pointer(&number)
               : g_strdup_printf("%s * %d%s", number, shown, form == DROM_AS_TURN ? " / 360" : "");
}

/* Returns the first or last place of a single digit in a text; NULL: none. */
static const char *alone_at(const char *text, char digit, bool is_last)
{
    const char *found = NULL;
    for (const char *at = strchr(text, digit); at != NULL; at = strchr(at + 1, digit)) {
        const bool is_alone =
            (at == text || !g_ascii_isdigit(at[-1])) && at[1] != '.' && !g_ascii_isdigit(at[1]);
        found = is_alone && (found == NULL || is_last) ? at : found;
    }
    return found;
}

/* The name replaces the 0 of the order; if it stands for a time, which is last, it replaces 1 ms. */
char *plan_order_text(const plan *loaded, const drom_action *action)
{
    if ((action->flags & (DROM_OF_VALUE | DROM_OF_EVENT)) == 0) {
        return plain_order_text(loaded, action);
    }
    const bool is_time = (action->flags & DROM_FORM) == DROM_AS_TIME;
    drom_action plain = *action;
    plain.value = is_time ? (action->value & 0xff) | 1 << 8 : drom_rules_with_number(action, 0);
    g_autofree char *number = multiple_text(loaded, action);
    g_autofree char *text = plain_order_text(loaded, &plain);
    const char *const found = alone_at(text, is_time ? '1' : '0', is_time);
    return found == NULL ? g_steal_pointer(&text)
                         : g_strdup_printf("%.*s%s%s", (int)(found - text), text, number, found + 1);
}

static char *time_text(const plan *loaded, const drom_action *action)
{
    enum { SECOND = 1000, MINUTE = 60000, HOUR = 3600000 };
    const uint32_t ms = action->value;
    if ((action->flags & (DROM_OF_VALUE | DROM_OF_EVENT)) != 0) {
        g_autofree char *number = multiple_text(loaded, action);
        return g_strdup_printf("%s ms", number);
    }
    return ms % HOUR == 0     ? g_strdup_printf("%u h", ms / HOUR)
           : ms % MINUTE == 0 ? g_strdup_printf("%u min", ms / MINUTE)
           : ms % SECOND == 0 ? g_strdup_printf("%u s", ms / SECOND)
                              : g_strdup_printf("%u ms", ms);
}

char *plan_action_text(const plan *loaded, const drom_action *action)
{
    static const char *const value_verbs[] = {"up", "down", "to", "*", "/"};
    static const char *const sum_verbs[] = {"+", "-", "to", "*", "/"};
    static const char *const untils[] = {"", " closes", " opens"};
    const bool is_of_sum = (action->flags & DROM_OF_SUM) != 0;
    static const char *const timer_verbs[] = {"start", "add", "cancel"};
    g_autofree char *time = time_text(loaded, action);
    g_autofree char *number = NULL;
    g_autofree char *order = NULL;
    switch ((drom_target)action->target) {
    case DROM_TO_OUTPUT:
        order = plan_order_text(loaded, action);
        return g_strdup_printf("%s %s", plan_output_name(loaded, action->row), order);
    case DROM_TO_WAIT:
        return g_strdup_printf("wait %s", time);
    case DROM_TO_WAIT_FOR:
        return g_strdup_printf("wait for %s%s at most %s",
                               action->verb == DROM_UNTIL_IDLE ? plan_output_name(loaded, action->row)
                                                               : name_of(loaded, A_SWITCH, action->row),
                               untils[action->verb], time);
    case DROM_TO_MODE:
        return g_strdup_printf("mode %s", name_of(loaded, A_MODE, action->row));
    case DROM_TO_VALUE:
        number = number_text(loaded, action);
        return g_strdup_printf("%s %s %s", is_of_sum ? "..." : name_of(loaded, A_VALUE, action->row),
                               (is_of_sum ? sum_verbs : value_verbs)[action->verb], number);
    case DROM_TO_TIMER:
        return g_strdup_printf("%s %s%s%s", name_of(loaded, A_TIMER, action->row), timer_verbs[action->verb],
                               action->verb == DROM_TIMER_CANCEL ? "" : " ",
                               action->verb == DROM_TIMER_CANCEL ? "" : time);
    case DROM_TO_SCENE:
        return g_strdup_printf("%s%s", action->verb == DROM_SCENE_STOP ? "stop " : "",
                               name_of(loaded, A_SCENE, action->row));
    case DROM_TARGETS:
        break;
    }
    return g_strdup("?");
}

static const rule_line *line_of(const plan *loaded, unsigned rule)
{
    const guint row = g_array_index(loaded->placed, placed_rule, rule).rule;
    return &g_array_index(loaded->source->rules, rule_line, row);
}

int plan_rule_line(const plan *loaded, unsigned rule)
{
    return g_array_index(loaded->rules, drom_rule, rule).source == DROM_SOURCE_START
               ? 0
               : line_of(loaded, rule)->where.line;
}

const char *plan_rule_file(const plan *loaded, unsigned rule)
{
    const char *const own = g_array_index(loaded->source->files, included_file, 0).path;
    const char *const path = source_path(loaded->source, line_of(loaded, rule)->where);
    const char *const name = strrchr(path, '/');
    return path == own ? NULL : name != NULL ? name + 1 : path;
}

/* Returns an event of a source and a row; `state` follows a value's name. */
static char *event_text(const plan *loaded, uint8_t source, uint8_t row, uint8_t key, const char *state)
{
    switch ((drom_source)source) {
    case DROM_SOURCE_MODE:
        return g_strdup_printf("%s %s", name_of(loaded, A_MODE, row), key == DROM_BEGINS ? "begins" : "ends");
    case DROM_SOURCE_VALUE:
        return g_strdup_printf("%s %s", name_of(loaded, A_VALUE, row), state);
    case DROM_SOURCE_TIMER:
        return g_strdup_printf(strchr(name_of(loaded, A_TIMER, row), ' ') != NULL ? "%s" /* of its own */
                                                                                  : "%s ends",
                               name_of(loaded, A_TIMER, row));
    case DROM_SOURCE_SWITCH:
        return g_strdup_printf("%s %s", name_of(loaded, A_SWITCH, row),
                               key == DROM_CLOSES ? "closes" : "opens");
    case DROM_SOURCE_SCENE:
        return g_strdup(name_of(loaded, A_SCENE, row));
    case DROM_SOURCE_POSTED:
        return g_strdup(name_of(loaded, AN_EVENT, row));
    case DROM_SOURCE_HEARD:
        return g_strdup("any code heard");
    default:
        return NULL;
    }
}

char *plan_event_text(const plan *loaded, const drom_event *event)
{
    const bool is_value = event->source == DROM_SOURCE_VALUE;
    g_autofree char *state = is_value ? g_strdup_printf("is %d", loaded->numbers[event->row]) : NULL;
    return event_text(loaded, event->source, event->row, event->key, state);
}

char *plan_rule_text(const plan *loaded, unsigned rule)
{
    const drom_rule *const row = &g_array_index(loaded->rules, drom_rule, rule);
    if (row->source == DROM_SOURCE_START) {
        return g_strdup("at start");
    }
    if (row->source != DROM_SOURCE_KEY) {
        return event_text(loaded, row->source, row->row, row->key, "changes");
    }
    return row->key == DROM_ANY_OTHER_KEY
               ? g_strdup_printf("any other %s key", plan_handset_name(loaded, row->row))
               : g_strdup_printf("%s.%s", plan_handset_name(loaded, row->row),
                                 plan_key_name(loaded, row->row, row->key));
}

/* Returns the rule that waits in a place: a scene, or its event. */
static char *waiting_text(const plan *loaded, uint8_t sequence)
{
    const drom_rules_plan *const rules = &loaded->tables.rules;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        if (rules->rules.rows[i].sequence == sequence + 1) {
            g_autofree char *text = plan_rule_text(loaded, i);
            return g_strdup_printf("%s%s (line %d)",
                                   rules->rules.rows[i].source == DROM_SOURCE_SCENE ? "the scene " : "", text,
                                   line_of(loaded, i)->where.line);
        }
    }
    return g_strdup("a rule");
}

char *plan_going_on(const plan *loaded, const drom_engine *engine)
{
    const drom_rules_plan *const rules = &loaded->tables.rules;
    g_autoptr(GPtrArray) texts = g_ptr_array_new_with_free_func(g_free);
    for (uint8_t i = 0; i < rules->timers.count; i++) {
        uint64_t left_us = 0;
        if (plan_timer_runs(loaded, i, engine->timing.now, &left_us)) {
            g_ptr_array_add(texts, g_strdup_printf("the timer %s (%.0f s to go)", plan_timer_name(loaded, i),
                                                   (double)left_us / 1e6));
        }
    }
    for (uint8_t i = 0; i < rules->sequences.count; i++) {
        if (rules->sequences.rows[i].is_waiting) {
            g_ptr_array_add(texts, waiting_text(loaded, i));
        }
    }
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        if (plan_output_kind(loaded, i)->bench.activity(plan_output(loaded, i)) != IDLE) {
            g_ptr_array_add(texts, g_strdup(plan_output_name(loaded, i)));
        }
    }
    const bool is_any = texts->len > 0;
    g_ptr_array_add(texts, NULL);
    return is_any ? g_strjoinv(", ", (char **)texts->pdata) : NULL;
}

const char *plan_timer_name(const plan *loaded, unsigned timer)
{
    return name_of(loaded, A_TIMER, (uint8_t)timer);
}

bool plan_is_limit(const plan *loaded, const char *value, const char *number)
{
    int row = 0;
    if (source_find(loaded->source, value, &row) != A_VALUE) {
        return false;
    }
    const drom_value *const limits = &g_array_index(loaded->source->values, value_line, row).limits;
    const int64_t value_now = g_ascii_strtoll(number, NULL, 10);
    return !limits->wraps && (value_now == limits->min || value_now == limits->max);
}

char *plan_first_state(const plan *loaded, const char *name)
{
    const plan_source *const source = loaded->source;
    int row = 0;
    if (strcmp(name, "mode") == 0) {
        return source->modes->len > 0 ? g_strdup(name_of(loaded, A_MODE, 0)) : NULL;
    }
    const thing kind = source_find(source, name, &row);
    return kind == A_VALUE
               ? g_strdup_printf("%d", g_array_index(source->values, value_line, row).limits.start)
           : kind == A_SWITCH ? g_strdup("open")
                              : NULL;
}
