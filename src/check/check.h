/* What the checks of a plan's parts share. */
#ifndef DROMIKOS_CHECK_H
#define DROMIKOS_CHECK_H

#include "../../include/dromikos/plan.h"

/* Notes what is wrong; false. */
static inline bool drom_blame(drom_fault *fault, drom_fault_part part, uint8_t row, uint8_t item,
                              drom_reason reason)
{
    *fault = (drom_fault){.part = part, .reason = reason, .row = row, .item = item};
    return false;
}

/* Is what a plan says to the rules sound? Its handsets and outputs are. */
bool drom_check_rules(const drom_plan DROM_FLASH *plan, drom_fault *fault);

#endif
