/* mitsubishi: pulse distance without a leader, least significant bit first: address, command. A dish frame
 * may look the same, but follows a silence of 6.1 ms and not 24. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .zero_mark_us = 300,
    .zero_space_us = 900,
    .one_mark_us = 300,
    .one_space_us = 2100,
    .bits = 16,
};

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    frame->code.address = decoder->bits & 0xff;
    frame->code.command = (uint16_t)(decoder->bits >> 8);
    return true;
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = code->address | (uint32_t)code->command << 8;
}

static const char DROM_FLASH mitsubishi_id[] = "mitsubishi";

const drom_protocol DROM_FLASH drom_mitsubishi = {
    .id = DROM_ID(mitsubishi_id),
    .number = DROM_MITSUBISHI,
    DROM_FAMILY(pulse),
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 70,
    .first_mark_min_us = 60,
    .first_mark_max_us = 600,
    .lead_in_us = 8000,
    .gap_us = 24000,
    .length = 16,
    .min_ms = 17,
};

const drom_waveform DROM_FLASH drom_mitsubishi_waveform = {
    .protocol = &drom_mitsubishi,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .max_address = 0xff,
    .carrier_khz = 33,
    .longest_ms = 39,
    .max_command = 0xff,
};
