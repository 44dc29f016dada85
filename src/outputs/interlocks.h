/* Outputs of which only one may be on. Private to the room. */
#ifndef DROMIKOS_OUTPUTS_INTERLOCKS_H
#define DROMIKOS_OUTPUTS_INTERLOCKS_H

#include "../../include/dromikos/outputs.h"

/* An output is about to be polled, or ordered something: where it is driven, it was so until now. */
void drom_interlocks_note(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row);

/* Keeps an order back until the others are off, which it sees to. False: it is none that must be. */
bool drom_interlocks_hold_back(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row,
                               uint8_t verb, uint32_t value);

/* Gives the orders that needn't wait any longer. The wait in µs until there is more to do. */
drom_wait drom_interlocks_poll(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing);

/* No order waits; and any may have been driven until now. */
void drom_interlocks_rest(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing);

#endif
