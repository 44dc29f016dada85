/* The features that a plan's rules use. */
#include "../compiler.h"

#include "rules_shared.h"

static uint32_t use_of(const drom_action DROM_FLASH *rows, uint8_t count)
{
    static const uint16_t DROM_FLASH targets[DROM_TARGETS] = {
        [DROM_TO_WAIT] = DROM_USES(WAITS),   [DROM_TO_WAIT_FOR] = DROM_USES(WAITS),
        [DROM_TO_MODE] = DROM_USES(MODES),   [DROM_TO_VALUE] = DROM_USES(VALUES),
        [DROM_TO_TIMER] = DROM_USES(TIMERS), [DROM_TO_SCENE] = DROM_USES(SCENES)};
    uint32_t used = 0;
    for (uint8_t i = 0; i < count; i++) {
        const drom_action DROM_FLASH *const action = &rows[i];
        if (action->target < DROM_TARGETS) {
            used |= targets[action->target];
        }
        if ((action->flags & (DROM_OF_VALUE | DROM_OF_EVENT)) != 0) {
            used |= DROM_USES(NUMBERS);
            used |= (action->flags & DROM_FORM) > DROM_AS_SIGNED ? DROM_USES(MULTIPLES) : 0;
        }
        if ((action->flags & DROM_WHILE_HELD) != 0) {
            used |= DROM_USES(HOLDS);
        }
        if (action->target == DROM_TO_VALUE && (action->flags & (DROM_INTO_SUM | DROM_OF_SUM)) != 0) {
            used |= DROM_USES(SUMS);
        }
    }
    return used;
}

bool drom_rules_hear(const drom_rules_plan DROM_FLASH *plan)
{
    return plan->rules.count > 0 && plan->rules.rows[plan->rules.count - 1].source == DROM_SOURCE_HEARD;
}

uint32_t drom_rules_uses(const drom_rules_plan DROM_FLASH *plan)
{
    uint32_t used = plan->modes.count > 0 ? DROM_USES(MODES) : 0;
    for (uint8_t i = 0; i < plan->rules.count; i++) {
        const drom_rule DROM_FLASH *const rule = &plan->rules.rows[i];
        if (rule->source == DROM_SOURCE_POSTED) {
            used |= DROM_USES(POSTS);
        }
        if (rule->conditions.count > 0) {
            used |= DROM_USES(CONDITIONS);
        }
        for (uint8_t j = 0; j < rule->conditions.count; j++) {
            used |= (rule->conditions.rows[j].compare & DROM_THAN_VALUE) != 0 ? DROM_USES(NUMBERS) : 0;
        }
        used |= use_of(rule->actions.rows, rule->actions.count);
        used |= use_of(rule->otherwise.rows, rule->otherwise.count);
    }
    return used;
}
