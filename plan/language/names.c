/* Names of a plan, except outputs and handsets: modes, values, timers, events, groups; and which of them a
 * name is. */
#include "plan/language/statements.h"

#include "plan/language/kind.h"

#include <string.h>

void names_take_mode(plan_source *source, const statement *whole)
{
    static const char *const heads[] = {"NAME", NULL};
    static const char *const clauses[] = {"back after TIME", NULL};
    phrase_value values[PHRASE_VALUES];
    phrase_value time[PHRASE_VALUES] = {0};
    const GArray *const segments = whole->segments;
    if (statement_match(source, statement_segment(segments, 0), heads, NULL, statement_then_clause, values) <
        0) {
        return;
    }
    if (segments->len > 1 && statement_match(source, statement_segment(segments, 1), clauses, ",",
                                             statement_then_nothing, time) < 0) {
        return;
    }
    if (segments->len > 2) {
        statement_unexpected(source, statement_segment(segments, 2)->before, statement_then_nothing);
        return;
    }
    if (segments->len > 1 && source->modes->len == 0) {
        report_error(source->faults, wording_place(statement_segment(segments, 1)->words),
                     "the first mode is the one at start, to which the others fall back: it has no end");
    } else if (segments->len > 1 && (time[0].number < 1 || time[0].number > DROM_TIMER_LONGEST_MS)) {
        report_error(source->faults, time[0].where, "a mode falls back after 1 ms to 24 h");
    }
    const mode_line mode = {values[0].name, time[0].number};
    g_array_append_val(source->modes, mode);
}

static bool is_int16(plan_source *source, const phrase_value *given)
{
    const int32_t number = (int32_t)given->number;
    if (number < INT16_MIN || number > INT16_MAX) {
        report_error(source->faults, given->where, "a value is a number from -32768 to 32767");
    }
    return number >= INT16_MIN && number <= INT16_MAX;
}

void names_take_value(plan_source *source, const statement *whole)
{
    static const char *const heads[] = {"NAME from INT to INT", NULL};
    static const char *const clauses[] = {"starts at INT", "wraps", "kept", NULL};
    phrase_value head[PHRASE_VALUES];
    phrase_value clause[PHRASE_VALUES];
    if (statement_match(source, statement_segment(whole->segments, 0), heads, NULL, statement_then_clause,
                        head) < 0 ||
        !is_int16(source, &head[1]) || !is_int16(source, &head[2])) {
        return;
    }
    value_line value = {
        .name = head[0].name,
        .limits = {.min = (int16_t)head[1].number, .max = (int16_t)head[2].number},
    };
    value.limits.start = value.limits.min;
    if (value.limits.min >= value.limits.max) {
        report_error(source->faults, head[2].where,
                     "the upper limit must be above the lower one, which is %d", value.limits.min);
    }
    for (guint i = 1; i < whole->segments->len; i++) {
        const int said = statement_match(source, statement_segment(whole->segments, i), clauses, ",",
                                         statement_then_clause, clause);
        const int32_t start = (int32_t)clause[0].number;
        if (said < 0) {
            return;
        }
        value.limits.wraps |= said == 1;
        if (said == 2) {
            value.kept = wording_place(statement_segment(whole->segments, i)->words);
        }
        if (said == 0 && (start < value.limits.min || start > value.limits.max)) {
            report_error(source->faults, clause[0].where, "'%s' can only start at %d to %d", value.name.text,
                         value.limits.min, value.limits.max);
        } else if (said == 0) {
            value.limits.start = (int16_t)start;
        }
    }
    g_array_append_val(source->values, value);
}

static void take_name(plan_source *source, const statement *whole, GArray *lines)
{
    static const char *const heads[] = {"NAME", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match_only(source, whole->segments, heads, values) >= 0) {
        const named_line line = {.name = values[0].name};
        g_array_append_val(lines, line);
    }
}

void names_take_timer(plan_source *source, const statement *whole)
{
    take_name(source, whole, source->timers);
}

void names_take_event(plan_source *source, const statement *whole)
{
    take_name(source, whole, source->events);
}

void names_take_group(plan_source *source, const statement *whole)
{
    static const char *const phrases[] = {"NAME", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match(source, statement_segment(whole->segments, 0), phrases, NULL, statement_then_list,
                        values) < 0) {
        return;
    }
    const group_line group = {values[0].name, g_array_new(FALSE, FALSE, sizeof(word))};
    g_array_append_val(source->groups, group);
    for (guint i = 0; i < whole->after->len; i++) {
        if (statement_match(source, statement_segment(whole->after, i), phrases, i == 0 ? NULL : ",",
                            statement_then_clause, values) < 0) {
            return;
        }
        g_array_append_val(group.members, values[0].name);
    }
}

void names_take_switch(plan_source *source, const statement *whole)
{
    static const char *const heads[] = {"NAME on pin PIN", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match_only(source, whole->segments, heads, values) >= 0) {
        const switch_line line = {values[0].name, values[1].name};
        g_array_append_val(source->switches, line);
    }
}

