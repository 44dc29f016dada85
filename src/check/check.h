/* What the checks of a plan share. */
#ifndef DROMIKOS_CHECK_H
#define DROMIKOS_CHECK_H

#include "../../include/dromikos/plan.h"

/* Writes a fault; returns false. */
static inline bool drom_blame(drom_fault *fault, drom_fault_part part, uint8_t row, uint8_t item,
                              drom_reason reason)
{
    *fault = (drom_fault){.part = part, .reason = reason, .row = row, .item = item};
    return false;
}

/* True if no used feature is off; else writes the first one. */
bool drom_check_features(uint32_t uses, drom_fault *fault);

/* Checks the rule tables. Handsets and outputs must have been checked. */
bool drom_check_rules(const drom_plan DROM_FLASH *plan, drom_fault *fault);

#endif
