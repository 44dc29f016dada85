/* nec, nec_extended and nec_unchecked: pulse distance, least significant bit first. A nec frame has both
 * complements, a nec_extended frame that of the command, a nec_unchecked frame neither. The narrowest
 * protocol of the plan that matches is taken. A nec frame whose second complement is wrong is damaged, and
 * dropped. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .leader_mark_us = 9000,
    .leader_space_us = 4500,
    .ditto_space_us = 2250,
    .zero_mark_us = 562,
    .zero_space_us = 562,
    .one_mark_us = 562,
    .one_space_us = 1687,
    .bits = 32,
};

static bool are_complements(uint32_t bits, uint8_t index)
{
    return (drom_byte(bits, index) ^ drom_byte(bits, (uint8_t)(index + 1))) == 0xff;
}

static bool unpack_nec(const drom_decoder *decoder, drom_frame *frame)
{
    frame->code.address = drom_byte(decoder->bits, 0);
    frame->code.command = drom_byte(decoder->bits, 2);
    return are_complements(decoder->bits, 0) && are_complements(decoder->bits, 2);
}

static bool unpack_nec_extended(const drom_decoder *decoder, drom_frame *frame)
{
    frame->code.address = decoder->bits & 0xffff;
    frame->code.command = drom_byte(decoder->bits, 2);
    return are_complements(decoder->bits, 2);
}

static bool unpack_nec_unchecked(const drom_decoder *decoder, drom_frame *frame)
{
    frame->code.address = decoder->bits & 0xffff;
    frame->code.command = (uint16_t)(decoder->bits >> 16);
    return !are_complements(decoder->bits, 0) && !are_complements(decoder->bits, 2);
}

static uint32_t with_complement(uint32_t value)
{
    return (value & 0xff) | (~value & 0xff) << 8;
}

static void pack_nec(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = with_complement(code->address) | with_complement(code->command) << 16;
}

static void pack_nec_extended(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = code->address | with_complement(code->command) << 16;
}

static void pack_nec_unchecked(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = code->address | (uint32_t)code->command << 16;
}

/* The three protocols differ in their checks; the narrower has priority. */
#define NEC(name, number_of, rank_of, max_address_of, max_command_of, min_ms_of, longest_ms_of)              \
    static const char DROM_FLASH id_##name[] = #name;                                                        \
    const drom_protocol DROM_FLASH drom_##name = {                                                           \
        .id = DROM_ID(id_##name),                                                                            \
        .number = (number_of),                                                                               \
        DROM_FAMILY(pulse),                                                                                  \
        .timing = &timing,                                                                                   \
        .unpack = unpack_##name,                                                                             \
        .glitch_us = 250,                                                                                    \
        .first_mark_min_us = 5400,                                                                           \
        .first_mark_max_us = 10330,                                                                          \
        .silence_us = 2300,                                                                                  \
        .period_us = 108000,                                                                                 \
        .group = DROM_GROUP_LEADER_9MS,                                                                      \
        .length = 32,                                                                                        \
        .min_ms = (min_ms_of),                                                                               \
        .rank = (rank_of),                                                                                   \
        .has_ditto = true,                                                                                   \
    };                                                                                                       \
    const drom_waveform DROM_FLASH drom_##name##_waveform = {                                                \
        .protocol = &drom_##name,                                                                            \
        .timing = &timing,                                                                                   \
        .chunk = drom_pulse_chunk,                                                                           \
        .pack = pack_##name,                                                                                 \
        .max_address = (max_address_of),                                                                     \
        .carrier_khz = 38,                                                                                   \
        .longest_ms = (longest_ms_of),                                                                       \
        .max_command = (max_command_of),                                                                     \
    }

NEC(nec, DROM_NEC, 0, 0xff, 0xff, 62, 69);
NEC(nec_extended, DROM_NEC_EXTENDED, 1, 0xffff, 0xff, 53, 78);
NEC(nec_unchecked, DROM_NEC_UNCHECKED, 2, 0xffff, 0xffff, 45, 87);
