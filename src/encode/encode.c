/* Frames to intervals, one at a time, so that nothing but a few bytes is kept of a frame that is going out.
 */
#include "dromikos/encode.h"

drom_status drom_encode_begin(drom_encoder *encoder, const drom_waveform DROM_FLASH *waveform,
                              const drom_code *code, bool is_repeat)
{
    if (code->address > waveform->most_address || code->command > waveform->most_command) {
        return DROM_BAD_ARGUMENT;
    }
    *encoder = (drom_encoder){
        .waveform = waveform,
        .bits = waveform->pack(code),
        .is_ditto = is_repeat && waveform->has_ditto,
    };
    return DROM_OK;
}

uint16_t drom_encode_next(drom_encoder *encoder)
{
    const uint16_t us = encoder->waveform->interval_us(encoder);
    if (us != 0) {
        encoder->index++;
    }
    return us;
}

/* Leader mark and space, a mark and a space for each bit, the stop mark; a ditto has no bits. */
uint16_t drom_pulse_interval_us(const drom_encoder *encoder)
{
    const drom_pulse_timing timing = *(const drom_pulse_timing DROM_FLASH *)encoder->waveform->timing;
    const uint8_t stop = encoder->is_ditto ? 2 : (uint8_t)(2 + 2 * timing.bits);
    if (encoder->index == 0) {
        return timing.leader_mark_us;
    }
    if (encoder->index == 1) {
        return encoder->is_ditto ? timing.ditto_space_us : timing.leader_space_us;
    }
    if (encoder->index > stop) {
        return 0;
    }
    if (encoder->index % 2 == 0) {
        return timing.mark_us;
    }
    const uint8_t bit = (uint8_t)((encoder->index - 3) / 2);
    return (encoder->bits >> bit) & 1 ? timing.one_space_us : timing.zero_space_us;
}
