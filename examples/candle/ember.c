/* ember: a protocol that isn't the library's, as CONTRIBUTING says. Pulse distance, 24 bits, most significant
 * first: address 8, command 16. */
#include "../compiler.h"

#include "../../include/dromikos/encode.h"

static const drom_pulse_timing DROM_FLASH timing = {
    .leader_mark_us = 6000,
    .leader_space_us = 2000,
    .zero_mark_us = 400,
    .zero_space_us = 600,
    .one_mark_us = 400,
    .one_space_us = 1400,
    .bits = 24,
    .is_msb_first = true,
};

static const char DROM_FLASH ember_id[] = "ember";

const drom_protocol DROM_FLASH drom_ember = {
    .id = DROM_ID(ember_id),
    .number = DROM_EMBER,
    DROM_FAMILY(pulse),
    .timing = &timing,
    .unpack = drom_pulse_unpack_plain,
    .glitch_us = 200,
    .first_mark_min_us = 5000,
    .first_mark_max_us = 7000,
    .silence_us = 4000,
    .period_us = 90000,
    .length = 24,
    .min_ms = 25,
};

const drom_waveform DROM_FLASH drom_ember_waveform = {
    .protocol = &drom_ember,
    .timing = &timing,
    .chunk = drom_pulse_chunk,
    .pack = drom_pulse_pack_plain,
    .max_address = 0xff,
    .max_command = 0xffff,
    .carrier_khz = 38,
    .longest_ms = 52,
};
