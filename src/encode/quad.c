/* Quaternary: the leader (417 / 278), a mark of 167 and one of four spaces per two bits, and a closing mark.
 */
#include "../compiler.h"

#include "bits.h"

drom_chunk drom_quad_chunk(const drom_encoder *encoder, uint8_t index)
{
    const drom_quad_timing timing = *(const drom_quad_timing DROM_FLASH *)encoder->waveform->timing;
    if (index < 2) {
        return (drom_chunk){index == 0 ? timing.leader_mark_us : timing.leader_space_us, index == 0};
    }
    index = (uint8_t)(index - 2);
    if (index > timing.bits) {
        return (drom_chunk){0, true};
    }
    if (index % 2 == 0) {
        return (drom_chunk){timing.mark_us, true};
    }
    const uint8_t shift = (uint8_t)(timing.bits - 1 - index);
    return (drom_chunk){(uint16_t)(timing.space_us + (encoder->bits >> shift & 3) * timing.step_us), false};
}
