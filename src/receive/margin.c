/* How sure a decision was: noted in µs at each bit, and reported when the frame is complete. */
#include "../compiler.h"

#include "margin.h"

#if DROM_WITH_OBSERVER
enum { NO_MARGIN = 255 };

void drom_begin_margin(drom_decoder *decoder)
{
    decoder->margin = NO_MARGIN;
}

void drom_note_margin(drom_decoder *decoder, uint16_t off_us)
{
    const uint16_t eighth = off_us / 8;
    if (eighth < decoder->margin) {
        decoder->margin = (uint8_t)eighth;
    }
}

void drom_report_margin(const drom_decoder *decoder, uint16_t full_us, drom_frame *frame)
{
    const uint16_t full = full_us / 8;
    frame->margin = decoder->margin;
    frame->best_margin = (uint8_t)(full < NO_MARGIN ? full : NO_MARGIN);
}
#endif
