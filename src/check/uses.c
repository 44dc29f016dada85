/* The features that a plan uses: for `bake`, which switches the others off, and for the engine, which refuses
 * a plan that needs a feature that is off. */
#include "../compiler.h"

#include "../../include/dromikos/internal/rules.h"

#include "../bound.h"
#include "check.h"

uint32_t drom_plan_uses(const drom_plan DROM_FLASH *plan)
{
    uint32_t uses = drom_rules_uses(&plan->rules);
    for (uint8_t i = 0; i < plan->receive.protocols.count; i++) {
        uses |= plan->receive.protocols.rows[i]->needs;
    }
    for (uint8_t i = 0; i < plan->keys.handsets.count; i++) {
        const drom_handset DROM_FLASH *const handset = &plan->keys.handsets.rows[i];
        uses |= handset->needs_second_frame ? DROM_USES(CONFIRMATION) : 0;
        uses |= handset->by_code.count > 0 ? DROM_USES(CODE_INDEX) : 0;
    }
    for (uint8_t i = 0; i < plan->outputs.outputs.count; i++) {
        const drom_output output = plan->outputs.outputs.rows[i];
        uses |= output.kind->needs;
        uses |= output.kind->uses != NULL ? output.kind->uses(output.settings) : 0;
    }
    uses |= plan->contacts.contacts.count > 0 ? DROM_USES(INPUTS) : 0;
    uses |= plan->outputs.interlocks.count > 0 ? DROM_USES(INTERLOCKS) : 0;
    uses |= drom_rules_hear(&plan->rules) ? DROM_USES(HEARD) : 0;
    uses |= plan->kept.values.count > 0 ? DROM_USES(KEPT) : 0;
    uses |= plan->events.posts.count > 0 ? DROM_USES(POSTS) : 0;
    uses |= plan->guard.ms > 0 ? DROM_USES(GUARD) : 0;
    return uses;
}

bool drom_check_features(uint32_t uses, drom_fault *fault)
{
    const uint32_t missing = uses & ~drom_features_on();
    for (uint8_t i = 0; i < (uint8_t)DROM_FEATURES; i++) {
        if ((missing >> i & 1) != 0) {
            return drom_blame(fault, DROM_PART_PLAN, i, 0, DROM_REASON_SWITCHED_OFF);
        }
    }
    return true;
}
