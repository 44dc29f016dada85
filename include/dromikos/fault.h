/* Where a plan is wrong, and how. */
#ifndef DROMIKOS_FAULT_H
#define DROMIKOS_FAULT_H

#include "base.h"

/** The table in which a fault lies. */
typedef enum drom_fault_part {
    DROM_PART_PROTOCOLS,
    DROM_PART_HANDSETS, /**< `row` is the handset, `item` its code */
    DROM_PART_CONTACTS,
    DROM_PART_HOLD_MS,
    DROM_PART_DOUBLES,
    DROM_PART_POSTS,
    DROM_PART_RULES,      /**< `row` is the rule, `item` its action */
    DROM_PART_OTHERWISE,  /**< `row` is the rule, `item` its action where its conditions don't hold */
    DROM_PART_CONDITIONS, /**< `row` is the rule, `item` its condition */
    DROM_PART_MODES,
    DROM_PART_VALUES,
    DROM_PART_OUTPUTS,    /**< `row` is the output, `item` a row of a table in its settings */
    DROM_PART_INTERLOCKS, /**< `row` is the interlock, `item` the output in it */
    DROM_PART_GUARD,      /**< `row` is the pin */
    DROM_PART_KEPT,       /**< `row` is the one that names the value */
    DROM_PART_PLAN,       /**< all of it */
} drom_fault_part;

typedef enum drom_reason {
    DROM_REASON_NONE,             /**< all is well */
    DROM_REASON_NULL,             /**< a pointer is null though the table has rows */
    DROM_REASON_TIMING,           /**< a protocol's figures are out of range, or another family's */
    DROM_REASON_NUMBER,           /**< a protocol's number is another's too, or none's */
    DROM_REASON_PERIOD,           /**< a protocol has neither period nor gap */
    DROM_REASON_UNKNOWN_PROTOCOL, /**< a code's protocol isn't in the plan's protocols */
    DROM_REASON_ORDER,       /**< hold times must be 1 or more, and ascend; rules too, by source, row, key */
    DROM_REASON_NO_HANDSET,  /**< no such row of the handsets */
    DROM_REASON_NO_KEY,      /**< no such row of the handset's codes */
    DROM_REASON_GESTURES,    /**< none, or bits that are no gesture */
    DROM_REASON_NO_HOLD,     /**< no such row of the hold times */
    DROM_REASON_NO_DOUBLE,   /**< a rule about a double of a key that isn't in `doubles` */
    DROM_REASON_NO_ACTION,   /**< a rule without actions */
    DROM_REASON_NO_OUTPUT,   /**< no such row of the outputs */
    DROM_REASON_VERB,        /**< the output's kind, or the target, can't do this, or not with this value */
    DROM_REASON_SOURCE,      /**< no such source of events, or not such a row or key of it */
    DROM_REASON_NO_MODE,     /**< no such row of the modes */
    DROM_REASON_NO_VALUE,    /**< no such row of the values */
    DROM_REASON_NO_TIMER,    /**< no such row of the timers */
    DROM_REASON_NO_SWITCH,   /**< no such row of the switches */
    DROM_REASON_NO_SEQUENCE, /**< a wait, and no sequence that is this rule's alone */
    DROM_REASON_AGAIN,       /**< no such answer to a rule that fires again */
    DROM_REASON_COMPARE,     /**< a condition that nothing or everything meets, or about nothing */
    DROM_REASON_HELD,        /**< held without a key that could be let go, or more than `held` has room for */
    DROM_REASON_ANSWERS,     /**< more than DROM_MAX_ANSWERS rules are about one event */
    DROM_REASON_SWITCHED_OFF, /**< the plan needs what drom_config.h has switched off */
    DROM_REASON_LIMITS,       /**< a time or number out of range: a mode's end, a value's start */
    DROM_REASON_SETTINGS,     /**< the output's settings are out of range */
    DROM_REASON_PIN,          /**< the port has no such pin */
    DROM_REASON_CODE,         /**< a code doesn't fit its protocol */
} drom_reason;

typedef struct drom_fault {
    drom_fault_part part;
    drom_reason reason;
    uint8_t row;
    uint8_t item;
} drom_fault;

#endif
