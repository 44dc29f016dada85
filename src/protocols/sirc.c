/* sirc12, sirc15 and sirc20: pulse width, least significant bit first: command 7 bits, then 5, 8 or 13 of
 * address. They begin alike, and only the silence after the last bit tells which it was. */
#include "dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing_12 = {
    .leader_mark_us = 2400,
    .leader_space_us = 600,
    .zero_mark_us = 600,
    .zero_space_us = 600,
    .one_mark_us = 1200,
    .one_space_us = 600,
    .bits = 12,
    .has_no_stop = true,
    .carrier_khz = 40,
};

static const drom_pulse_timing DROM_FLASH timing_15 = {
    .leader_mark_us = 2400,
    .leader_space_us = 600,
    .zero_mark_us = 600,
    .zero_space_us = 600,
    .one_mark_us = 1200,
    .one_space_us = 600,
    .bits = 15,
    .has_no_stop = true,
    .carrier_khz = 40,
};

static const drom_pulse_timing DROM_FLASH timing_20 = {
    .leader_mark_us = 2400,
    .leader_space_us = 600,
    .zero_mark_us = 600,
    .zero_space_us = 600,
    .one_mark_us = 1200,
    .one_space_us = 600,
    .bits = 20,
    .has_no_stop = true,
    .carrier_khz = 40,
};

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    frame->code.address = decoder->bits >> 7;
    frame->code.command = (uint16_t)(decoder->bits & 0x7f);
    return true;
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = code->address << 7 | code->command;
}

const drom_protocol DROM_FLASH drom_sirc12 = {
    .id = "sirc12",
    .step = drom_pulse_step,
    .timing = &timing_12,
    .unpack = unpack,
    .glitch_us = 250,
    .first_mark_least_us = 1900,
    .first_mark_most_us = 2900,
    .silence_us = 1400,
    .period_us = 45000,
    .group = DROM_GROUP_SIRC,
    .length = 12,
};

const drom_waveform DROM_FLASH drom_sirc12_waveform = {
    .protocol = &drom_sirc12,
    .timing = &timing_12,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .most_address = 0x1f,
    .most_command = 0x7f,
    .least_frames = 3,
};

const drom_protocol DROM_FLASH drom_sirc15 = {
    .id = "sirc15",
    .step = drom_pulse_step,
    .timing = &timing_15,
    .unpack = unpack,
    .glitch_us = 250,
    .first_mark_least_us = 1900,
    .first_mark_most_us = 2900,
    .silence_us = 1400,
    .period_us = 45000,
    .group = DROM_GROUP_SIRC,
    .length = 15,
};

const drom_waveform DROM_FLASH drom_sirc15_waveform = {
    .protocol = &drom_sirc15,
    .timing = &timing_15,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .most_address = 0xff,
    .most_command = 0x7f,
    .least_frames = 3,
};

const drom_protocol DROM_FLASH drom_sirc20 = {
    .id = "sirc20",
    .step = drom_pulse_step,
    .timing = &timing_20,
    .unpack = unpack,
    .glitch_us = 250,
    .first_mark_least_us = 1900,
    .first_mark_most_us = 2900,
    .silence_us = 1400,
    .period_us = 45000,
    .group = DROM_GROUP_SIRC,
    .length = 20,
};

const drom_waveform DROM_FLASH drom_sirc20_waveform = {
    .protocol = &drom_sirc20,
    .timing = &timing_20,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .most_address = 0x1fff,
    .most_command = 0x7f,
    .least_frames = 3,
};
