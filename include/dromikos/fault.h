/* What public functions return, and where a plan is wrong. */
#ifndef DROMIKOS_FAULT_H
#define DROMIKOS_FAULT_H

#include "config.h"

#ifdef __cplusplus
extern "C" {
#endif

/** What a public function returns. */
typedef enum drom_status {
    DROM_OK = 0,
    DROM_BAD_ARGUMENT, /**< a pointer is null, or a row doesn't exist */
    DROM_BAD_PORT,     /**< the port lacks a function */
    DROM_BAD_PLAN,     /**< the plan is refused; drom_fault says where and why */
    DROM_FULL,         /**< a queue is full; try again later */
    DROM_NOT_RUNNING,  /**< the engine has stopped, or is stopping */
} drom_status;

/** The table that contains a fault. */
typedef enum drom_fault_part {
    DROM_PART_PROTOCOLS,
    DROM_PART_HANDSETS, /**< `row` is the handset, `item` its code */
    DROM_PART_CONTACTS,
    DROM_PART_HOLD_MS,
    DROM_PART_DOUBLES,
    DROM_PART_POSTS,
    DROM_PART_RULES,      /**< `row` is the rule, `item` its action */
    DROM_PART_OTHERWISE,  /**< `row` is the rule, `item` its `otherwise` action */
    DROM_PART_CONDITIONS, /**< `row` is the rule, `item` its condition */
    DROM_PART_MODES,
    DROM_PART_VALUES,
    DROM_PART_OUTPUTS,    /**< `row` is the output, `item` a row of a table in its settings */
    DROM_PART_INTERLOCKS, /**< `row` is the interlock, `item` an output in it */
    DROM_PART_GUARD,      /**< `row` is the pin */
    DROM_PART_KEPT,       /**< `row` is the row of the kept values */
    DROM_PART_PLAN,       /**< the whole plan; with DROM_REASON_SWITCHED_OFF, `row` is the feature */
    DROM_PARTS_COUNT
} drom_fault_part;

typedef enum drom_reason {
    DROM_REASON_NONE,             /**< no fault */
    DROM_REASON_NULL,             /**< a pointer is null though the table has rows */
    DROM_REASON_TIMING,           /**< a protocol's figures are out of range, or belong to another family */
    DROM_REASON_NUMBER,           /**< a protocol's number is 0, 255, or used twice */
    DROM_REASON_PERIOD,           /**< a protocol has neither period nor gap */
    DROM_REASON_UNKNOWN_PROTOCOL, /**< a code's protocol isn't in the plan's protocols */
    DROM_REASON_ORDER,            /**< rows aren't ascending: hold times; rules by source, row and key */
    DROM_REASON_NO_HANDSET,       /**< no such row of the handsets */
    DROM_REASON_NO_KEY,           /**< no such row of the handset's codes */
    DROM_REASON_GESTURES,         /**< no gesture, or unknown bits */
    DROM_REASON_NO_HOLD,          /**< no such row of the hold times */
    DROM_REASON_NO_DOUBLE,        /**< a rule for a double of a key that isn't in `doubles` */
    DROM_REASON_NO_ACTION,        /**< a rule without actions */
    DROM_REASON_NO_OUTPUT,        /**< no such row of the outputs */
    DROM_REASON_VERB,             /**< the output's kind, or the target, doesn't accept this verb or value */
    DROM_REASON_SOURCE,           /**< no such source of events, or no such row or key of the source */
    DROM_REASON_NO_MODE,          /**< no such row of the modes */
    DROM_REASON_NO_VALUE,         /**< no such row of the values */
    DROM_REASON_NO_TIMER,         /**< no such row of the timers */
    DROM_REASON_NO_SWITCH,        /**< no such row of the switches */
    DROM_REASON_NO_SEQUENCE,      /**< a rule with a wait has no sequence, or shares another rule's */
    DROM_REASON_AGAIN,            /**< no such drom_again */
    DROM_REASON_COMPARE,          /**< a condition without subject, or one that is always or never true */
    DROM_REASON_HELD,             /**< DROM_WHILE_HELD without a key's press, or `held` is too short */
    DROM_REASON_ANSWERS,          /**< more than DROM_MAX_ANSWERS rules answer one event */
    DROM_REASON_SWITCHED_OFF,     /**< the plan needs a feature that drom_config.h switches off */
    DROM_REASON_LIMITS,           /**< a time or number is out of range */
    DROM_REASON_SETTINGS,         /**< the output's settings are out of range */
    DROM_REASON_PIN,              /**< the port has no such pin */
    DROM_REASON_CODE,             /**< a code doesn't fit its protocol */
    DROM_REASONS
} drom_reason;

typedef struct drom_fault {
    drom_fault_part part;
    drom_reason reason;
    uint8_t row;
    uint8_t item;
} drom_fault;

#if DROM_WITH_TEXTS
/** Writes a sentence about a fault, such as "outputs, row 2: the port has no such pin": at most `size` bytes
 * with the terminating 0. Returns `text`. */
char *drom_fault_text(const drom_fault *fault, char *text, size_t size);
#endif

#ifdef __cplusplus
}
#endif

#endif
