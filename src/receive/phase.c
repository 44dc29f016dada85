/* The decoder of the bi-phase family.
 *
 * An edge is judged by where it stands, not by how far it is from the last: from mark to mark, which no
 * stretching moves, the time is rounded to units, and the length of the unit is measured anew at each mark
 * from the time since the frame began. How much marks are stretched is followed likewise, and tells where
 * within that time the mark ended. The first half of the last bit completes the frame. */
#include "dromikos/protocols.h"

#include "margin.h"

enum phase {
    LEADER = DROM_PHASE_OWN, /* the leader's mark was there */
    BITS,
};

enum { EDGE_SLACK_US = 200, NO_BIT = 255, MOST_UNITS = 8 /* more than any run of a frame has */ };

/* Time is counted in sixteenths of a µs where it is divided by units. `more` is the length of a unit. */
static uint8_t units_of(const drom_decoder *decoder, uint16_t us)
{
    uint32_t left = (uint32_t)us * 16 + decoder->more / 2u;
    uint8_t units = 0;
    while (left >= decoder->more && units < MOST_UNITS) { /* a few rounds cost less than a division */
        left -= decoder->more;
        units++;
    }
    return units;
}

/* How far a length is from being another number of units. */
static void note_units(drom_decoder *decoder, uint16_t us, uint8_t units)
{
    const uint32_t nominal = (uint32_t)units * decoder->more;
    const uint32_t actual = (uint32_t)us * 16;
    const uint32_t off = actual > nominal ? actual - nominal : nominal - actual;
    const uint16_t half = decoder->more / 2;
    drom_note_margin(decoder, off > half ? 0 : (uint16_t)(half - off), half);
}

static uint16_t without_stretch(const drom_decoder *decoder, uint16_t mark_us)
{
    const int32_t us = (int32_t)mark_us - 2 * decoder->stretch;
    return us < 0 ? 0 : us > (int32_t)UINT16_MAX ? UINT16_MAX : (uint16_t)us;
}

/* A part of a way in either direction; shifts, since divisions are dear on small chips. */
static int16_t part_of(int16_t way, uint8_t shift)
{
    return (int16_t)(way < 0 ? -(int16_t)((uint16_t)-way >> shift) : (int16_t)((uint16_t)way >> shift));
}

/* Follows the stretching, a quarter of the way at a time; or all of it at first. */
static void follow_stretch(drom_decoder *decoder, uint16_t mark_us, uint8_t units, bool is_first)
{
    const int32_t over_us = (int32_t)mark_us - (int32_t)((uint32_t)units * decoder->more / 16);
    const int16_t limited = (int16_t)(over_us > 200 ? 200 : over_us < -200 ? -200 : over_us);
    const int16_t half = part_of(limited, 1);
    decoder->stretch =
        (int8_t)(is_first ? half : decoder->stretch + part_of((int16_t)(half - decoder->stretch), 2));
}

/* Without a leader the first half of the first bit, which is always a one, was silent, or the line would have
 * moved. */
static void begin(const drom_phase_timing *timing, drom_decoder *decoder, const drom_interval *interval)
{
    *decoder = (drom_decoder){.at = interval->at, .more = (uint16_t)(timing->unit_us * 16u), .margin = 100};
    decoder->phase = timing->leader_mark_us != 0 ? LEADER : BITS;
    if (timing->leader_mark_us == 0) {
        decoder->bits = 1;
        decoder->count = 1;
    }
}

/* Takes one unit of a level. False when the two halves of a bit are alike. */
static bool take_unit(const drom_phase_timing *timing, drom_decoder *decoder, bool is_mark)
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
    const uint8_t bit = half / 2;
    const bool is_one = is_mark == timing->is_one_mark_first;
    if (half % 2 == 0 && !is_again) {
        if (timing->is_msb_first) {
            decoder->bits = decoder->bits << 1 | is_one;
        } else {
            decoder->bits |= (uint32_t)is_one << bit;
        }
        return bit != 4 || ((decoder->bits ^ timing->first_bits) & timing->first_bits_mask) == 0;
    }
    const bool was_one = timing->is_msb_first ? decoder->bits & 1 : (decoder->bits >> bit) & 1;
    return is_one == (half % 2 == 0 ? was_one : !was_one);
}

static uint8_t all_units(const drom_phase_timing *timing)
{
    return (uint8_t)(timing->leader_units + 2 * timing->bits + (timing->double_bit != NO_BIT ? 2 : 0));
}

/* Takes a run, and with it the first half of the last bit where only that is left. DROM_FRAME when all bits
 * are known. */
