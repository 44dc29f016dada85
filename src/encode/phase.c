/* Bi-phase: the leader, and two halves per bit, one of which is a mark. */
#include "../compiler.h"

#include "bits.h"

drom_chunk drom_phase_chunk(const drom_encoder *encoder, uint8_t index)
{
    const drom_phase_timing timing = *(const drom_phase_timing DROM_FLASH *)encoder->waveform->timing;
    if (timing.leader_mark_us != 0) {
        if (index < 2) {
            return (drom_chunk){index == 0 ? timing.leader_mark_us : timing.leader_space_us, index == 0};
        }
        index = (uint8_t)(index - 2);
    }
    const uint8_t bit = index / 2;
    if (bit >= timing.bits) {
        return (drom_chunk){0, false};
    }
    const bool is_one = drom_bit_sent(encoder, bit, timing.bits, timing.is_msb_first);
    const bool is_first_half = index % 2 == 0;
    return (drom_chunk){
        .us = (uint16_t)(bit == timing.double_bit ? 2 * timing.unit_us : timing.unit_us),
        .is_mark = (is_one == timing.is_one_mark_first) == is_first_half,
    };
}
