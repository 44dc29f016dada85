/* Pulse distance and pulse width: the leader, a mark and a space per bit, the stop mark. */
#include "../compiler.h"

#include "bits.h"

#include "../bound.h"

static drom_chunk mark(uint16_t us)
{
    return (drom_chunk){us, true};
}

static drom_chunk space(uint16_t us)
{
    return (drom_chunk){us, false};
}

static bool has_leader(const drom_pulse_timing DROM_FLASH *timing, const drom_encoder *encoder)
{
    const uint16_t leader_us = timing->leader_mark_us;
    return leader_us != 0 &&
           !(encoder->is_repeat && (timing->has_headerless_repeat || timing->has_leader_but_once));
}

drom_chunk drom_pulse_chunk(const drom_encoder *encoder, uint8_t index)
{
    const drom_pulse_timing DROM_FLASH *const timing = encoder->waveform->timing;
    const uint16_t pause_us = timing->pause_us;
    const uint16_t ditto_us = timing->ditto_space_us;
    const bool is_repeat_frame = encoder->is_repeat && ditto_us != 0;
    uint8_t half = timing->bits; /* number of bits before the pause, or before the end */
    uint8_t bit = 0;
    if (has_leader(timing, encoder)) {
        if (index == 0) {
            return mark(timing->leader_mark_us);
        }
        if (index == 1) {
            return space(is_repeat_frame ? ditto_us : timing->leader_space_us);
        }
        index = (uint8_t)(index - 2);
    }
    if (pause_us != 0) {
        half /= 2;
        if (index == 2 * half + 1) {
            return space(pause_us);
        }
        if (index > 2 * half) { /* after the first half's stop mark and the pause */
            index = (uint8_t)(index - (2 * half + 2));
            bit = half;
        }
    }
    if (is_repeat_frame || index >= 2 * half) {
        const bool is_stop = index == (is_repeat_frame ? 0 : 2 * half) && !timing->has_no_stop;
        return mark(is_stop ? timing->zero_mark_us : 0);
    }
    const bool is_one =
        drom_bit_sent(encoder, (uint8_t)(bit + index / 2), timing->bits, timing->is_msb_first);
    if (index % 2 == 0) {
        return mark(is_one ? timing->one_mark_us : timing->zero_mark_us);
    }
    return space(is_one ? timing->one_space_us : timing->zero_space_us);
}