static drom_heard take_run(const drom_phase_timing *timing, drom_decoder *decoder, uint8_t units,
                           bool is_mark)
{
    const uint8_t all = all_units(timing);
    for (; units > 0; units--) {
        if (decoder->count >= all || !take_unit(timing, decoder, is_mark)) {
            decoder->phase = DROM_PHASE_IDLE;
            return DROM_NOTHING;
        }
    }
    if (decoder->count == all - 2 && !take_unit(timing, decoder, !is_mark)) {
        decoder->phase = DROM_PHASE_IDLE;
        return DROM_NOTHING;
    }
    return decoder->count >= all - 1 ? DROM_FRAME : DROM_NOTHING;
}

/* A mark has begun: how long is a unit, by all that has come so far? */
static void measure_unit(const drom_phase_timing *timing, drom_decoder *decoder, drom_us lasted)
{
    const uint8_t units = (uint8_t)(decoder->count - (timing->leader_mark_us == 0 ? 1 : 0));
    const uint16_t us = (uint16_t)lasted; /* of a frame: 38 ms at most */
    const uint16_t whole = us / units;
    decoder->more = (uint16_t)(whole * 16u + (uint16_t)((us - (uint16_t)(whole * units)) * 16u) / units);
}

static drom_heard step_leader(const drom_phase_timing *timing, drom_decoder *decoder,
                              const drom_interval *interval)
{
    const uint16_t expected_us = (uint16_t)(timing->leader_mark_us + timing->leader_space_us);
    const uint16_t lasted_us = (uint16_t)(interval->us > 10000 ? 20000 : interval->us + interval->before_us);
    const uint16_t off_us = lasted_us > expected_us ? lasted_us - expected_us : expected_us - lasted_us;
    if (off_us > expected_us / 10u + EDGE_SLACK_US / 2) {
        decoder->phase = DROM_PHASE_IDLE;
        return DROM_NOTHING;
    }
    decoder->count = timing->leader_units;
    measure_unit(timing, decoder, lasted_us);
    follow_stretch(decoder, interval->before_us, timing->leader_mark_units, true);
    decoder->phase = BITS;
    return DROM_NOTHING;
}

static drom_heard step_bits(const drom_phase_timing *timing, drom_decoder *decoder,
                            const drom_interval *interval)
{
    const uint16_t mark_us = interval->is_mark ? interval->us : interval->before_us;
    const uint16_t plain_us = without_stretch(decoder, mark_us);
    const uint8_t mark_units = units_of(decoder, plain_us);
    if (mark_units < 1 || mark_units > 3) {
        decoder->phase = DROM_PHASE_IDLE;
        return DROM_NOTHING;
    }
    if (interval->is_mark) {
        note_units(decoder, plain_us, mark_units);
        return take_run(timing, decoder, mark_units, true);
    }
    const uint32_t period_us = (uint32_t)interval->us + mark_us;
    const uint8_t units = period_us > UINT16_MAX ? MOST_UNITS : units_of(decoder, (uint16_t)period_us);
    if (units <= mark_units || units - mark_units > 3) {
        decoder->phase = DROM_PHASE_IDLE;
        return DROM_NOTHING;
    }
    note_units(decoder, (uint16_t)period_us, units);
    const drom_heard heard = take_run(timing, decoder, (uint8_t)(units - mark_units), false);
    if (heard == DROM_NOTHING && decoder->phase == BITS) {
        measure_unit(timing, decoder, interval->at + interval->us - decoder->at);
        follow_stretch(decoder, mark_us, mark_units, false);
    }
    return heard;
}

drom_heard drom_phase_step(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                           const drom_interval *interval, drom_frame *frame)
{
    const drom_phase_timing timing = *(const drom_phase_timing DROM_FLASH *)protocol->timing;
    if (decoder->phase == DROM_PHASE_IDLE) {
        begin(&timing, decoder, interval);
        if (decoder->phase == LEADER) {
            return DROM_NOTHING;
        }
    }
    const drom_heard heard = decoder->phase == LEADER ? step_leader(&timing, decoder, interval)
                                                      : step_bits(&timing, decoder, interval);
    if (heard != DROM_FRAME) {
        return DROM_NOTHING;
    }
    decoder->phase = DROM_PHASE_IDLE;
    *frame = (drom_frame){.code = {.protocol = protocol}, .at = decoder->at, .margin = decoder->margin};
    return protocol->unpack(decoder, frame) ? DROM_FRAME : DROM_NOTHING;
}
