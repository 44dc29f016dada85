/* Finds the rules of an event. Rules are sorted by event, so that binary search finds the first of any
 * number. */
#include "../compiler.h"

#include "rules_shared.h"

static bool is_before(const drom_rule DROM_FLASH *rule, uint8_t source, uint8_t row, uint8_t key)
{
    return rule->source != source ? rule->source < source
           : rule->row != row     ? rule->row < row
                                  : rule->key < key;
}

uint8_t drom_rules_find(const drom_rules *rules, uint8_t source, uint8_t row, uint8_t key)
{
    const drom_rules_plan DROM_FLASH *const plan = drom_rules_plan_of(rules);
    uint8_t low = 0;
    uint8_t high = plan->rules.count;
    while (low < high) {
        const uint8_t middle = (uint8_t)(low + (high - low) / 2);
        if (is_before(&plan->rules.rows[middle], source, row, key)) {
            low = (uint8_t)(middle + 1);
        } else {
            high = middle;
        }
    }
    return low;
}

static int16_t number_of(const drom_rules *rules, const drom_condition *condition)
{
    const drom_rules_plan DROM_FLASH *const plan = drom_rules_plan_of(rules);
    switch ((drom_subject)condition->subject) {
    case DROM_IF_VALUE:
        return plan->numbers[condition->row];
    case DROM_IF_OUTPUT: {
        const drom_output DROM_FLASH *const output = &drom_rules_outputs(rules)->outputs.rows[condition->row];
        return output->kind->is_on != NULL && output->kind->is_on(output->state) ? 1 : 0;
    }
    case DROM_IF_SWITCH:
        return plan->switches.rows[condition->row];
    case DROM_IF_TIMER:
        return plan->timers.rows[condition->row].part.is_armed;
    case DROM_IF_MODE:
        return rules->mode == condition->row ? 1 : 0;
    case DROM_SUBJECTS:
        break;
    }
    return 0;
}

static bool holds(const drom_rules *rules, const drom_rule DROM_FLASH *rule)
{
    for (uint8_t i = 0; DROM_WITH_CONDITIONS && i < rule->conditions.count; i++) {
        const drom_condition condition = rule->conditions.rows[i];
        const int16_t number = number_of(rules, &condition);
        const int16_t than = DROM_WITH_NUMBERS && (condition.compare & DROM_THAN_VALUE) != 0
                                 ? drom_rules_plan_of(rules)->numbers[(uint8_t)condition.number]
                                 : condition.number;
        const uint8_t compared = number < than ? DROM_LESS : number > than ? DROM_GREATER : DROM_EQUAL;
        if ((compared & condition.compare) == 0) {
            return false;
        }
    }
    return true;
}

/* Adds the rules of the event, beginning with a row. True if one of the mode is there, whatever its gesture.
 */
static bool add(drom_rules *rules, uint8_t row, const drom_event *event, uint8_t key, uint8_t mode)
{
    const drom_rules_plan DROM_FLASH *const plan = drom_rules_plan_of(rules);
    const bool is_key = event->source == DROM_SOURCE_KEY;
    bool is_named = false;
    for (; row < plan->rules.count; row++) {
        const drom_rule DROM_FLASH *const rule = &plan->rules.rows[row];
        if (rule->key != key || rule->row != event->row || rule->source != event->source) {
            break;
        }
        if (rule->mode != 0 && rule->mode != mode + 1) {
            continue;
        }
        is_named = true;
        if (is_key && ((rule->gestures & event->gesture) == 0 ||
                       (event->gesture == DROM_HOLD && rule->hold != event->hold))) {
            continue;
        }
        const bool is_met = holds(rules, rule);
        if ((is_met || rule->otherwise.count > 0) && rules->answer_count < DROM_MAX_ANSWERS) {
            rules->otherwise |= (uint16_t)(is_met ? 0u : 1u << rules->answer_count);
            rules->answers[rules->answer_count++] = row;
        }
    }
    return is_named;
}

void drom_rules_answer(drom_rules *rules)
{
    const drom_event *const event = &rules->event;
    const bool is_key = event->source == DROM_SOURCE_KEY;
    const uint8_t mode = is_key ? drom_rules_plan_of(rules)->last_presses.rows[event->row].mode : rules->mode;
    rules->answer_count = 0;
    rules->answers_done = 0;
    rules->otherwise = 0;
    const uint8_t row = drom_rules_find(rules, event->source, event->row, event->key);
    if (!add(rules, row, event, event->key, mode) && is_key) {
        (void)add(rules, drom_rules_find(rules, event->source, event->row, DROM_ANY_OTHER_KEY), event,
                  DROM_ANY_OTHER_KEY, mode);
    }
}
