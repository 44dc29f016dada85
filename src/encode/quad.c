/* Quaternary: leader 417 / 278, a mark of 167 and one of four spaces for each two bits, and a closing mark.
 */
#include "bits.h"

drom_chunk drom_quad_chunk(const drom_encoder *encoder, uint8_t index)
{
    static const uint16_t DROM_FLASH spaces_us[] = {278, 444, 611, 778};
    const drom_quad_timing timing = *(const drom_quad_timing DROM_FLASH *)encoder->waveform->timing;
    if (index < 2) {
        return (drom_chunk){index == 0 ? 417 : 278, index == 0};
    }
    index = (uint8_t)(index - 2);
    if (index > timing.bits) {
        return (drom_chunk){0, true};
    }
    if (index % 2 == 0) {
        return (drom_chunk){167, true};
    }
    const uint8_t shift = (uint8_t)(timing.bits - 1 - index);
    return (drom_chunk){spaces_us[encoder->bits >> shift & 3], false};
}
