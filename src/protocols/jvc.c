/* jvc: pulse distance, least significant bit first: address, command. A held key's further frames come
 * without the leader; those are believed only after a frame that had it. */
#include "dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .leader_mark_us = 8400,
    .leader_space_us = 4200,
    .zero_mark_us = 525,
    .zero_space_us = 525,
    .one_mark_us = 525,
    .one_space_us = 1575,
    .bits = 16,
    .has_bare_repeat = true,
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

const drom_protocol DROM_FLASH drom_jvc = {
    .id = DROM_ID("jvc"),
    .step = drom_pulse_step,
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 230,
    .first_mark_least_us = 250,
    .first_mark_most_us = 9650,
    .lead_in_us = 10000,
    .silence_us = 2300,
    .period_us = 60000,
    .group = DROM_GROUP_LEADER_9MS,
    .length = 16,
    .least_ms = 15,
};

const drom_waveform DROM_FLASH drom_jvc_waveform = {
    .protocol = &drom_jvc,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .most_address = 0xff,
    .carrier_khz = 38,
    .longest_ms = 47,
    .most_command = 0xff,
};
