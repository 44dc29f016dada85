/* Outputs of which only one may be on. Private to outputs/. */
#ifndef DROMIKOS_OUTPUTS_INTERLOCKS_H
#define DROMIKOS_OUTPUTS_INTERLOCKS_H

#include "../../include/dromikos/internal/outputs.h"

/* Updates the interlock of a driven output; call it after each poll of an output. */
bool drom_interlocks_drive(const drom_outputs_plan DROM_FLASH *plan, uint8_t row);
void drom_interlocks_note(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing, uint8_t row);

/* Gives an output an order. It is barred while others are driven, or were just now; if it is to be on, they
 * are switched off. */
void drom_interlocks_act(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row,
                         uint8_t verb, uint32_t value);

/* Lifts the bar of outputs that needn't wait any longer. Returns the wait in µs until there is more to do. */
drom_wait drom_interlocks_poll(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing);

/* Before a rest: an output that rests on stays on if it is driven, and else waits like any other. */
void drom_interlocks_before_rest(const drom_outputs_plan DROM_FLASH *plan, uint8_t row, bool is_start);

/* After a rest: any output may have been driven before, except if one still is. */
void drom_interlocks_after_rest(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing);

#endif