/* Button names are key names: "1" is one. */
void names_take_buttons(plan_source *source, const statement *whole)
{
    static const char *const heads[] = {"NAME", NULL};
    static const char *const phrases[] = {"PIN on pin PIN", NULL};
    phrase_value values[PHRASE_VALUES];
    if (statement_match(source, statement_segment(whole->segments, 0), heads, NULL, statement_then_list,
                        values) < 0) {
        return;
    }
    const handset_line handset = {.name = values[0].name,
                                  .buttons = g_array_new(FALSE, FALSE, sizeof(button_line))};
    g_array_append_val(source->handsets, handset);
    for (guint i = 0; i < whole->after->len; i++) {
        if (statement_match(source, statement_segment(whole->after, i), phrases, i == 0 ? NULL : ",",
                            statement_then_clause, values) < 0) {
            return;
        }
        const button_line button = {values[0].name, values[1].name};
        g_array_append_val(handset.buttons, button);
    }
}

/* The lines of each, and the place of the name in a line. */
static const struct {
    const char *text;
    gsize lines;
    gsize name;
} things[THINGS] = {
    [A_HANDSET] = {"a handset", offsetof(plan_source, handsets), offsetof(handset_line, name)},
    [AN_OUTPUT] = {"an output", offsetof(plan_source, outputs), offsetof(output_line, name)},
    [A_PALETTE] = {"a palette", offsetof(plan_source, palettes), offsetof(palette_line, name)},
    [A_MODE] = {"a mode", offsetof(plan_source, modes), offsetof(mode_line, name)},
    [A_VALUE] = {"a value", offsetof(plan_source, values), offsetof(value_line, name)},
    [A_TIMER] = {"a timer", offsetof(plan_source, timers), offsetof(named_line, name)},
    [A_SCENE] = {"a scene", offsetof(plan_source, scenes), offsetof(named_line, name)},
    [AN_EVENT] = {"an event", offsetof(plan_source, events), offsetof(named_line, name)},
    [A_SWITCH] = {"a switch", offsetof(plan_source, switches), offsetof(switch_line, name)},
    [A_GROUP] = {"a name for several outputs", offsetof(plan_source, groups), offsetof(group_line, name)},
};

const char *thing_text(thing kind)
{
    return things[kind].text;
}

static const GArray *lines_of(const plan_source *source, thing kind)
{
    return *(GArray *const *)(const void *)((const char *)source + things[kind].lines);
}

guint source_count(const plan_source *source, thing kind)
{
    return lines_of(source, kind)->len;
}

const word *source_name(const plan_source *source, thing kind, guint row)
{
    const GArray *const lines = lines_of(source, kind);
    const gsize size = g_array_get_element_size((GArray *)lines);
    return (const word *)(const void *)(lines->data + row * size + things[kind].name);
}

thing source_find(const plan_source *source, const char *name, int *row)
{
    for (int kind = NO_THING + 1; kind < (int)THINGS; kind++) {
        for (guint i = 0; i < source_count(source, (thing)kind); i++) {
            if (strcmp(source_name(source, (thing)kind, i)->text, name) == 0) {
                *row = (int)i;
                return (thing)kind;
            }
        }
    }
    *row = -1;
    return NO_THING;
}

int source_look_up(const plan_source *source, thing kind, const word *name)
{
    int row;
    const thing found = source_find(source, name->text, &row);
    if (found == kind) {
        return row;
    }
    if (found != NO_THING) {
        report_error(source->faults, name->where, "'%s' is %s, and not %s", name->text, things[found].text,
                     things[kind].text);
        return -1;
    }
    const guint count = source_count(source, kind);
    g_autofree const char **names = g_new0(const char *, count + 1);
    for (guint i = 0; i < count; i++) {
        names[i] = source_name(source, kind, i)->text;
    }
    g_autofree char *hint = did_you_mean(name->text, names);
    const char *const bare = strchr(things[kind].text, ' ') + 1;
    report_error(source->faults, name->where, "there is no %s '%s'%s", bare, name->text, hint);
    return -1;
}

void names_take_only(plan_source *source, const statement *whole)
{
    enum { MAX_PAUSE_MS = 60000 };
    static const char *const heads[] = {"one of NAME", NULL};
    static const char *const others[] = {"NAME", "pause TIME", NULL};
    only_line only = {g_array_new(FALSE, FALSE, sizeof(word)), 0,
                      wording_place(statement_segment(whole->segments, 0)->words)};
    phrase_value values[PHRASE_VALUES] = {0};
    bool has_pause = false;
    for (guint i = 0; i < whole->segments->len; i++) {
        const segment *const given = statement_segment(whole->segments, i);
        const int said = statement_match(source, given, i == 0 ? heads : others, i == 0 ? NULL : ",",
                                         has_pause ? statement_then_nothing : statement_then_clause, values);
        if (said < 0 || has_pause) {
            if (said >= 0) {
                statement_unexpected(source, given->before, statement_then_nothing);
            }
            g_array_unref(only.members);
            return;
        }
        has_pause = said == 1;
        if (has_pause) {
            only.pause_ms = values[0].number;
        } else {
            g_array_append_val(only.members, values[0].name);
        }
    }
    if (only.pause_ms > MAX_PAUSE_MS) {
        report_error(source->faults, values[0].where, "a pause takes up to 1 min");
    }
    g_array_append_val(source->onlies, only);
}
