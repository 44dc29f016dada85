/* The decoder of the quaternary family: a leader of 417 / 278, then for each two bits a mark of 167 and one
 * of four spaces that differ by 167. The spaces are so close that a slow clock would turn one into another:
 * so each time from mark to mark is compared with the clock that the frame has shown so far. `more` is the
 * frame's length with a true clock. */
#include "../compiler.h"

#include "../../include/dromikos/protocols.h"

#include "margin.h"

enum phase {
    LEADER = DROM_PHASE_OWN,
    MARK,
    SPACE,
    STOP,
};

/* How much finer margins are noted than in other families: the steps are small. */
enum { FINER = 10 };

/* A mark may be longer by a third of a step and 70 µs. */
static bool is_mark_of_bits(const drom_quad_timing *timing, uint16_t us)
{
    return us <= timing->mark_us + timing->step_us / 3u + 70u;
}

static drom_heard begin(const drom_quad_timing *timing, drom_decoder *decoder, const drom_interval *interval)
{
    *decoder = (drom_decoder){.at = interval->at};
    drom_begin_margin(decoder);
    decoder->phase =
        interval->is_mark && interval->us > timing->leader_mark_us / 2u ? LEADER : DROM_PHASE_IDLE;
    return DROM_NOTHING;
}

static drom_heard step_leader(const drom_quad_timing *timing, drom_decoder *decoder,
                              const drom_interval *interval)
{
    const uint32_t leader_us = (uint32_t)timing->leader_mark_us + timing->leader_space_us;
    const uint32_t lasted_us = (uint32_t)interval->us + interval->before_us;
    const uint32_t off_us = lasted_us > leader_us ? lasted_us - leader_us : leader_us - lasted_us;
    decoder->phase = off_us <= leader_us / 6 ? MARK : DROM_PHASE_IDLE;
    decoder->more = (uint16_t)leader_us;
    return DROM_NOTHING;
}

/* Decodes two bits from the time from mark to mark. False if it is none of the four. */
static bool take_bits(const drom_quad_timing *timing, drom_decoder *decoder, const drom_interval *interval)
{
    const uint32_t min_us = (uint32_t)timing->mark_us + timing->space_us;
    const uint32_t half_us = timing->step_us / 2u;
    const uint32_t period_us = (uint32_t)interval->us + interval->before_us;
    const drom_us lasted_us = interval->at + interval->us - decoder->at;
    if (period_us > 2 * (min_us + 3u * timing->step_us) || lasted_us <= period_us) {
        return false;
    }
    const uint32_t plain_us = period_us * decoder->more / (lasted_us - period_us);
    if (plain_us < min_us - half_us || plain_us > min_us + 3u * timing->step_us + half_us) {
        return false;
    }
    const uint32_t step = (plain_us - (min_us - half_us)) / timing->step_us;
    const uint32_t value = step > 3 ? 3 : step;
    const uint32_t nominal_us = min_us + value * timing->step_us;
    const uint32_t off_us = plain_us > nominal_us ? plain_us - nominal_us : nominal_us - plain_us;
    drom_note_margin(decoder, (uint16_t)(off_us > half_us ? 0 : FINER * (half_us - off_us)));
    decoder->bits = decoder->bits << 2 | value;
    decoder->more = (uint16_t)(decoder->more + nominal_us);
    decoder->count = (uint8_t)(decoder->count + 2);
    return true;
}

static bool fill(const drom_protocol DROM_FLASH *protocol, const drom_decoder *decoder, drom_frame *frame)
{
    const drom_quad_timing DROM_FLASH *const timing = protocol->timing;
    *frame = (drom_frame){.protocol = protocol, .at = decoder->at};
    drom_report_margin(decoder, (uint16_t)(FINER * (timing->step_us / 2)), frame);
    return protocol->unpack(decoder, frame);
}

drom_heard drom_quad_step(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                          const drom_interval *interval, drom_frame *frame)
{
    const drom_quad_timing timing = *(const drom_quad_timing DROM_FLASH *)protocol->timing;
    switch (decoder->phase) {
    case LEADER:
        return step_leader(&timing, decoder, interval);
    case MARK:
    case STOP:
        if (!is_mark_of_bits(&timing, interval->us)) {
            return begin(&timing, decoder, interval);
        }
        decoder->phase = decoder->phase == MARK ? SPACE : DROM_PHASE_WAIT;
        return DROM_NOTHING;
    case SPACE:
        decoder->phase = take_bits(&timing, decoder, interval) ? MARK : DROM_PHASE_IDLE;
        if (decoder->phase == MARK && decoder->count == timing.bits) {
            decoder->phase = STOP;
            if (!fill(protocol, decoder, frame)) {
                return DROM_NOTHING;
            }
            return protocol->group == DROM_GROUP_NONE ? DROM_FRAME : DROM_MAYBE;
        }
        return DROM_NOTHING;
    case DROM_PHASE_WAIT:
        decoder->phase = DROM_PHASE_IDLE;
        return fill(protocol, decoder, frame) ? DROM_FRAME : DROM_NOTHING;
    default:
        return begin(&timing, decoder, interval);
    }
}

bool drom_quad_accepts(const void DROM_FLASH *timing_of)
{
    const drom_quad_timing timing = *(const drom_quad_timing DROM_FLASH *)timing_of;
    return timing.step_us != 0 && timing.leader_mark_us != 0 && timing.leader_space_us != 0 &&
           timing.mark_us != 0 && timing.space_us != 0 && timing.bits >= 2 && timing.bits <= 32 &&
           timing.bits % 2 == 0;
}
