/* rc6 and rc6a: bi-phase, most significant bit first, with a leader and one bit of double width: a one, mode
 * 3 bits, the wide bit, then the data. rc6 is mode 0, and the wide bit is its toggle; rc6a is mode 6, and the
 * toggle comes after the customer code. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_phase_timing DROM_FLASH timing_rc6 = {
    .leader_mark_us = 2666,
    .leader_space_us = 889,
    .unit_us = 444,
    .leader_units = 8,
    .leader_mark_units = 6,
    .bits = 21,
    .double_bit = 4,
    .first_bits_mask = 0x1e,
    .first_bits = 0x10,
    .is_one_mark_first = true,
    .is_msb_first = true,
};

static const drom_phase_timing DROM_FLASH timing_rc6a = {
    .leader_mark_us = 2666,
    .leader_space_us = 889,
    .unit_us = 444,
    .leader_units = 8,
    .leader_mark_units = 6,
    .bits = 37,
    .double_bit = 4,
    .first_bits_mask = 0x1f,
    .first_bits = 0x1c,
    .is_one_mark_first = true,
    .is_msb_first = true,
};

enum { RC6A_HEADER = 0x1c };

static bool unpack_rc6(const drom_decoder *decoder, drom_frame *frame)
{
    frame->code.address = decoder->bits >> 8 & 0xff;
    frame->code.command = (uint16_t)(decoder->bits & 0xff);
    frame->toggle = decoder->bits >> 16 & 1;
    return true;
}

static void pack_rc6(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    encoder->bits = UINT32_C(1) << 20 | (uint32_t)toggle << 16 | code->address << 8 | code->command;
}

/* The customer code's first bit is 1. */
static bool unpack_rc6a(const drom_decoder *decoder, drom_frame *frame)
{
    const uint32_t bits = decoder->bits;
    frame->code.address = (bits >> 16) << 7 | (bits >> 8 & 0x7f);
    frame->code.command = (uint16_t)(bits & 0xff);
    frame->toggle = bits >> 15 & 1;
    return bits >> 31 == 1;
}

static void pack_rc6a(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    encoder->more = RC6A_HEADER;
    encoder->bits =
        (code->address >> 7) << 16 | (uint32_t)toggle << 15 | (code->address & 0x7f) << 8 | code->command;
}

static const char DROM_FLASH rc6_id[] = "rc6";

const drom_protocol DROM_FLASH drom_rc6 = {
    .id = DROM_ID(rc6_id),
    .number = DROM_RC6,
    DROM_FAMILY(phase),
    .timing = &timing_rc6,
    .unpack = unpack_rc6,
    .glitch_us = 160,
    .first_mark_min_us = 2200,
    .first_mark_max_us = 3150,
    .period_us = 106700,
    .length = 21,
    .min_ms = 20,
    .has_toggle = true,
};

const drom_waveform DROM_FLASH drom_rc6_waveform = {
    .protocol = &drom_rc6,
    .timing = &timing_rc6,
    .chunk = drom_phase_chunk,
    .pack = pack_rc6,
    .max_address = 0xff,
    .carrier_khz = 36,
    .longest_ms = 24,
    .max_command = 0xff,
};

static const char DROM_FLASH rc6a_id[] = "rc6a";

const drom_protocol DROM_FLASH drom_rc6a = {
    .id = DROM_ID(rc6a_id),
    .number = DROM_RC6A,
    DROM_FAMILY(phase),
    .timing = &timing_rc6a,
    .unpack = unpack_rc6a,
    .glitch_us = 160,
    .first_mark_min_us = 2200,
    .first_mark_max_us = 3150,
    .period_us = 106700,
    .length = 37,
    .min_ms = 33,
    .has_toggle = true,
};

const drom_waveform DROM_FLASH drom_rc6a_waveform = {
    .protocol = &drom_rc6a,
    .timing = &timing_rc6a,
    .chunk = drom_phase_chunk,
    .pack = pack_rc6a,
    .max_address = 0x7fffff,
    .carrier_khz = 36,
    .longest_ms = 38,
    .max_command = 0xff,
    .min_address = 0x400000,
};
