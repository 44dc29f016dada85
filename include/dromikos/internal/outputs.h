/* A plan's outputs: orders, polls, timed edges and refreshes. */
#ifndef DROMIKOS_INTERNAL_OUTPUTS_H
#define DROMIKOS_INTERNAL_OUTPUTS_H

#include "../plan.h"

/** Removes the queued timed edges. The alarm must be off. Main only. */
void drom_outputs_take_edges_back(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing);

/** Puts every output into its rest state. No timed edge may be pending. `is_start`: their state before is
 * unknown. Main only. */
void drom_outputs_rest(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, bool is_start);

/** Continues entering the rest states; false when all are reached. `wait`: time in µs until the next call.
 * Main only. */
bool drom_outputs_come_to_rest(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing,
                               drom_wait *wait);

/** True if an output is to be on, and waits for others of its interlock or for the pause. */
bool drom_outputs_keep_back(const drom_outputs_plan DROM_FLASH *plan, uint8_t row);

/** Begins an order. Main only. */
void drom_outputs_act(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row,
                      uint8_t verb, uint32_t value);

/** True if a timed edge would be late if anything else, even a key, came first. Main only. */
bool drom_outputs_are_pressed(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing);

/** Polls up to four outputs, in turn, and makes a timed edge if it is time; or makes up to three timed edges,
 * if few are queued. Returns the wait in µs until the next call: 0 within a round, DROM_LONG if no output is
 * active. Main only. */
drom_wait drom_outputs_poll(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing);

/** * Returns for how long an output needs the processor, in µs; 0: none does, or a timed edge would be late.
 * Outputs take turns, beginning after the last one refreshed. Writes the output's row to `row`; DROM_NONE:
 * none. Main only. */
drom_wait drom_outputs_want(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t *row);

/** Refreshes that output. Main only. */
void drom_outputs_refresh(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row);

#endif
