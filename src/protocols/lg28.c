/* lg28: pulse distance, most significant bit first: address, command, and the sum of the command's nibbles.
 */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .leader_mark_us = 8500,
    .leader_space_us = 4250,
    .ditto_space_us = 2250,
    .zero_mark_us = 560,
    .zero_space_us = 560,
    .one_mark_us = 560,
    .one_space_us = 1600,
    .bits = 28,
    .is_msb_first = true,
};

static uint8_t nibble_sum(uint16_t command)
{
    const uint8_t high = (uint8_t)(command >> 8);
    const uint8_t low = (uint8_t)command;
    return (uint8_t)((high >> 4) + high + (low >> 4) + low) & 0xf;
}

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    const uint32_t fields = decoder->bits >> 4;
    frame->code.address = drom_byte(fields, 2);
    frame->code.command = (uint16_t)fields;
    return (decoder->bits & 0xf) == nibble_sum((uint16_t)fields);
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = code->address << 20 | (uint32_t)code->command << 4 | nibble_sum(code->command);
}

static const char DROM_FLASH lg28_id[] = "lg28";

const drom_protocol DROM_FLASH drom_lg28 = {
    .id = DROM_ID(lg28_id),
    .number = DROM_LG28,
    DROM_FAMILY(pulse),
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 250,
    .first_mark_min_us = 5400,
    .first_mark_max_us = 9900,
    .silence_us = 2300,
    .period_us = 108000,
    .group = DROM_GROUP_LEADER_9MS,
    .length = 28,
    .min_ms = 40,
    .has_ditto = true,
};

const drom_waveform DROM_FLASH drom_lg28_waveform = {
    .protocol = &drom_lg28,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .max_address = 0xff,
    .carrier_khz = 38,
    .longest_ms = 72,
    .max_command = 0xffff,
};
