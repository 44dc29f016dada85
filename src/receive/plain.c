/* Address and command of protocols of your own, whose fields are unknown. Decoders keep the first bits
 * separately, if there are more than 32. */
#include "../compiler.h"

#include "../../include/dromikos/protocols.h"

/* Removes the toggle bit and returns it. `bit` counts from 1. */
static uint8_t take_toggle(uint16_t *more, uint32_t *bits, uint8_t bit, uint8_t count, bool is_msb_first)
{
    const uint8_t head = (uint8_t)(count > 32 ? count - 32 : 0);
    if (bit == 0 || bit > count) {
        return 0;
    }
    const uint8_t index = (uint8_t)(bit - 1);
    if (index < head) {
        const uint8_t shift = (uint8_t)(is_msb_first ? head - 1 - index : index);
        const uint8_t toggle = *more >> shift & 1;
        *more = (uint16_t)(*more & ~(1u << shift));
        return toggle;
    }
    const uint8_t shift = (uint8_t)(is_msb_first ? count - 1 - index : index - head);
    const uint8_t toggle = (uint8_t)(*bits >> shift & 1);
    *bits &= ~(UINT32_C(1) << shift);
    return toggle;
}

static void split(uint16_t more, uint32_t bits, uint8_t count, bool is_msb_first, drom_frame *frame)
{
    const uint8_t head = (uint8_t)(count > 32 ? count - 32 : 0);
    if (is_msb_first || head == 0) {
        frame->code.command = (uint16_t)(bits & 0xffff);
        frame->code.address = bits >> 16 | (uint32_t)(head != 0 ? more : 0) << 16;
    } else { /* the first 16 bits sent are the lowest */
        frame->code.command = (uint16_t)(more | (head < 16 ? bits << head : 0));
        frame->code.address = bits >> (16 - head);
    }
}

bool drom_pulse_unpack_plain(const drom_decoder *decoder, drom_frame *frame)
{
    const drom_pulse_timing timing = *(const drom_pulse_timing DROM_FLASH *)frame->protocol->timing;
    uint16_t more = timing.bits > 32 ? decoder->more : 0;
    uint32_t bits = decoder->bits;
    frame->toggle = take_toggle(&more, &bits, timing.toggle_bit, timing.bits, timing.is_msb_first);
    split(more, bits, timing.bits, timing.is_msb_first, frame);
    return true;
}

bool drom_phase_unpack_plain(const drom_decoder *decoder, drom_frame *frame)
{
    const drom_phase_timing timing = *(const drom_phase_timing DROM_FLASH *)frame->protocol->timing;
    uint16_t more = 0;
    uint32_t bits = decoder->bits;
    frame->toggle = take_toggle(&more, &bits, timing.toggle_bit, timing.bits, timing.is_msb_first);
    split(more, bits, timing.bits, timing.is_msb_first, frame);
    return true;
}

bool drom_quad_unpack_plain(const drom_decoder *decoder, drom_frame *frame)
{
    split(0, decoder->bits, 32, true, frame);
    return true;
}
