/* Outputs of which only one may be on. Private to the room. */
#ifndef DROMIKOS_OUTPUTS_INTERLOCKS_H
#define DROMIKOS_OUTPUTS_INTERLOCKS_H

#include "../../include/dromikos/internal/outputs.h"

/* Is an output driven, of an interlock? Then it has been so until now, after it has been polled. */
bool drom_interlocks_drive(const drom_outputs_plan DROM_FLASH *plan, uint8_t row);
void drom_interlocks_note(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing, uint8_t row);

/* Orders an output something. It waits where others are driven, or were just now; and where it is to be on,
 * they go off. */
void drom_interlocks_act(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row,
                         uint8_t verb, uint32_t value);

/* Lets those go on that needn't wait any longer. The wait in µs until there is more to do. */
drom_wait drom_interlocks_poll(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing);

/* An output is about to rest: one that rests on stays on where it is, and waits like any other where it
 * isn't.
 */
void drom_interlocks_before_rest(const drom_outputs_plan DROM_FLASH *plan, uint8_t row, bool is_start);

/* They rest: any may have been driven until now, but where one still is, no other was. */
void drom_interlocks_after_rest(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing);

#endif
