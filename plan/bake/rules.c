/* Writes the tables of the rules in C: actions, conditions, modes and values. */
#include "plan/bake/bake.h"

#include "plan/kinds/kinds.h"

static void put_action(GString *out, const drom_action *action)
{
    static const char *const value_verbs[] = {"DROM_VALUE_UP", "DROM_VALUE_DOWN", "DROM_VALUE_TO"};
    static const char *const timer_verbs[] = {"DROM_TIMER_START", "DROM_TIMER_ADD", "DROM_TIMER_CANCEL"};
    static const char *const scene_verbs[] = {"DROM_SCENE_BEGIN", "DROM_SCENE_STOP"};
    const unsigned row = action->row;
    const bool has_number = (action->flags & (DROM_OF_VALUE | DROM_OF_EVENT)) != 0;
    const bool is_of_sum = (action->flags & (DROM_INTO_SUM | DROM_OF_SUM)) != 0;
    if (has_number || is_of_sum || (action->target == DROM_TO_WAIT_FOR && action->verb != DROM_UNTIL_IDLE)) {
        g_string_append_printf(out, "{.row = %u, .verb = %u, .value = 0x%x, .target = %u, .flags = %u}", row,
                               action->verb, action->value, action->target, action->flags);
        return;
    }
    switch ((drom_target)action->target) {
    case DROM_TO_OUTPUT:
        g_string_append_printf(out, "%s(%u, %u, 0x%x)",
                               (action->flags & DROM_WHILE_HELD) != 0 ? "DROM_ORDER_WHILE_HELD"
                                                                      : "DROM_ORDER",
                               row, action->verb, action->value);
        break;
    case DROM_TO_WAIT:
        g_string_append_printf(out, "DROM_WAIT(%u)", action->value);
        break;
    case DROM_TO_WAIT_FOR:
        g_string_append_printf(out, "DROM_WAIT_FOR(%u, %u)", row, action->value);
        break;
    case DROM_TO_MODE:
        g_string_append_printf(out, "DROM_ENTER(%u)", row);
        break;
    case DROM_TO_VALUE:
        g_string_append_printf(out, "DROM_COUNT(%u, %s, %d)", row, value_verbs[action->verb],
                               (int16_t)(uint16_t)action->value);
        break;
    case DROM_TO_TIMER:
        g_string_append_printf(out, "DROM_TIME(%u, %s, %u)", row, timer_verbs[action->verb], action->value);
        break;
    case DROM_TO_SCENE:
        g_string_append_printf(out, "DROM_SCENE(%u, %s)", row, scene_verbs[action->verb]);
        break;
    case DROM_TARGETS:
        break;
    }
}

/* A list of actions: a rule's, or its 'otherwise'. */
typedef struct action_list {
    const drom_action *rows;
    uint8_t count;
} action_list;

static action_list list_at(const drom_rules_plan *rules, unsigned list)
{
    const drom_rule *const rule = &rules->rules.rows[list / 2];
    return list % 2 == 0 ? (action_list){rule->actions.rows, rule->actions.count}
                         : (action_list){rule->otherwise.rows, rule->otherwise.count};
}

static bool are_alike(action_list a, action_list b)
{
    bool are = a.count == b.count;
    for (uint8_t i = 0; are && i < a.count; i++) {
        const drom_action *const one = &a.rows[i];
        const drom_action *const other = &b.rows[i];
        are = one->row == other->row && one->verb == other->verb && one->value == other->value &&
              one->target == other->target && one->flags == other->flags;
    }
    return are;
}

/* Returns the first list with the same actions: both share a table. */
static unsigned first_alike(const drom_rules_plan *rules, unsigned list)
{
    unsigned first = 0;
    while (!are_alike(list_at(rules, first), list_at(rules, list))) {
        first++;
    }
    return first;
}

static void put_list(GString *out, const plan *loaded, unsigned list)
{
    const drom_rules_plan *const rules = &plan_tables(loaded)->rules;
    const action_list actions = list_at(rules, list);
    if (actions.count == 0 || first_alike(rules, list) != list) {
        return;
    }
    g_string_append_printf(out, "static const drom_action DROM_FLASH actions_%u[] = {\n", list);
    for (uint8_t i = 0; i < actions.count; i++) {
        g_autofree char *said = plan_action_text(loaded, &actions.rows[i]);
        g_autofree char *text = bake_comment(said);
        g_string_append(out, "    ");
        put_action(out, &actions.rows[i]);
        g_string_append_printf(out, ", /* %s */\n", text);
    }
    g_string_append(out, "};\n");
}

static void put_conditions(GString *out, const drom_rules_plan *rules, unsigned row)
{
    static const char *const subjects[] = {"DROM_IF_VALUE", "DROM_IF_OUTPUT", "DROM_IF_SWITCH",
                                           "DROM_IF_TIMER", "DROM_IF_MODE"};
    const drom_rule *const rule = &rules->rules.rows[row];
    if (rule->conditions.count == 0) {
        return;
    }
    g_string_append_printf(out, "static const drom_condition DROM_FLASH conditions_%u[] = {", row);
    for (uint8_t i = 0; i < rule->conditions.count; i++) {
        const drom_condition *const condition = &rule->conditions.rows[i];
        g_string_append_printf(out, "%s{%s, %u, %u, %d}", i > 0 ? ", " : "", subjects[condition->subject],
                               condition->row, condition->compare, condition->number);
    }
    g_string_append(out, "};\n");
}

