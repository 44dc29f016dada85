/* rc5: bi-phase, most significant bit first: a one, field, toggle, address 5 bits, command 6. The field bit
 * is the inverted bit 6 of the command. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_phase_timing DROM_FLASH timing = {
    .unit_us = 889,
    .bits = 14,
    .double_bit = 255,
    .is_msb_first = true,
};

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    const uint16_t bits = (uint16_t)decoder->bits;
    const bool has_field = (bits & 0x1000) != 0;
    frame->code.address = bits >> 6 & 0x1f;
    frame->code.command = (uint16_t)((bits & 0x3f) | (has_field ? 0 : 0x40));
    frame->toggle = (bits & 0x800) != 0;
    return (bits & 0x2000) != 0;
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    const uint32_t field = code->command < 64;
    encoder->bits =
        1u << 13 | field << 12 | (uint32_t)toggle << 11 | code->address << 6 | (code->command & 0x3fu);
}

static const char DROM_FLASH rc5_id[] = "rc5";

const drom_protocol DROM_FLASH drom_rc5 = {
    .id = DROM_ID(rc5_id),
    .number = DROM_RC5,
    DROM_FAMILY(phase),
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 300,
    .first_mark_min_us = 500,
    .first_mark_max_us = 2200,
    .lead_in_us = 5600, /* longer than the space after any other protocol's leader */
    .period_us = 113800,
    .length = 14,
    .min_ms = 19,
    .has_toggle = true,
};

const drom_waveform DROM_FLASH drom_rc5_waveform = {
    .protocol = &drom_rc5,
    .timing = &timing,
    .chunk = drom_phase_chunk,
    .pack = pack,
    .max_address = 0x1f,
    .carrier_khz = 36,
    .longest_ms = 25,
    .max_command = 0x7f,
};
