/* Pulse distance and pulse width: leader, a mark and a space for each bit, the stop mark. */
#include "bits.h"

static drom_chunk mark(uint16_t us)
{
    return (drom_chunk){us, true};
}

static drom_chunk space(uint16_t us)
{
    return (drom_chunk){us, false};
}

static bool has_leader(const drom_pulse_timing *timing, const drom_encoder *encoder)
{
    return timing->leader_mark_us != 0 &&
           !(encoder->is_repeat && (timing->has_bare_repeat || timing->has_leader_but_once));
}

drom_chunk drom_pulse_chunk(const drom_encoder *encoder, uint8_t index)
{
    const drom_pulse_timing timing = *(const drom_pulse_timing DROM_FLASH *)encoder->waveform->timing;
    const bool is_ditto = encoder->is_repeat && timing.ditto_space_us != 0;
    if (has_leader(&timing, encoder)) {
        if (index < 2) {
            const uint16_t space_us = is_ditto ? timing.ditto_space_us : timing.leader_space_us;
            return index == 0 ? mark(timing.leader_mark_us) : space(space_us);
        }
        index = (uint8_t)(index - 2);
    }
    const uint8_t half = timing.pause_us != 0 ? timing.bits / 2 : timing.bits;
    uint8_t bits_before = 0;
    if (timing.pause_us != 0 && index > 2 * half) { /* past the first half's stop mark */
        if (index == 2 * half + 1) {
            return space(timing.pause_us);
        }
        index = (uint8_t)(index - (2 * half + 2));
        bits_before = half;
    }
    if (is_ditto || index >= 2 * half) {
        const bool is_stop = index == (is_ditto ? 0 : 2 * half) && !timing.has_no_stop;
        return mark(is_stop ? timing.zero_mark_us : 0);
    }
    const bool is_one =
        drom_bit_sent(encoder, (uint8_t)(bits_before + index / 2), timing.bits, timing.is_msb_first);
    if (index % 2 == 0) {
        return mark(is_one ? timing.one_mark_us : timing.zero_mark_us);
    }
    return space(is_one ? timing.one_space_us : timing.zero_space_us);
}
