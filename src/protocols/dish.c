/* dish: pulse distance, most significant bit first: command 6 bits, address 10. One leader per press; a mark
 * like the leader's ends each frame, so that a frame is 16 bits between two of them. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .leader_mark_us = 400,
    .leader_space_us = 6100,
    .zero_mark_us = 400,
    .zero_space_us = 2800,
    .one_mark_us = 400,
    .one_space_us = 1700,
    .bits = 16,
    .is_msb_first = true,
    .has_leader_but_once = true,
};

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    frame->code.address = decoder->bits & 0x3ff;
    frame->code.command = (uint16_t)(decoder->bits >> 10 & 0x3f);
    return true;
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = (uint32_t)code->command << 10 | code->address;
}

static const char DROM_FLASH dish_id[] = "dish";

const drom_protocol DROM_FLASH drom_dish = {
    .id = DROM_ID(dish_id),
    .number = DROM_DISH,
    DROM_FAMILY(pulse),
    .needs = DROM_USES(SINGLE_LEADER),
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 120,
    .first_mark_min_us = 120,
    .first_mark_max_us = 720,
    .gap_us = 6100,
    .length = 16,
    .min_ms = 30,
};

const drom_waveform DROM_FLASH drom_dish_waveform = {
    .protocol = &drom_dish,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = pack,
    .max_address = 0x3ff,
    .carrier_khz = 58,
    .longest_ms = 59,
    .max_command = 0x3f,
    .min_frames = 2,
};
