/* Checks the tables of the rules, once, at init, so that nothing has to be checked while they run. */
#include "../compiler.h"

#include "check.h"

#include "../rules/rules_shared.h"

#if DROM_WITH_CHECKS

/* The rule that is being checked. */
typedef struct sight {
    const drom_plan DROM_FLASH *plan;
    drom_fault *fault;
    drom_rule rule;
    uint8_t row;
    uint8_t held; /* number of DROM_WHILE_HELD actions so far */
} sight;

static bool blame_rule(const sight *seen, drom_reason reason)
{
    return drom_blame(seen->fault, DROM_PART_RULES, seen->row, 0, reason);
}

static bool has_double(const drom_keys_plan DROM_FLASH *keys, const drom_rule *rule)
{
    bool has = false;
    for (uint8_t i = 0; i < keys->doubles.count; i++) {
        const drom_key_ref key = keys->doubles.rows[i];
        has |= key.handset == rule->row && key.key == rule->key;
    }
    return has;
}

static bool check_key(const sight *seen)
{
    const drom_rule *const rule = &seen->rule;
    const drom_keys_plan DROM_FLASH *const keys = &seen->plan->keys;
    if (rule->row >= keys->handsets.count) {
        return blame_rule(seen, DROM_REASON_NO_HANDSET);
    }
    if (rule->key >= keys->handsets.rows[rule->row].codes.count && rule->key != DROM_ANY_OTHER_KEY) {
        return blame_rule(seen, DROM_REASON_NO_KEY);
    }
    if (rule->gestures == 0 || (rule->gestures & ~DROM_ANY_GESTURE) != 0) {
        return blame_rule(seen, DROM_REASON_GESTURES);
    }
    if ((rule->gestures & DROM_HOLD) != 0 && rule->hold >= keys->hold_ms.count) {
        return blame_rule(seen, DROM_REASON_NO_HOLD);
    }
    return (rule->gestures & DROM_DOUBLE) == 0 || has_double(keys, rule) ||
           blame_rule(seen, DROM_REASON_NO_DOUBLE);
}

static bool check_source(const sight *seen)
{
    const drom_rules_plan DROM_FLASH *const rules = &seen->plan->rules;
    const drom_rule *const rule = &seen->rule;
    switch ((drom_source)rule->source) {
    case DROM_SOURCE_KEY:
        return check_key(seen);
    case DROM_SOURCE_LOST:
        return rule->row < seen->plan->keys.handsets.count || blame_rule(seen, DROM_REASON_NO_HANDSET);
    case DROM_SOURCE_MODE:
        return (rule->row < rules->modes.count && rule->key <= DROM_BEGINS) ||
               blame_rule(seen, DROM_REASON_NO_MODE);
    case DROM_SOURCE_VALUE:
        return rule->row < rules->values.count || blame_rule(seen, DROM_REASON_NO_VALUE);
    case DROM_SOURCE_SWITCH:
        return (rule->row < rules->switches.count && rule->key <= DROM_CLOSES) ||
               blame_rule(seen, DROM_REASON_NO_SWITCH);
    case DROM_SOURCE_TIMER:
        return rule->row < rules->timers.count || blame_rule(seen, DROM_REASON_NO_TIMER);
    case DROM_SOURCE_START:
    case DROM_SOURCE_POSTED:
    case DROM_SOURCE_SCENE:
    case DROM_SOURCE_HEARD:
        return true;
    case DROM_SOURCES:
        break;
    }
    return blame_rule(seen, DROM_REASON_SOURCE);
}

static bool is_before(const drom_rule *rule, const drom_rule *other)
{
    return rule->source != other->source ? rule->source < other->source
           : rule->row != other->row     ? rule->row < other->row
                                         : rule->key < other->key;
}

