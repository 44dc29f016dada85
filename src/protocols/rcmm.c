/* rcmm12, rcmm24 and rcmm32: quaternary, most significant bits first: an address, then 8 bits of command.
 * They begin alike; the silence after the last bits tells them apart. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

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

/* The three protocols differ in length only. */
#define RCMM(length_of, max_address_of, min_ms_of, longest_ms_of)                                            \
    static const drom_quad_timing DROM_FLASH timing_##length_of = {                                          \
        .leader_mark_us = 417,                                                                               \
        .leader_space_us = 278,                                                                              \
        .mark_us = 167,                                                                                      \
        .space_us = 278,                                                                                     \
        .step_us = 167,                                                                                      \
        .bits = (length_of),                                                                                 \
    };                                                                                                       \
    static const char DROM_FLASH id_##length_of[] = "rcmm" #length_of;                                       \
    const drom_protocol DROM_FLASH drom_rcmm##length_of = {                                                  \
        .id = DROM_ID(id_##length_of),                                                                       \
        .number = DROM_RCMM##length_of,                                                                      \
        DROM_FAMILY(quad),                                                                                   \
        .timing = &timing_##length_of,                                                                       \
        .unpack = unpack,                                                                                    \
        .glitch_us = 70,                                                                                     \
        .first_mark_min_us = 280,                                                                            \
        .first_mark_max_us = 560,                                                                            \
        .silence_us = 1300,                                                                                  \
        .period_us = 27800,                                                                                  \
        .group = DROM_GROUP_RCMM,                                                                            \
        .length = (length_of),                                                                               \
        .min_ms = (min_ms_of),                                                                               \
    };                                                                                                       \
    const drom_waveform DROM_FLASH drom_rcmm##length_of##_waveform = {                                       \
        .protocol = &drom_rcmm##length_of,                                                                   \
        .timing = &timing_##length_of,                                                                       \
        .chunk = drom_quad_chunk,                                                                            \
        .pack = pack,                                                                                        \
        .max_address = (max_address_of),                                                                     \
        .carrier_khz = 36,                                                                                   \
        .longest_ms = (longest_ms_of),                                                                       \
        .max_command = 0xff,                                                                                 \
    }

RCMM(12, 0xf, 3, 7);
RCMM(24, 0xffff, 5, 13);
RCMM(32, 0xffffff, 7, 16);
