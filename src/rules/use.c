/* What a plan's rules make use of: for bake, which says it to the compiler, and for a program that says
 * itself what it needs, so that it refuses a plan which needs more. */
#include "room.h"

static uint8_t use_of(const drom_action DROM_FLASH *rows, uint8_t count)
{
    static const uint8_t DROM_FLASH targets[DROM_TARGETS] = {
        [DROM_TO_WAIT] = DROM_RULES_WAIT,        [DROM_TO_WAIT_FOR] = DROM_RULES_WAIT,
        [DROM_TO_MODE] = DROM_RULES_ENTER_MODES, [DROM_TO_VALUE] = DROM_RULES_COUNT,
        [DROM_TO_TIMER] = DROM_RULES_TIME,       [DROM_TO_SCENE] = DROM_RULES_BEGIN_SCENES};
    uint8_t used = 0;
    for (uint8_t i = 0; i < count; i++) {
        const drom_action DROM_FLASH *const action = &rows[i];
        if (action->target < DROM_TARGETS) {
            used |= targets[action->target];
        }
        if ((action->flags & (DROM_OF_VALUE | DROM_OF_EVENT)) != 0) {
            used |= DROM_RULES_INSERT;
        }
        if ((action->flags & DROM_WHILE_HELD) != 0) {
            used |= DROM_RULES_HOLD;
        }
    }
    return used;
}

uint8_t drom_rules_use(const drom_rules_plan DROM_FLASH *plan)
{
    uint8_t used = plan->modes.count > 0 ? DROM_RULES_ENTER_MODES : 0;
    for (uint8_t i = 0; i < plan->rules.count; i++) {
        const drom_rule DROM_FLASH *const rule = &plan->rules.rows[i];
        if (rule->conditions.count > 0) {
            used |= DROM_RULES_ASK;
        }
        used |= use_of(rule->actions.rows, rule->actions.count);
        used |= use_of(rule->otherwise.rows, rule->otherwise.count);
    }
    return used;
}
