/* The decoder of the bi-phase family.
 *
 * An edge is judged by its time within the frame, not by its distance from the last edge. Times from mark to
 * mark, which stretching doesn't change, are rounded to units; the length of the unit is measured at each
 * mark from the time since the frame began. The stretching of marks is followed as well, and tells where
 * within that time the mark ended. The first half of the last bit completes the frame.
 *
 * `more` is the length of a unit in µs; the last few units of a frame are counted with an error of at most
 * half a µs. */
#include "../compiler.h"

#include "../../include/dromikos/protocols.h"

#include "../bound.h"
#include "margin.h"

enum phase {
    LEADER = DROM_PHASE_OWN, /* after the leader's mark */
    BITS,
};

enum {
    EDGE_TOLERANCE_US = 200,
    NO_BIT = 255,
    MAX_UNITS = 8,      /* more than any mark or space of a frame has */
    LONGEST_US = 20000, /* longer than any mark or space of a frame */
};

/* Returns a length in units, rounded; notes its distance from a different number of units. */
DROM_NOINLINE static uint8_t units_of(drom_decoder *decoder, uint16_t us, bool is_noted)
{
    const uint16_t unit = decoder->more;
    const uint16_t half = unit / 2;
    uint16_t left = (uint16_t)(us + half);
    uint8_t units = 0;
    while (left >= unit && units < MAX_UNITS) { /* a few rounds are cheaper than a division */
        left = (uint16_t)(left - unit);
        units++;
    }
    if (is_noted) { /* `left` is half a unit if it fits exactly */
        drom_note_margin(decoder, left > half ? unit - left : left);
    }
    return units;
}

/* Adjusts the stretching by a quarter; at first completely. */
DROM_NOINLINE static void follow_stretch(drom_decoder *decoder, uint16_t mark_us, uint8_t units,
                                         bool is_first)
{
    const int16_t over_us = (int16_t)(mark_us - (uint16_t)(units * decoder->more));
    const int8_t half = (int8_t)((over_us > 200 ? 200 : over_us < -200 ? -200 : over_us) / 2);
    if (is_first) {
        decoder->stretch = half;
    }
    decoder->stretch = (int8_t)(decoder->stretch + (half - decoder->stretch) / 4);
}

/* Without a leader, the first half of the first bit, always a one, was silent, or the line would have
 * changed. */
static void begin(const drom_phase_timing DROM_FLASH *timing, drom_decoder *decoder,
                  const drom_interval *interval)
{
    const bool has_leader = timing->leader_units > 0;
    *decoder = (drom_decoder){.at = interval->at, .more = timing->unit_us};
    drom_begin_margin(decoder);
    decoder->phase = has_leader ? LEADER : BITS;
    decoder->count = !has_leader;
    if (!has_leader) {
        decoder->bits = timing->is_msb_first ? 1 : UINT32_C(1) << 31;
    }
}

/* Takes one unit of a level; false if the two halves of a bit are equal. If the least significant bit is
 * first, bits are shifted in from above, and moved to their places at the end. */
static bool take_unit(const drom_phase_timing DROM_FLASH *timing, drom_decoder *decoder, bool is_mark)
{
    const uint8_t unit = (uint8_t)(decoder->count++ - timing->leader_units);
    const uint8_t doubled = timing->double_bit;
    uint8_t half = unit;
    bool is_again = false; /* the second unit of a half */
    if (doubled != NO_BIT && unit >= 2 * doubled) {
        const uint8_t into = (uint8_t)(unit - 2 * doubled);
        half = into < 4 ? (uint8_t)(2 * doubled + into / 2) : (uint8_t)(unit - 2);
        is_again = into < 4 && into % 2 == 1;
    }
    const bool is_one = is_mark == timing->is_one_mark_first;
    const bool is_msb_first = timing->is_msb_first;
    if (half % 2 == 0 && !is_again) {
        decoder->bits =
            is_msb_first ? decoder->bits << 1 | is_one : decoder->bits >> 1 | (uint32_t)is_one << 31;
        const uint8_t five = (uint8_t)(is_msb_first ? decoder->bits : decoder->bits >> 27);
        return half != 2 * 4 || ((five ^ timing->first_bits) & timing->first_bits_mask) == 0;
    }
    const bool was_one = is_msb_first ? decoder->bits & 1 : decoder->bits >> 31;
    return is_one == (half % 2 == 0 ? was_one : !was_one);
}

/* Takes a mark or space, and with it the first half of the last bit if only that is left. DROM_FRAME when all
 * bits are known; idle if the interval can't be part of a frame. */
