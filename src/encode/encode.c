/* From frames to intervals, one at a time, with a few bytes of state. A family provides chunks; chunks of the
 * same level are joined here, and silence before and after the frame is left out. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

#include "../bound.h"

void drom_encode_start(drom_encoder *encoder, const drom_waveform DROM_FLASH *waveform, const drom_code *code,
                       drom_press_part part, bool toggle)
{
    *encoder = (drom_encoder){.waveform = waveform, .is_repeat = part == DROM_SEND_REPEAT};
    const drom_waveform DROM_FLASH *const known = encoder->waveform;
    drom_code sent = *code;
    if (part == DROM_SEND_BOUNDARY && known->boundary_gap_us != 0) {
        sent.address = known->boundary_address;
        sent.command = known->boundary_command;
    }
    known->pack(&sent, toggle, encoder);
    encoder->ahead = known->chunk(encoder, 0);
    if (!encoder->ahead.is_mark) {
        encoder->ahead = known->chunk(encoder, ++encoder->index);
    }
}

drom_status drom_encode_begin(drom_encoder *encoder, const drom_waveform DROM_FLASH *waveform,
                              const drom_code *code, drom_press_part part, bool toggle)
{
    if (code->address < waveform->min_address || code->address > waveform->max_address ||
        code->command > waveform->max_command) {
        return DROM_BAD_ARGUMENT;
    }
    drom_encode_start(encoder, waveform, code, part, toggle);
    return DROM_OK;
}

uint16_t drom_encode_next(drom_encoder *encoder)
{
    const bool is_mark = encoder->ahead.is_mark;
    uint16_t us = 0;
    while (encoder->ahead.us != 0 && encoder->ahead.is_mark == is_mark) { /* at most two or three in a row */
        us = (uint16_t)(us + encoder->ahead.us);
        encoder->ahead = encoder->waveform->chunk(encoder, ++encoder->index);
    }
    return encoder->ahead.us == 0 && !is_mark ? 0 : us;
}