/* Checks that the rules up to this one ascend, and that at most DROM_MAX_ANSWERS are about one event. */
static bool check_order(const sight *seen)
{
    const drom_rules_plan DROM_FLASH *const rules = &seen->plan->rules;
    const bool is_key = seen->rule.source == DROM_SOURCE_KEY;
    uint8_t answers = 1;
    for (uint8_t i = seen->row; i-- > 0;) {
        const drom_rule before = rules->rules.rows[i];
        if (is_before(&seen->rule, &before)) {
            return blame_rule(seen, DROM_REASON_ORDER);
        }
        if (is_before(&before, &seen->rule)) {
            break;
        }
        const bool is_same_gesture =
            (before.gestures & seen->rule.gestures) != 0 &&
            ((before.gestures & seen->rule.gestures) != DROM_HOLD || before.hold == seen->rule.hold);
        answers = (uint8_t)(answers + (!is_key || is_same_gesture));
    }
    return answers <= DROM_MAX_ANSWERS || blame_rule(seen, DROM_REASON_ANSWERS);
}

static bool check_conditions(const sight *seen)
{
    const drom_rules_plan DROM_FLASH *const rules = &seen->plan->rules;
    const drom_rule *const rule = &seen->rule;
    if (rule->conditions.count > 0 && rule->conditions.rows == NULL) {
        return drom_blame(seen->fault, DROM_PART_CONDITIONS, seen->row, 0, DROM_REASON_NULL);
    }
    for (uint8_t i = 0; i < rule->conditions.count; i++) {
        const drom_condition condition = rule->conditions.rows[i];
        const uint8_t counts[DROM_SUBJECTS] = {rules->values.count, seen->plan->outputs.outputs.count,
                                               rules->switches.count, rules->timers.count,
                                               rules->modes.count};
        const drom_reason reasons[DROM_SUBJECTS] = {DROM_REASON_NO_VALUE, DROM_REASON_NO_OUTPUT,
                                                    DROM_REASON_NO_SWITCH, DROM_REASON_NO_TIMER,
                                                    DROM_REASON_NO_MODE};
        const uint8_t compare = condition.compare & (uint8_t)~DROM_THAN_VALUE;
        const bool is_known = condition.subject < DROM_SUBJECTS && compare >= DROM_LESS &&
                              compare < (DROM_LESS | DROM_EQUAL | DROM_GREATER);
        if (condition.compare != compare && (uint16_t)condition.number >= rules->values.count) {
            return drom_blame(seen->fault, DROM_PART_CONDITIONS, seen->row, i, DROM_REASON_NO_VALUE);
        }
        if (!is_known || condition.row >= counts[condition.subject]) {
            return drom_blame(seen->fault, DROM_PART_CONDITIONS, seen->row, i,
                              is_known ? reasons[condition.subject] : DROM_REASON_COMPARE);
        }
    }
    return true;
}

/* The smallest and the largest value of an action, with all numbers that are possible. */
typedef struct span {
    uint32_t low;
    uint32_t high;
} span;

/* False if the value that the action names doesn't exist. */
static bool find_span(const sight *seen, const drom_action *action, span *found)
{
    const drom_rules_plan DROM_FLASH *const rules = &seen->plan->rules;
    *found = (span){action->value, action->value};
    if ((action->flags & DROM_OF_VALUE) != 0) {
        const uint8_t row = drom_rules_row_of_number(action);
        const bool is_count = (action->flags & DROM_FORM & ~DROM_AS_SIGNED) == DROM_AS_COUNT;
        if (row >= rules->values.count || (is_count && (action->value & 0xffff) != row)) {
            return false;
        }
        const drom_value value = rules->values.rows[row];
        *found = (span){drom_rules_with_number(action, value.min), drom_rules_with_number(action, value.max)};
    } else if ((action->flags & DROM_OF_EVENT) != 0) {
        *found = (span){drom_rules_with_number(action, INT16_MIN), drom_rules_with_number(action, INT16_MAX)};
    }
    return true;
}

/* Checks that the output accepts the order. */
static drom_reason check_order_to(const sight *seen, const drom_action *action)
{
    span given;
    if (action->row >= seen->plan->outputs.outputs.count) {
        return DROM_REASON_NO_OUTPUT;
    }
    if (!find_span(seen, action, &given)) {
        return DROM_REASON_NO_VALUE;
    }
    const drom_output output = seen->plan->outputs.outputs.rows[action->row];
    const drom_output_kind kind = *output.kind;
    const bool is_accepted =
        kind.accepts_action == NULL || (kind.accepts_action(output.settings, action->verb, given.low) &&
                                        kind.accepts_action(output.settings, action->verb, given.high));
    return is_accepted ? DROM_REASON_NONE : DROM_REASON_VERB;
}

