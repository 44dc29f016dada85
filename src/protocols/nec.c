/* nec: 38 kHz, pulse distance, least significant bit first: address, ~address, command, ~command, stop mark.
 * While a key is held a ditto follows every 108 ms. Facts: docs/protocols.md. */
#include "dromikos/encode.h"

const drom_pulse_timing DROM_FLASH drom_nec_timing = {
    .leader_mark_us = 9000,
    .leader_space_us = 4500,
    .ditto_space_us = 2250,
    .mark_us = 562,
    .zero_space_us = 562,
    .one_space_us = 1687,
    .bits = 32,
};

static uint8_t byte(uint32_t bits, uint8_t index)
{
    return (uint8_t)(bits >> (8 * index));
}

static bool unpack(uint32_t bits, drom_code *code)
{
    if ((byte(bits, 0) ^ byte(bits, 1)) != 0xff || (byte(bits, 2) ^ byte(bits, 3)) != 0xff) {
        return false;
    }
    code->address = byte(bits, 0);
    code->command = byte(bits, 2);
    return true;
}

static uint32_t with_complement(uint8_t value)
{
    return value | (uint32_t)(value ^ 0xff) << 8;
}

static uint32_t pack(const drom_code *code)
{
    return with_complement((uint8_t)code->address) | with_complement((uint8_t)code->command) << 16;
}

const drom_protocol DROM_FLASH drom_nec = {
    .id = "nec",
    .step = drom_pulse_step,
    .timing = &drom_nec_timing,
    .unpack = unpack,
    .glitch_us = 180,
    .period_ms = 108,
    .release_ms = 250,
};

const drom_waveform DROM_FLASH drom_nec_waveform = {
    .protocol = &drom_nec,
    .timing = &drom_nec_timing,
    .interval_us = drom_pulse_interval_us,
    .pack = pack,
    .most_address = 0xff,
    .most_command = 0xff,
    .carrier_khz = 38,
    .has_ditto = true,
};
