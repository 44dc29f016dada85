/* The margins of decisions. Private to receive/. Nothing is noted without an observer. */
#ifndef DROMIKOS_RECEIVE_MARGIN_H
#define DROMIKOS_RECEIVE_MARGIN_H

#include "../../include/dromikos/internal/receive.h"

#if !DROM_WITH_OBSERVER
static inline void drom_begin_margin(drom_decoder *decoder)
{
    (void)decoder;
}

static inline void drom_note_margin(drom_decoder *decoder, uint16_t off_us)
{
    (void)decoder;
    (void)off_us;
}

static inline void drom_report_margin(const drom_decoder *decoder, uint16_t full_us, drom_frame *frame)
{
    (void)decoder;
    (void)full_us;
    (void)frame;
}
#else
/* Resets the margin. */
void drom_begin_margin(drom_decoder *decoder);

/* Notes a decision with a distance of `off_us` from the nominal value. The worst of a frame is kept, in 8 µs:
 * no division while bits are received. */
void drom_note_margin(drom_decoder *decoder, uint16_t off_us);

/* Writes the margin to the frame; `full_us` is the distance from the nominal value to a different decision.
 */
void drom_report_margin(const drom_decoder *decoder, uint16_t full_us, drom_frame *frame);
#endif

#endif
