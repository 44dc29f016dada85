/* sirc12, sirc15 and sirc20: pulse width, least significant bit first: command 7 bits, then 5, 8 or 13 of
 * address. They begin alike; the silence after the last bit tells them apart. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

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

/* The three protocols differ in length only. */
#define SIRC(length_of, max_address_of, min_ms_of, longest_ms_of)                                            \
    static const drom_pulse_timing DROM_FLASH timing_##length_of = {                                         \
        .leader_mark_us = 2400,                                                                              \
        .leader_space_us = 600,                                                                              \
        .zero_mark_us = 600,                                                                                 \
        .zero_space_us = 600,                                                                                \
        .one_mark_us = 1200,                                                                                 \
        .one_space_us = 600,                                                                                 \
        .bits = (length_of),                                                                                 \
        .has_no_stop = true,                                                                                 \
    };                                                                                                       \
    static const char DROM_FLASH id_##length_of[] = "sirc" #length_of;                                       \
    const drom_protocol DROM_FLASH drom_sirc##length_of = {                                                  \
        .id = DROM_ID(id_##length_of),                                                                       \
        .number = DROM_SIRC##length_of,                                                                      \
        DROM_FAMILY(pulse),                                                                                  \
        .timing = &timing_##length_of,                                                                       \
        .unpack = unpack,                                                                                    \
        .glitch_us = 250,                                                                                    \
        .first_mark_min_us = 1900,                                                                           \
        .first_mark_max_us = 2900,                                                                           \
        .silence_us = 1400,                                                                                  \
        .period_us = 45000,                                                                                  \
        .group = DROM_GROUP_SIRC,                                                                            \
        .length = (length_of),                                                                               \
        .min_ms = (min_ms_of),                                                                               \
    };                                                                                                       \
    const drom_waveform DROM_FLASH drom_sirc##length_of##_waveform = {                                       \
        .protocol = &drom_sirc##length_of,                                                                   \
        .timing = &timing_##length_of,                                                                       \
        .chunk = drom_pulse_chunk,                                                                           \
        .pack = pack,                                                                                        \
        .max_address = (max_address_of),                                                                     \
        .carrier_khz = 40,                                                                                   \
        .longest_ms = (longest_ms_of),                                                                       \
        .max_command = 0x7f,                                                                                 \
        .min_frames = 3,                                                                                     \
    }

SIRC(12, 0x1f, 14, 24);
SIRC(15, 0xff, 18, 30);
SIRC(20, 0x1fff, 23, 39);
