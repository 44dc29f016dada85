/* How sure a decision was. Private to receive/. */
#ifndef DROMIKOS_RECEIVE_MARGIN_H
#define DROMIKOS_RECEIVE_MARGIN_H

#include "dromikos/receive.h"

enum { DROM_NO_MARGIN = 255 };

/* Notes a decision that lay `off_us` away from where it would have been another. The least of a frame is
 * kept, in 8 µs: no division while bits come in. */
void drom_note_margin(drom_decoder *decoder, uint16_t off_us);

/* Tells the frame what was noted; `full_us` is the way from there to the nominal value. */
void drom_tell_margin(const drom_decoder *decoder, uint16_t full_us, drom_frame *frame);

#endif
