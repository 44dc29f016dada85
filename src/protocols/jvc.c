/* jvc: pulse distance, least significant bit first: address, command. The repeats of a held key have no
 * leader; they count only after a frame with one. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .leader_mark_us = 8400,
    .leader_space_us = 4200,
    .zero_mark_us = 525,
    .zero_space_us = 525,
    .one_mark_us = 525,
    .one_space_us = 1575,
    .bits = 16,
    .has_headerless_repeat = true,
};

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    frame->code.address = decoder->bits & 0xff;
    frame->code.command = (uint16_t)(decoder->bits >> 8);
    return true;
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = code->address | (uint32_t)code->command << 8;
}

static const char DROM_FLASH jvc_id[] = "jvc";

const drom_protocol DROM_FLASH drom_jvc = {
    .id = DROM_ID(jvc_id),
    .number = DROM_JVC,
    DROM_FAMILY(pulse),
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 230,
    .first_mark_min_us = 250,
    .first_mark_max_us = 9650,
    .lead_in_us = 10000,
    .silence_us = 2300,
    .period_us = 60000,
    .group = DROM_GROUP_LEADER_9MS,
    .length = 16,
    .min_ms = 15,
};

const drom_waveform DROM_FLASH drom_jvc_waveform = {
    .protocol = &drom_jvc,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .max_address = 0xff,
    .carrier_khz = 38,
    .longest_ms = 47,
    .max_command = 0xff,
};
