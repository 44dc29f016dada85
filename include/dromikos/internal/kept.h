/* Values that are kept without power. The store wears out: values are written 5 s after the first change and
 * at a stop, only if they differ from the stored ones, each time into the next of many slots. A slot has a
 * checksum: a slot that a power cut has damaged is skipped, and the one before it is used. */
#ifndef DROMIKOS_INTERNAL_KEPT_H
#define DROMIKOS_INTERNAL_KEPT_H

#include "../plan.h"

/** Changes within this time before a power cut are lost, and those made while writing. */
#define DROM_KEPT_AFTER_US UINT32_C(5000000)

/** Returns the number of slots for `values` values; 0: the store is too small. Two pages are required, each
 * with room for a record. */
uint16_t drom_kept_slots(const drom_port_store *store, uint8_t values);

#if DROM_WITH_KEPT
/** Loads the stored values that are within their limits; others keep their start. Main only; reads the whole
 * store. */
void drom_kept_begin(const drom_kept_plan DROM_FLASH *plan, const drom_rules_plan DROM_FLASH *rules,
                     const drom_port DROM_FLASH *port);

/** Compares the numbers, and continues writing. Returns the wait in µs until the next call. Main only. */
drom_wait drom_kept_poll(const drom_kept_plan DROM_FLASH *plan, const drom_rules_plan DROM_FLASH *rules,
                         const drom_timing *timing);

/** Begins to write the current numbers, for a stop. Then call drom_kept_end() until it returns false. Main
 * only. */
void drom_kept_stop(const drom_kept_plan DROM_FLASH *plan, const drom_rules_plan DROM_FLASH *rules);

/** Continues writing the numbers of drom_kept_stop(); false when all are written. Main only. */
bool drom_kept_end(const drom_kept_plan DROM_FLASH *plan, const drom_timing *timing, drom_wait *wait);
#endif

#endif