/* A time of 0 from a value counts as the shortest time. */
static drom_reason check_time(const sight *seen, const drom_action *action, uint32_t longest_ms)
{
    span given;
    if (!find_span(seen, action, &given)) {
        return DROM_REASON_NO_VALUE;
    }
    return given.low <= longest_ms && given.high <= longest_ms ? DROM_REASON_NONE : DROM_REASON_VERB;
}

static drom_reason check_wait(const sight *seen, const drom_action *action)
{
    const bool is_for = action->target == DROM_TO_WAIT_FOR;
    const bool is_for_switch = is_for && action->verb != DROM_UNTIL_IDLE;
    const uint8_t there =
        is_for_switch ? seen->plan->rules.switches.count : seen->plan->outputs.outputs.count;
    if (seen->rule.sequence == 0) {
        return DROM_REASON_NO_SEQUENCE;
    }
    if (is_for && (action->row >= there || action->verb >= DROM_UNTILS)) {
        return action->verb >= DROM_UNTILS ? DROM_REASON_VERB
               : is_for_switch             ? DROM_REASON_NO_SWITCH
                                           : DROM_REASON_NO_OUTPUT;
    }
    if ((action->flags & (DROM_OF_VALUE | DROM_OF_EVENT)) == 0 && action->value < 1) {
        return DROM_REASON_VERB;
    }
    return check_time(seen, action, DROM_LONGEST_MS);
}

static drom_reason check_action(sight *seen, const drom_action *action)
{
    const drom_rules_plan DROM_FLASH *const rules = &seen->plan->rules;
    const bool is_held = (action->flags & DROM_WHILE_HELD) != 0;
    if (is_held && (seen->rule.source != DROM_SOURCE_KEY || action->target != DROM_TO_OUTPUT ||
                    (action->flags & DROM_OF_EVENT) != 0 || seen->held == rules->held.count)) {
        return DROM_REASON_HELD;
    }
    seen->held = (uint8_t)(seen->held + is_held);
    switch ((drom_target)action->target) {
    case DROM_TO_OUTPUT:
        return check_order_to(seen, action);
    case DROM_TO_WAIT:
    case DROM_TO_WAIT_FOR:
        return check_wait(seen, action);
    case DROM_TO_MODE:
        return action->row < rules->modes.count ? DROM_REASON_NONE : DROM_REASON_NO_MODE;
    case DROM_TO_VALUE:
        if (action->row >= rules->values.count ||
            ((action->flags & DROM_OF_VALUE) != 0 && action->value >= rules->values.count)) {
            return DROM_REASON_NO_VALUE;
        }
        return action->verb < DROM_VALUE_VERBS && action->value <= UINT16_MAX ? DROM_REASON_NONE
                                                                              : DROM_REASON_VERB;
    case DROM_TO_TIMER:
        if (action->row >= rules->timers.count) {
            return DROM_REASON_NO_TIMER;
        }
        return action->verb <= DROM_TIMER_CANCEL ? check_time(seen, action, DROM_TIMER_LONGEST_MS)
                                                 : DROM_REASON_VERB;
    case DROM_TO_SCENE:
        return action->verb <= DROM_SCENE_STOP ? DROM_REASON_NONE : DROM_REASON_VERB;
    case DROM_TARGETS:
        break;
    }
    return DROM_REASON_VERB;
}

static bool check_actions(sight *seen, const drom_action DROM_FLASH *rows, uint8_t count,
                          drom_fault_part part)
{
    if (count > 0 && rows == NULL) {
        return drom_blame(seen->fault, part, seen->row, 0, DROM_REASON_NULL);
    }
    for (uint8_t i = 0; i < count; i++) {
        const drom_action action = rows[i];
        const drom_reason reason = check_action(seen, &action);
        if (reason != DROM_REASON_NONE) {
            return drom_blame(seen->fault, part, seen->row, i, reason);
        }
    }
    return true;
}

