/* What a plan makes use of: for bake, which switches the rest off; and for a program that has switched
 * something off, so that it refuses a plan which needs it. */
#include "../include/dromikos/plan.h"

uint16_t drom_plan_uses(const drom_plan DROM_FLASH *plan)
{
    uint16_t uses = drom_rules_uses(&plan->rules);
    for (uint8_t i = 0; i < plan->receive.protocols.count; i++) {
        uses |= plan->receive.protocols.rows[i]->needs;
    }
    for (uint8_t i = 0; i < plan->keys.handsets.count; i++) {
        const drom_handset DROM_FLASH *const handset = &plan->keys.handsets.rows[i];
        uses |= handset->needs_second_frame ? DROM_USES_CONFIRMATION : 0;
        uses |= handset->by_code.count > 0 ? DROM_USES_CODE_INDEX : 0;
    }
    for (uint8_t i = 0; i < plan->outputs.outputs.count; i++) {
        uses |= plan->outputs.outputs.rows[i].kind->needs;
    }
    return uses;
}
