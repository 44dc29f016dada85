/* thomson: pulse distance without a leader, least significant bit first: address 4 bits, toggle, address 1
 * bit, command 6. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .zero_mark_us = 500,
    .zero_space_us = 2000,
    .one_mark_us = 500,
    .one_space_us = 4500,
    .bits = 12,
};

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    const uint32_t bits = decoder->bits;
    frame->code.address = (bits & 0xf) | (bits >> 5 & 1) << 4;
    frame->code.command = (uint16_t)(bits >> 6 & 0x3f);
    frame->toggle = bits >> 4 & 1;
    return true;
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    encoder->bits = (code->address & 0xf) | (uint32_t)toggle << 4 | (code->address >> 4) << 5 |
                    (uint32_t)code->command << 6;
}

static const char DROM_FLASH thomson_id[] = "thomson";

const drom_protocol DROM_FLASH drom_thomson = {
    .id = DROM_ID(thomson_id),
    .number = DROM_THOMSON,
    DROM_FAMILY(pulse),
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 200,
    .first_mark_min_us = 200,
    .first_mark_max_us = 820,
    .lead_in_us = 8000,
    .period_us = 80000,
    .length = 12,
    .min_ms = 27,
    .has_toggle = true,
};

const drom_waveform DROM_FLASH drom_thomson_waveform = {
    .protocol = &drom_thomson,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .max_address = 0x1f,
    .carrier_khz = 33,
    .longest_ms = 61,
    .max_command = 0x3f,
};