/* Writes the memory of the rules, and the tables of modes and values. */
static void put_state(GString *out, const drom_rules_plan *rules)
{
    const struct {
        unsigned count;
        const char *text;
    } memory[] = {
        {rules->held.count, "static drom_held held[%u];\n"},
        {rules->sequences.count, "static drom_sequence sequences[%u];\n"},
        {rules->timers.count, "static drom_timer timers[%u];\n"},
        {rules->values.count, "static int16_t numbers[%u];\n"},
    };
    for (gsize i = 0; i < G_N_ELEMENTS(memory); i++) {
        if (memory[i].count > 0) {
            g_string_append_printf(out, memory[i].text, memory[i].count);
        }
    }
    for (uint8_t i = 0; i < rules->modes.count; i++) {
        g_string_append_printf(out, "%s{%u}%s",
                               i == 0 ? "static const drom_mode DROM_FLASH modes[] = {" : ", ",
                               rules->modes.rows[i].back_after_ms, i + 1 == rules->modes.count ? "};\n" : "");
    }
    for (uint8_t i = 0; i < rules->values.count; i++) {
        const drom_value *const value = &rules->values.rows[i];
        g_string_append_printf(out, "%s{%d, %d, %d, %s}%s",
                               i == 0 ? "static const drom_value DROM_FLASH values[] = {" : ", ", value->min,
                               value->max, value->start, c_bool(value->wraps),
                               i + 1 == rules->values.count ? "};\n" : "");
    }
}

static void put_rule(GString *out, const plan *loaded, unsigned row)
{
    static const char *const sources[DROM_SOURCES] = {
        [DROM_SOURCE_KEY] = "DROM_SOURCE_KEY",       [DROM_SOURCE_LOST] = "DROM_SOURCE_LOST",
        [DROM_SOURCE_START] = "DROM_SOURCE_START",   [DROM_SOURCE_MODE] = "DROM_SOURCE_MODE",
        [DROM_SOURCE_VALUE] = "DROM_SOURCE_VALUE",   [DROM_SOURCE_SWITCH] = "DROM_SOURCE_SWITCH",
        [DROM_SOURCE_POSTED] = "DROM_SOURCE_POSTED", [DROM_SOURCE_TIMER] = "DROM_SOURCE_TIMER",
        [DROM_SOURCE_SCENE] = "DROM_SOURCE_SCENE",   [DROM_SOURCE_HEARD] = "DROM_SOURCE_HEARD",
    };
    const drom_rules_plan *const rules = &plan_tables(loaded)->rules;
    const drom_rule *const rule = &rules->rules.rows[row];
    const struct {
        unsigned number;
        const char *text;
    } fields[] = {
        {rule->row, ".row = %u, "},     {rule->key, ".key = %u, "},   {rule->gestures, ".gestures = %u, "},
        {rule->hold, ".hold = %u, "},   {rule->mode, ".mode = %u, "}, {rule->sequence, ".sequence = %u, "},
        {rule->again, ".again = %u, "},
    };
    g_string_append_printf(out, "    {.source = %s, ", sources[rule->source]);
    for (gsize i = 0; i < G_N_ELEMENTS(fields); i++) {
        if (fields[i].number > 0) {
            g_string_append_printf(out, fields[i].text, fields[i].number);
        }
    }
    if (rule->conditions.count > 0) {
        g_string_append_printf(out, ".conditions = DROM_ROWS(conditions_%u), ", row);
    }
    if (rule->actions.count > 0) { /* "everything rests" has no action in a plan without outputs */
        g_string_append_printf(out, ".actions = DROM_ROWS(actions_%u), ", first_alike(rules, 2 * row));
    }
    if (rule->otherwise.count > 0) {
        g_string_append_printf(out, ".otherwise = DROM_ROWS(actions_%u), ", first_alike(rules, 2 * row + 1));
    }
    g_autofree char *said = plan_rule_text(loaded, row);
    g_autofree char *text = bake_comment(said);
    const int line = plan_rule_line(loaded, row);
    g_autofree char *at = line > 0 ? g_strdup_printf("line %d: ", line) : g_strdup("");
    g_string_append_printf(out, "}, /* %s%s */\n", at, text);
}

void plan_bake_rules(GString *out, const plan *loaded)
{
    const drom_rules_plan *const rules = &plan_tables(loaded)->rules;
    for (unsigned i = 0; i < 2u * rules->rules.count; i++) {
        put_list(out, loaded, i);
    }
    for (unsigned i = 0; i < rules->rules.count; i++) {
        put_conditions(out, rules, i);
    }
    put_state(out, rules);
    if (rules->rules.count == 0) {
        return;
    }
    g_string_append(out, "static const drom_rule DROM_FLASH rules[] = {\n");
    for (unsigned i = 0; i < rules->rules.count; i++) {
        put_rule(out, loaded, i);
    }
    g_string_append(out, "};\n\n");
}

/* Returns the gestures that rules use: others needn't be reported on a chip. */
uint8_t plan_bake_gestures(const drom_rules_plan *rules)
{
    uint8_t gestures = 0;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        gestures |= rules->rules.rows[i].gestures;
    }
    if (rules->held.count > 0 || rules->modes.count > 0) { /* which depend on these */
        gestures |= DROM_PRESS | DROM_RELEASE;
    }
    return gestures;
}
