/* How sure a decision was. Private to receive/. */
#ifndef DROMIKOS_RECEIVE_MARGIN_H
#define DROMIKOS_RECEIVE_MARGIN_H

#include "dromikos/receive.h"

/* Notes a decision that lay `off` away from where it would have been another, with `full` the way from there
 * to the nominal value. The least of a frame is kept, in percent. */
static inline void drom_note_margin(drom_decoder *decoder, uint16_t off, uint16_t full)
{
    if (off >= full || (uint32_t)off * 100 >= (uint32_t)full * decoder->margin) {
        return; /* no worse than what there was: most often, and without a division */
    }
    while (full > UINT16_MAX / 100) {
        full >>= 1;
        off >>= 1;
    }
    decoder->margin = (uint8_t)(off * 100u / full);
}

#endif