static drom_heard take_run(const drom_phase_timing DROM_FLASH *timing, drom_decoder *decoder, uint8_t units,
                           bool is_mark)
{
    const uint8_t all =
        (uint8_t)(timing->leader_units + 2 * timing->bits + (timing->double_bit != NO_BIT ? 2 : 0));
    bool is_good = units >= 1 && units <= 3;
    for (; units > 0 && is_good; units--) {
        is_good = decoder->count < all && take_unit(timing, decoder, is_mark);
    }
    if (is_good && decoder->count == all - 2) {
        is_good = take_unit(timing, decoder, !is_mark);
    }
    if (!is_good) {
        decoder->phase = DROM_PHASE_IDLE;
    }
    return is_good && decoder->count >= all - 1 ? DROM_FRAME : DROM_NOTHING;
}

/* A mark begins: measures the unit by the time since the frame began. */
static void measure_unit(drom_decoder *decoder, uint8_t units, uint16_t us)
{
    decoder->more = (uint16_t)((us + units / 2u) / units);
}

static void step_leader(const drom_phase_timing DROM_FLASH *timing, drom_decoder *decoder,
                        const drom_interval *interval)
{
    const uint16_t expected_us = (uint16_t)(timing->leader_mark_us + timing->leader_space_us);
    const uint16_t lasted_us =
        (uint16_t)(interval->us > LONGEST_US ? LONGEST_US : interval->us + interval->before_us);
    const uint16_t off_us = lasted_us > expected_us ? lasted_us - expected_us : expected_us - lasted_us;
    if (off_us > expected_us / 10u + EDGE_TOLERANCE_US / 2) {
        decoder->phase = DROM_PHASE_IDLE;
        return;
    }
    decoder->count = timing->leader_units;
    measure_unit(decoder, decoder->count, lasted_us);
    follow_stretch(decoder, interval->before_us, timing->leader_mark_units, true);
    decoder->phase = BITS;
}

static drom_heard step_bits(const drom_phase_timing DROM_FLASH *timing, drom_decoder *decoder,
                            const drom_interval *interval)
{
    const uint16_t mark_us = interval->is_mark ? interval->us : interval->before_us;
    if (interval->us > LONGEST_US || mark_us > LONGEST_US) {
        decoder->phase = DROM_PHASE_IDLE;
        return DROM_NOTHING;
    }
    const int16_t plain_us = (int16_t)((int16_t)mark_us - 2 * decoder->stretch);
    const uint8_t mark_units = units_of(decoder, (uint16_t)(plain_us < 0 ? 0 : plain_us), interval->is_mark);
    if (interval->is_mark) {
        return take_run(timing, decoder, mark_units, true);
    }
    const uint8_t units = units_of(decoder, (uint16_t)(interval->us + mark_us), true);
    const drom_heard heard = take_run(timing, decoder, (uint8_t)(units - mark_units), false);
    if (heard == DROM_NOTHING && decoder->phase == BITS) {
        const uint8_t before_first = timing->leader_units > 0 ? 0 : 1; /* it was silent */
        measure_unit(decoder, (uint8_t)(decoder->count - before_first),
                     (uint16_t)(interval->at + interval->us - decoder->at));
        follow_stretch(decoder, mark_us, mark_units, false);
    }
    return heard;
}

drom_heard drom_phase_step(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                           const drom_interval *interval, drom_frame *frame)
{
    const drom_phase_timing DROM_FLASH *const timing = protocol->timing;
    if (decoder->phase == LEADER) {
        step_leader(timing, decoder, interval);
        return DROM_NOTHING;
    }
    if (decoder->phase == DROM_PHASE_IDLE) {
        begin(timing, decoder, interval);
        if (decoder->phase == LEADER) {
            return DROM_NOTHING;
        }
    }
    if (step_bits(timing, decoder, interval) != DROM_FRAME) {
        return DROM_NOTHING;
    }
    decoder->phase = DROM_PHASE_IDLE;
    if (!timing->is_msb_first && timing->bits < 32) {
        decoder->bits >>= 32 - timing->bits;
    }
    *frame = (drom_frame){.protocol = protocol, .at = decoder->at};
    drom_report_margin(decoder, decoder->more / 2, frame);
    return protocol->unpack(decoder, frame) ? DROM_FRAME : DROM_NOTHING;
}

bool drom_phase_accepts(const void DROM_FLASH *timing_of)
{
    enum { MAX_BITS = 48, MAX_LEADER_UNITS = 100 };
    const drom_phase_timing timing = *(const drom_phase_timing DROM_FLASH *)timing_of;
    const bool has_leader = timing.leader_mark_us != 0;
    return timing.unit_us != 0 && timing.bits >= 1 && timing.bits <= MAX_BITS &&
           has_leader == (timing.leader_space_us != 0) && has_leader == (timing.leader_units != 0) &&
           timing.leader_units <= MAX_LEADER_UNITS && timing.leader_mark_units <= timing.leader_units &&
           (timing.double_bit == NO_BIT || timing.double_bit < timing.bits) &&
           timing.toggle_bit <= timing.bits;
}
