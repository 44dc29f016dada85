/* The decoder of the quaternary family: leader 417 / 278, then for each two bits a mark of 167 and one of
 * four spaces that are 167 apart.
 *
 * They lie so close that a slow clock would make one the other: so each time from mark to mark is held
 * against the clock that the frame has shown so far. `more` is how long that would have been with a true
 * clock. */
#include "dromikos/protocols.h"

#include "margin.h"

enum phase {
    LEADER = DROM_PHASE_OWN,
    MARK,
    SPACE,
    STOP,
};

enum {
    LEADER_US = 695, /* mark and space */
    LEAST_US = 445,  /* a mark and the shortest space */
    STEP_US = 167,   /* to the next longer space */
    LONGEST_MARK_US = 167 + 120,
    LEADER_SLACK_US = 110,
};

static drom_heard begin(drom_decoder *decoder, const drom_interval *interval)
{
    *decoder = (drom_decoder){.at = interval->at, .margin = 100};
    decoder->phase = interval->is_mark && interval->us > LONGEST_MARK_US / 2 ? LEADER : DROM_PHASE_IDLE;
    return DROM_NOTHING;
}

static drom_heard step_leader(drom_decoder *decoder, const drom_interval *interval)
{
    const uint32_t lasted_us = (uint32_t)interval->us + interval->before_us;
    const bool is_leader =
        lasted_us >= LEADER_US - LEADER_SLACK_US && lasted_us <= LEADER_US + LEADER_SLACK_US;
    decoder->phase = is_leader ? MARK : DROM_PHASE_IDLE;
    decoder->more = LEADER_US;
    return DROM_NOTHING;
}

/* Two bits by the time from mark to mark. False when it is none of the four. */
static bool take_bits(drom_decoder *decoder, const drom_interval *interval)
{
    const uint32_t period_us = (uint32_t)interval->us + interval->before_us;
    const drom_us lasted_us = interval->at + interval->us - decoder->at;
    if (period_us > 2000 || lasted_us <= period_us) {
        return false;
    }
    const uint32_t plain_us = period_us * decoder->more / (lasted_us - period_us);
    if (plain_us < LEAST_US - STEP_US / 2 || plain_us > LEAST_US + 3 * STEP_US + STEP_US / 2) {
        return false;
    }
    const uint32_t step = (plain_us - (LEAST_US - STEP_US / 2)) / STEP_US;
    const uint32_t value = step > 3 ? 3 : step;
    const uint32_t nominal_us = LEAST_US + value * STEP_US;
    const uint32_t off_us = plain_us > nominal_us ? plain_us - nominal_us : nominal_us - plain_us;
    drom_note_margin(decoder, (uint16_t)(off_us > STEP_US / 2 ? 0 : STEP_US / 2 - off_us), STEP_US / 2);
    decoder->bits = decoder->bits << 2 | value;
    decoder->more = (uint16_t)(decoder->more + nominal_us);
    decoder->count = (uint8_t)(decoder->count + 2);
    return true;
}

static bool fill(const drom_protocol DROM_FLASH *protocol, const drom_decoder *decoder, drom_frame *frame)
{
    *frame = (drom_frame){.code = {.protocol = protocol}, .at = decoder->at, .margin = decoder->margin};
    return protocol->unpack(decoder, frame);
}

drom_heard drom_quad_step(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                          const drom_interval *interval, drom_frame *frame)
{
    const drom_quad_timing timing = *(const drom_quad_timing DROM_FLASH *)protocol->timing;
    switch (decoder->phase) {
    case LEADER:
        return step_leader(decoder, interval);
    case MARK:
    case STOP:
        if (interval->us > LONGEST_MARK_US) {
            return begin(decoder, interval);
        }
        decoder->phase = decoder->phase == MARK ? SPACE : DROM_PHASE_WAIT;
        return DROM_NOTHING;
    case SPACE:
        decoder->phase = take_bits(decoder, interval) ? MARK : DROM_PHASE_IDLE;
        if (decoder->phase == MARK && decoder->count == timing.bits) {
            decoder->phase = STOP;
            return fill(protocol, decoder, frame) ? DROM_MAYBE : DROM_NOTHING;
        }
        return DROM_NOTHING;
    case DROM_PHASE_WAIT:
        decoder->phase = DROM_PHASE_IDLE;
        return interval->is_open && fill(protocol, decoder, frame) ? DROM_FRAME : DROM_NOTHING;
    default:
        return begin(decoder, interval);
    }
}
