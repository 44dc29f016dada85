/* denon and sharp: pulse distance without a leader, least significant bit first: address 5 bits, command 8,
 * and two bits that differ between the two protocols; after a pause the same again, inverted except for the
 * address. Both halves are one frame. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .zero_mark_us = 264,
    .zero_space_us = 792,
    .one_mark_us = 264,
    .one_space_us = 1848,
    .pause_us = 43500,
    .bits = 30,
};

enum {
    HALF = 15,
    INVERTED = 0x7fe0, /* the bits of a half that are inverted in the other */
    DENON = 0,
    SHARP = 1,
};

/* After the first half: true if it is a first half of this protocol; after the second: if they match. */
static bool unpack(const drom_decoder *decoder, drom_frame *frame, uint8_t kind)
{
    const uint32_t first = decoder->bits & 0x7fff;
    frame->code.address = first & 0x1f;
    frame->code.command = (uint16_t)(first >> 5 & 0xff);
    return first >> 13 == kind && (decoder->count == HALF || (first ^ decoder->bits >> HALF) == INVERTED);
}

static bool unpack_denon(const drom_decoder *decoder, drom_frame *frame)
{
    return unpack(decoder, frame, DENON);
}

static bool unpack_sharp(const drom_decoder *decoder, drom_frame *frame)
{
    return unpack(decoder, frame, SHARP);
}

static void pack(const drom_code *code, uint8_t kind, drom_encoder *encoder)
{
    const uint32_t first = code->address | (uint32_t)code->command << 5 | (uint32_t)kind << 13;
    encoder->bits = first | (first ^ INVERTED) << HALF;
}

static void pack_denon(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    pack(code, DENON, encoder);
}

static void pack_sharp(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    pack(code, SHARP, encoder);
}

static const char DROM_FLASH denon_id[] = "denon";

const drom_protocol DROM_FLASH drom_denon = {
    .id = DROM_ID(denon_id),
    .number = DROM_DENON,
    DROM_FAMILY(pulse),
    .needs = DROM_USES(PAUSES),
    .timing = &timing,
    .unpack = unpack_denon,
    .glitch_us = 80,
    .first_mark_min_us = 60,
    .first_mark_max_us = 560,
    .lead_in_us = 4000,
    .gap_us = 43500,
    .length = 30,
    .min_ms = 79,
};

const drom_waveform DROM_FLASH drom_denon_waveform = {
    .protocol = &drom_denon,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack_denon,
    .max_address = 0x1f,
    .carrier_khz = 38,
    .longest_ms = 97,
    .max_command = 0xff,
};

static const char DROM_FLASH sharp_id[] = "sharp";

const drom_protocol DROM_FLASH drom_sharp = {
    .id = DROM_ID(sharp_id),
    .number = DROM_SHARP,
    DROM_FAMILY(pulse),
    .needs = DROM_USES(PAUSES),
    .timing = &timing,
    .unpack = unpack_sharp,
    .glitch_us = 80,
    .first_mark_min_us = 60,
    .first_mark_max_us = 560,
    .lead_in_us = 4000,
    .gap_us = 43500,
    .length = 30,
    .min_ms = 79,
};

const drom_waveform DROM_FLASH drom_sharp_waveform = {
    .protocol = &drom_sharp,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack_sharp,
    .max_address = 0x1f,
    .carrier_khz = 38,
    .longest_ms = 97,
    .max_command = 0xff,
};
