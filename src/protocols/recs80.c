/* recs80: pulse distance without a leader, most significant bit first: a one, toggle, address 3 bits,
 * command 6. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .zero_mark_us = 158,
    .zero_space_us = 4900,
    .one_mark_us = 158,
    .one_space_us = 7432,
    .bits = 11,
    .is_msb_first = true,
};

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    frame->code.address = decoder->bits >> 6 & 7;
    frame->code.command = (uint16_t)(decoder->bits & 0x3f);
    frame->toggle = decoder->bits >> 9 & 1;
    return (decoder->bits >> 10 & 1) == 1;
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    encoder->bits = 1u << 10 | (uint32_t)toggle << 9 | code->address << 6 | code->command;
}

static const char DROM_FLASH recs80_id[] = "recs80";

const drom_protocol DROM_FLASH drom_recs80 = {
    .id = DROM_ID(recs80_id),
    .number = DROM_RECS80,
    DROM_FAMILY(pulse),
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 40,
    .first_mark_min_us = 40,
    .first_mark_max_us = 430,
    .lead_in_us = 10000,
    .gap_us = 45000,
    .length = 11,
    .min_ms = 53,
    .has_toggle = true,
};

const drom_waveform DROM_FLASH drom_recs80_waveform = {
    .protocol = &drom_recs80,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .max_address = 7,
    .carrier_khz = 38,
    .longest_ms = 84,
    .max_command = 0x3f,
};
