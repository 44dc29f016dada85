/* From key events to actions. */
#ifndef DROMIKOS_RULES_H
#define DROMIKOS_RULES_H

#include "keys.h"
#include "outputs.h"

/** When this key does that, do these. A code and its actions are one row: they can't fall out of step. */
typedef struct drom_rule {
    uint8_t handset;  /**< row of the plan's handsets */
    uint8_t key;      /**< row of that handset's codes */
    uint8_t gestures; /**< one drom_gesture or several */
    DROM_TABLE(drom_action) actions;
    uint8_t hold; /**< with DROM_HOLD, the row of the plan's hold times */
} drom_rule;

/** What a plan says to the rules. */
typedef struct drom_rules_plan {
    DROM_TABLE(drom_rule) rules;
    DROM_TABLE(drom_action) at_start; /**< done once, when every output is in its rest state */
} drom_rules_plan;

/** True when a rule is about an event. */
bool drom_rule_fits(const drom_rule DROM_FLASH *rule, const drom_key_event *event);

#endif
