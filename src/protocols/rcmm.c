/* rcmm12, rcmm24 and rcmm32: quaternary, most significant bits first: an address, then 8 bits of command.
 * They begin alike, and only the silence after the last bits tells which it was. */
#include "dromikos/encode.h"

#define TIMES .leader_mark_us = 417, .leader_space_us = 278, .mark_us = 167, .space_us = 278, .step_us = 167

static const drom_quad_timing DROM_FLASH timing_12 = {TIMES, .bits = 12};
static const drom_quad_timing DROM_FLASH timing_24 = {TIMES, .bits = 24};
static const drom_quad_timing DROM_FLASH timing_32 = {TIMES, .bits = 32};

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    frame->code.address = decoder->bits >> 8;
    frame->code.command = (uint16_t)(decoder->bits & 0xff);
    return true;
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = code->address << 8 | code->command;
}

const drom_protocol DROM_FLASH drom_rcmm12 = {
    .id = "rcmm12",
    .step = drom_quad_step,
    .timing = &timing_12,
    .unpack = unpack,
    .glitch_us = 70,
    .first_mark_least_us = 280,
    .first_mark_most_us = 560,
    .silence_us = 1300,
    .period_us = 27800,
    .group = DROM_GROUP_RCMM,
    .length = 12,
};

const drom_waveform DROM_FLASH drom_rcmm12_waveform = {
    .protocol = &drom_rcmm12,
    .timing = &timing_12,
    .chunk = drom_quad_chunk,
    .pack = pack,
    .most_address = 0xf,
    .most_command = 0xff,
};

const drom_protocol DROM_FLASH drom_rcmm24 = {
    .id = "rcmm24",
    .step = drom_quad_step,
    .timing = &timing_24,
    .unpack = unpack,
    .glitch_us = 70,
    .first_mark_least_us = 280,
    .first_mark_most_us = 560,
    .silence_us = 1300,
    .period_us = 27800,
    .group = DROM_GROUP_RCMM,
    .length = 24,
};

const drom_waveform DROM_FLASH drom_rcmm24_waveform = {
    .protocol = &drom_rcmm24,
    .timing = &timing_24,
    .chunk = drom_quad_chunk,
    .pack = pack,
    .most_address = 0xffff,
    .most_command = 0xff,
};

const drom_protocol DROM_FLASH drom_rcmm32 = {
    .id = "rcmm32",
    .step = drom_quad_step,
    .timing = &timing_32,
    .unpack = unpack,
    .glitch_us = 70,
    .first_mark_least_us = 280,
    .first_mark_most_us = 560,
    .silence_us = 1300,
    .period_us = 27800,
    .group = DROM_GROUP_RCMM,
    .length = 32,
};

const drom_waveform DROM_FLASH drom_rcmm32_waveform = {
    .protocol = &drom_rcmm32,
    .timing = &timing_32,
    .chunk = drom_quad_chunk,
    .pack = pack,
    .most_address = 0xffffff,
    .most_command = 0xff,
};
