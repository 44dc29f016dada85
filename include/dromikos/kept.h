/* Values that outlast a power cut, in a store that wears out: they are written 5 s after the first change
 * that isn't, and at a stop, only if they differ from what is there, each time into the next of many slots. A
 * slot has a check sum, so that one that a power cut has spoilt is passed over, and the one before it counts.
 */
#ifndef DROMIKOS_KEPT_H
#define DROMIKOS_KEPT_H

#include "rules.h"

/** What a slot has besides two bytes a value: its number and its check sum, two bytes each; and how many
 * values a plan may keep. */
enum { DROM_KEPT_BYTES = 4, DROM_KEPT_VALUES = 32 };

/** What has changed in so long before a power cut is lost, and in as long as writing takes. */
#define DROM_KEPT_AFTER_US UINT32_C(5000000)

typedef struct drom_kept_state {
    drom_deadline due; /**< what has changed is written then */
    uint16_t slot;     /**< of the newest record, or the one that is being written */
    uint16_t number;   /**< of that record */
    uint16_t tries;    /**< it is written into so many slots at most, until it stands in one */
    uint8_t step;
} drom_kept_state;

/** What a plan keeps. No values: nothing, and all else may be null. */
typedef struct drom_kept_plan {
    DROM_TABLE(uint8_t) values; /**< rows of the rules' values */
    uint8_t *record;            /**< DROM_KEPT_BYTES and two a value: as the store has it */
    int16_t *seen;              /**< as many as values: as they were when last looked at */
    drom_kept_state *state;
    uint16_t mark; /**< what was kept with another mark isn't taken: of another plan, or other values */
} drom_kept_plan;

/** How many slots a store has for so many values; 0: it is too small, since two pages are needed with room
 * for a record each. */
uint16_t drom_kept_slots(const drom_port_store *store, uint8_t values);

#if DROM_WITH_KEPT
/** Takes what was kept into the rules' numbers, where that is within their limits; else they stay. Main
 * only; it reads the whole store. */
void drom_kept_begin(const drom_kept_plan DROM_FLASH *plan, const drom_rules_plan DROM_FLASH *rules,
                     const drom_port DROM_FLASH *port);

/** Looks at the numbers, and goes on with writing them. The wait until there is more to do. Main only. */
drom_wait drom_kept_poll(const drom_kept_plan DROM_FLASH *plan, const drom_rules_plan DROM_FLASH *rules,
                         const drom_timing *timing);

/** They are to be written as they are now: a stop. From then on drom_kept_end(), until that is false. Main
 * only. */
void drom_kept_stop(const drom_kept_plan DROM_FLASH *plan, const drom_rules_plan DROM_FLASH *rules);

/** Goes on with writing, whatever has become of the numbers meanwhile; false: all is written. Main only. */
bool drom_kept_end(const drom_kept_plan DROM_FLASH *plan, const drom_timing *timing, drom_wait *wait);
#endif

#endif
