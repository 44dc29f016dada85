/* nrc17: bi-phase with a leader, least significant bit first: a one, command 8 bits, address 4, subcode 4. A
 * press begins and ends with a boundary frame: command 0xfe, address and subcode all ones. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_phase_timing DROM_FLASH timing = {
    .leader_mark_us = 500,
    .leader_space_us = 2500,
    .unit_us = 500,
    .leader_units = 6,
    .leader_mark_units = 1,
    .bits = 17,
    .double_bit = 255,
    .is_one_mark_first = true,
};

enum { BOUNDARY_ADDRESS = 0xff, BOUNDARY_COMMAND = 0xfe };

static bool unpack(const drom_decoder *decoder, drom_frame *frame)
{
    frame->code.address = decoder->bits >> 9 & 0xff;
    frame->code.command = (uint16_t)(decoder->bits >> 1 & 0xff);
    if (frame->code.address == BOUNDARY_ADDRESS && frame->code.command == BOUNDARY_COMMAND) {
        frame->kind = DROM_FRAME_BOUNDARY;
    }
    return (decoder->bits & 1) == 1;
}

static void pack(const drom_code *code, bool toggle, drom_encoder *encoder)
{
    (void)toggle;
    encoder->bits = 1u | (uint32_t)code->command << 1 | code->address << 9;
}

static const char DROM_FLASH nrc17_id[] = "nrc17";

const drom_protocol DROM_FLASH drom_nrc17 = {
    .id = DROM_ID(nrc17_id),
    .number = DROM_NRC17,
    DROM_FAMILY(phase),
    .timing = &timing,
    .unpack = unpack,
    .glitch_us = 200,
    .first_mark_min_us = 220,
    .first_mark_max_us = 760,
    .period_us = 100000,
    .length = 17,
    .min_ms = 17,
};

const drom_waveform DROM_FLASH drom_nrc17_waveform = {
    .protocol = &drom_nrc17,
    .timing = &timing,
    .chunk = drom_phase_chunk,
    .pack = pack,
    .max_address = 0xff,
    .carrier_khz = 38,
    .longest_ms = 20,
    .max_command = 0xff,
    .boundary_gap_us = 40000,
    .boundary_address = BOUNDARY_ADDRESS,
    .boundary_command = BOUNDARY_COMMAND,
};
