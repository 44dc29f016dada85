/* samsung32: pulse distance, least significant bit first: address, address again, command, its complement. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .leader_mark_us = 4500,
    .leader_space_us = 4500,
    .zero_mark_us = 560,
    .zero_space_us = 560,
    .one_mark_us = 560,
    .one_space_us = 1690,
    .bits = 32,
};

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    const uint32_t bits = decoder->bits;
    const uint8_t address = drom_byte(bits, 0);
    const uint8_t command = drom_byte(bits, 2);
    frame->code.address = address;
    frame->code.command = command;
    return drom_byte(bits, 1) == address && (drom_byte(bits, 3) ^ command) == 0xff;
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits =
        code->address * 0x101 | (uint32_t)code->command << 16 | (uint32_t)(code->command ^ 0xff) << 24;
}

static const char DROM_FLASH samsung32_id[] = "samsung32";

const drom_protocol DROM_FLASH drom_samsung32 = {
    .id = DROM_ID(samsung32_id),
    .number = DROM_SAMSUNG32,
    DROM_FAMILY(pulse),
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 250,
    .first_mark_min_us = 2900,
    .first_mark_max_us = 5300,
    .period_us = 108000,
    .length = 32,
    .min_ms = 49,
};

const drom_waveform DROM_FLASH drom_samsung32_waveform = {
    .protocol = &drom_samsung32,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .max_address = 0xff,
    .carrier_khz = 38,
    .longest_ms = 73,
    .max_command = 0xff,
};