/* Rules with the same `again` may share a sequence; a scene needs its own, as it can be stopped. */
static bool check_sequence(const sight *seen)
{
    const drom_rules_plan DROM_FLASH *const rules = &seen->plan->rules;
    bool is_unlike = false;
    for (uint8_t i = 0; DROM_WITH_WAITS && seen->rule.sequence != 0 && i < seen->row; i++) {
        const drom_rule DROM_FLASH *const other = &rules->rules.rows[i];
        is_unlike |= other->sequence == seen->rule.sequence &&
                     (other->again != seen->rule.again || other->source == DROM_SOURCE_SCENE ||
                      seen->rule.source == DROM_SOURCE_SCENE);
    }
    return (!is_unlike && seen->rule.sequence <= rules->sequences.count) ||
           blame_rule(seen, DROM_REASON_NO_SEQUENCE);
}

static bool check_rule(sight *seen)
{
    const drom_rule *const rule = &seen->rule;
    if (!check_source(seen) || !check_order(seen) || !check_sequence(seen)) {
        return false;
    }
    if (rule->mode > seen->plan->rules.modes.count) {
        return blame_rule(seen, DROM_REASON_NO_MODE);
    }
    if (rule->actions.count == 0) {
        return blame_rule(seen, DROM_REASON_NO_ACTION);
    }
    if (rule->again >= DROM_AGAINS) {
        return blame_rule(seen, DROM_REASON_AGAIN);
    }
    return check_conditions(seen) &&
           check_actions(seen, rule->actions.rows, rule->actions.count, DROM_PART_RULES) &&
           check_actions(seen, rule->otherwise.rows, rule->otherwise.count, DROM_PART_OTHERWISE);
}

static bool check_modes(const drom_rules_plan DROM_FLASH *rules, drom_fault *fault)
{
    if (rules->modes.count > 0 && rules->modes.rows == NULL) {
        return drom_blame(fault, DROM_PART_MODES, 0, 0, DROM_REASON_NULL);
    }
    for (uint8_t i = 0; i < rules->modes.count; i++) {
        if (rules->modes.rows[i].back_after_ms > (i > 0 ? DROM_TIMER_LONGEST_MS : 0)) {
            return drom_blame(fault, DROM_PART_MODES, i, 0, DROM_REASON_LIMITS);
        }
    }
    return true;
}

static bool check_values(const drom_rules_plan DROM_FLASH *rules, drom_fault *fault)
{
    if (rules->values.count > 0 && (rules->values.rows == NULL || rules->numbers == NULL)) {
        return drom_blame(fault, DROM_PART_VALUES, 0, 0, DROM_REASON_NULL);
    }
    for (uint8_t i = 0; i < rules->values.count; i++) {
        const drom_value value = rules->values.rows[i];
        if (value.start < value.min || value.start > value.max) {
            return drom_blame(fault, DROM_PART_VALUES, i, 0, DROM_REASON_LIMITS);
        }
    }
    return true;
}

static bool has_memory(const drom_plan DROM_FLASH *plan)
{
    const drom_rules_plan rules = plan->rules; /* a copy: avr-gcc 5.4 fails on null tests of flash pointers */
    return (rules.rules.count == 0 || rules.rules.rows != NULL) &&
           (rules.last_presses.count == 0 || rules.last_presses.rows != NULL) &&
           rules.last_presses.count == plan->keys.handsets.count &&
           (rules.held.count == 0 || rules.held.rows != NULL) &&
           (rules.sequences.count == 0 || rules.sequences.rows != NULL) &&
           (rules.timers.count == 0 || rules.timers.rows != NULL) &&
           (rules.switches.count == 0 || rules.switches.rows != NULL);
}

bool drom_check_rules(const drom_plan DROM_FLASH *plan, drom_fault *fault)
{
    if (!has_memory(plan)) {
        return drom_blame(fault, DROM_PART_RULES, 0, 0, DROM_REASON_NULL);
    }
    sight seen = {.plan = plan, .fault = fault};
    for (; seen.row < plan->rules.rules.count; seen.row++) {
        seen.rule = plan->rules.rules.rows[seen.row];
        if (!check_rule(&seen)) {
            return false;
        }
    }
    return check_modes(&plan->rules, fault) && check_values(&plan->rules, fault);
}
#endif
