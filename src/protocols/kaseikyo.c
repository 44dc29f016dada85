/* kaseikyo: pulse distance, least significant bit first: vendor word, D, S, F, and D xor S xor F. The low
 * nibble of D is the xor of the vendor's nibbles. The usual vendor word is 0x2002; another one is in the
 * upper half of the address, xored with the usual. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .leader_mark_us = 3456,
    .leader_space_us = 1728,
    .zero_mark_us = 432,
    .zero_space_us = 432,
    .one_mark_us = 432,
    .one_space_us = 1296,
    .bits = 48,
};

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    const uint16_t vendor = decoder->more;
    const uint32_t bits = decoder->bits;
    const uint8_t pairs = (uint8_t)(vendor ^ vendor >> 8);
    const uint8_t d = drom_byte(bits, 0);
    const uint8_t f = drom_byte(bits, 2);
    frame->code.address = (bits & 0xffff) | (uint32_t)(vendor ^ DROM_KASEIKYO_VENDOR) << 16;
    frame->code.command = f;
    return ((d ^ pairs ^ pairs >> 4) & 0xf) == 0 && (d ^ drom_byte(bits, 1) ^ f) == drom_byte(bits, 3);
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    const uint32_t data = (code->address & 0xffff) | (uint32_t)code->command << 16;
    encoder->more = (uint16_t)(code->address >> 16 ^ DROM_KASEIKYO_VENDOR);
    encoder->bits = data | ((data ^ data >> 8 ^ data >> 16) & 0xff) << 24;
}

static const char DROM_FLASH kaseikyo_id[] = "kaseikyo";

const drom_protocol DROM_FLASH drom_kaseikyo = {
    .id = DROM_ID(kaseikyo_id),
    .number = DROM_KASEIKYO,
    DROM_FAMILY(pulse),
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 150,
    .first_mark_min_us = 2200,
    .first_mark_max_us = 4090,
    .gap_us = 74700,
    .length = 48,
    .min_ms = 44,
};

const drom_waveform DROM_FLASH drom_kaseikyo_waveform = {
    .protocol = &drom_kaseikyo,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .max_address = 0xffffffff,
    .carrier_khz = 37,
    .longest_ms = 87,
    .max_command = 0xff,
};
