/* rca: pulse distance, most significant bit first: address, command, and the complements of both. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .leader_mark_us = 4000,
    .leader_space_us = 4000,
    .zero_mark_us = 500,
    .zero_space_us = 1000,
    .one_mark_us = 500,
    .one_space_us = 2000,
    .bits = 24,
    .is_msb_first = true,
};

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    const uint16_t complements = (uint16_t)decoder->bits;
    const uint16_t both = (uint16_t)(decoder->bits >> 12);
    frame->code.address = both >> 8;
    frame->code.command = (uint8_t)both;
    return ((both ^ complements) & 0xfff) == 0xfff;
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    const uint32_t both = code->address << 8 | code->command;
    encoder->bits = both << 12 | (both ^ 0xfff);
}

static const char DROM_FLASH rca_id[] = "rca";

const drom_protocol DROM_FLASH drom_rca = {
    .id = DROM_ID(rca_id),
    .number = DROM_RCA,
    DROM_FAMILY(pulse),
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 200,
    .first_mark_min_us = 2600,
    .first_mark_max_us = 4700,
    .gap_us = 8000,
    .length = 24,
    .min_ms = 51,
};

const drom_waveform DROM_FLASH drom_rca_waveform = {
    .protocol = &drom_rca,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .max_address = 0xf,
    .carrier_khz = 56,
    .longest_ms = 57,
    .max_command = 0xff,
};
