/* How sure a decision was. Private to receive/. Without an observer, nothing is noted. */
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
/* No decision has been made yet. */
void drom_begin_margin(drom_decoder *decoder);

/* Notes a decision that lay `off_us` away from where it would have been another. The smallest of a frame is
 * kept, in 8 µs: no division while bits come in. */
void drom_note_margin(drom_decoder *decoder, uint16_t off_us);

/* Gives the frame what was noted; `full_us` is the way from there to the nominal value. */
void drom_report_margin(const drom_decoder *decoder, uint16_t full_us, drom_frame *frame);
#endif

#endif
