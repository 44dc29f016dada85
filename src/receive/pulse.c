/* The decoder of the pulse distance and pulse width families.
 *
 * A bit is judged by mark and space together, as a receiver that stretches marks doesn't change their sum.
 * Only if the last space is the silence after the frame, the last mark is judged alone, against the leader's,
 * which was stretched by as much. A frame without a leader, and so with little redundancy, must also have
 * marks of the right mean length for the clock that its bits show.
 *
 * The receiver ends a frame at an interval of DROM_BURST_GAP_US, except for a pause: sums of two intervals
 * fit into 16 bits. If the least significant bit is first, bits are shifted in from above, and moved to their
 * places at the end. */
#include "../compiler.h"

#include "../../include/dromikos/protocols.h"

#include "../bound.h"
#include "margin.h"

enum phase {
    LEADER = DROM_PHASE_OWN, /* after the leader's mark */
    MARK,                    /* in a bit's mark */
    SPACE,                   /* in a bit's space */
    STOP,                    /* in the stop mark, followed by silence */
    HALF,                    /* in the stop mark of the first half */
};

/* Flags in `stretch`: a frame without its leader needs a whole one before it; this frame has the leader of
 * its press. */
enum { IS_HEADERLESS = 1 };

enum {
    EDGE_TOLERANCE_US = 250, /* stretching (100), and jitter at both ends (140), of one interval */
    BIT_TOLERANCE_US = 150,  /* jitter at both ends of a whole bit, and some more */
};

typedef const drom_pulse_timing DROM_FLASH *timing_ref;

static uint16_t pause_of(timing_ref timing)
{
    return DROM_WITH_PAUSES ? timing->pause_us : 0;
}

static bool leads_once(timing_ref timing)
{
    return DROM_WITH_SINGLE_LEADER && timing->has_leader_but_once;
}

/* True within an eighth of the nominal length, for the handset's clock, and a tolerance for the receiver. */
DROM_NOINLINE static bool is_near(uint16_t us, uint16_t nominal_us, uint16_t tolerance_us)
{
    const uint16_t off = us > nominal_us ? us - nominal_us : nominal_us - us;
    return off <= (uint16_t)(nominal_us / 8u + tolerance_us);
}

static uint16_t plus(uint16_t a, uint16_t b)
{
    return a > UINT16_MAX - b ? UINT16_MAX : (uint16_t)(a + b);
}

static uint16_t between(uint16_t a, uint16_t b)
{
    return a > b ? a - b : b - a;
}

DROM_NOINLINE static void begin_bits(drom_decoder *decoder)
{
    decoder->bits = 0;
    decoder->count = 0;
    drom_begin_margin(decoder);
}

/* Length of a bit. */
DROM_NOINLINE static uint16_t zero_us(timing_ref timing)
{
    return (uint16_t)(timing->zero_mark_us + timing->zero_space_us);
}

DROM_NOINLINE static uint16_t one_us(timing_ref timing)
{
    return (uint16_t)(timing->one_mark_us + timing->one_space_us);
}

static bool is_mark_of_bit(timing_ref timing, const drom_interval *mark)
{
    const uint16_t zero = timing->zero_mark_us;
    const uint16_t one = timing->one_mark_us;
    const uint16_t longest = one > zero ? one : zero;
    return mark->us <= (uint16_t)(longest + longest / 8u + EDGE_TOLERANCE_US + mark->tolerance_us);
}

/* True for a frame without its leader, and for a protocol that has none. */
DROM_NOINLINE static bool lacks_header(timing_ref timing, const drom_decoder *decoder)
{
    const uint16_t leader_us = timing->leader_mark_us;
    return leader_us == 0 || (timing->has_headerless_repeat && decoder->stretch == IS_HEADERLESS);
}

static drom_heard begin(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                        const drom_interval *mark)
{
    const timing_ref timing = protocol->timing;
    const uint16_t us = mark->us;
    const uint16_t leader_us = timing->leader_mark_us;
    const bool is_headerless = timing->has_headerless_repeat && us < leader_us / 2u;
    const bool has_no_leader = leader_us == 0 || is_headerless;
    const bool is_between = /* too long for a bit, too short for the leader */
        timing->has_headerless_repeat && !is_headerless && us < (uint16_t)(leader_us - leader_us / 4u);
    decoder->phase = DROM_PHASE_IDLE;
    if (!mark->is_mark || us < protocol->first_mark_min_us || us > protocol->first_mark_max_us ||
        is_between ||
        (has_no_leader && (!is_mark_of_bit(timing, mark) || mark->before_us < protocol->lead_in_us))) {
        return DROM_NOTHING;
    }
    begin_bits(decoder);
    decoder->at = mark->at;
    decoder->more = us;
    decoder->stretch = is_headerless ? IS_HEADERLESS : 0;
    decoder->phase = has_no_leader ? SPACE : LEADER;
    return DROM_NOTHING;
}

DROM_NOINLINE static uint8_t ones_of(uint16_t bits)
{
    uint8_t ones = 0;
    for (; bits != 0; bits &= (uint16_t)(bits - 1)) {
        ones++;
    }
    return ones;
}

/* True if the marks are stretched by no more than a receiver does, given the clock that the frame shows. Not
 * quite half: a jvc frame without its leader has the bits of a fast mitsubishi frame, and marks that are
 * nearly twice as long. */
static bool has_mean_mark(timing_ref timing, const drom_decoder *decoder, drom_us lasted_us)
{
    const uint8_t count = timing->bits;
    const uint8_t ones =
        (uint8_t)(ones_of((uint16_t)decoder->bits) + ones_of((uint16_t)(decoder->bits >> 16)));
    const uint8_t zeros = (uint8_t)(count - ones);
    /* In 16 µs, so that products fit into 32 bits. */
    const uint16_t nominal = (uint16_t)(ones * (one_us(timing) / 16) + zeros * (zero_us(timing) / 16));
    const uint16_t lasted = lasted_us / 16 > UINT16_MAX ? UINT16_MAX : (uint16_t)(lasted_us / 16);
    if (between(lasted, nominal) > nominal / 8 - nominal / 64) {
        return false;
    }
    /* Compares the sum of the marks with the nominal one, as a ratio to the frame, without a division. */
    const uint16_t mark_us = timing->zero_mark_us;
    const uint32_t actual = (uint32_t)decoder->more * nominal;
    const uint32_t expected = (uint32_t)(uint16_t)(mark_us * count) * lasted;
    const uint32_t tolerance = (uint32_t)(uint16_t)((mark_us / 2 - mark_us / 32) * count) * nominal;
    return actual <= expected + tolerance && actual + tolerance >= expected;
}

/* Fills the frame from the decoder. False if a checksum is wrong. */
static bool fill(const drom_protocol DROM_FLASH *protocol, const drom_decoder *decoder, drom_frame *frame)
{
    const timing_ref timing = protocol->timing;
    *frame = (drom_frame){
        .protocol = protocol,
        .at = decoder->at,
        .kind = timing->has_headerless_repeat && lacks_header(timing, decoder) ? DROM_FRAME_HEADERLESS
                                                                               : DROM_FRAME_WHOLE,
    };
    drom_report_margin(decoder, between(one_us(timing), zero_us(timing)) / 2, frame);
    return protocol->unpack(decoder, frame);
}

/* Moves bits that were received least significant first to their places, or back. */
static void shift_bits(timing_ref timing, drom_decoder *decoder, bool is_back)
{
    const uint8_t places = (uint8_t)(32 - decoder->count);
    if (timing->is_msb_first) {
        return;
    }
    if (is_back) {
        decoder->bits <<= places;
    } else if (places < 32) {
        const uint32_t bits = places < 16 ? decoder->bits : decoder->bits >> 16; /* at once, not bit by bit */
        decoder->bits = bits >> places % 16;
    } else if (decoder->count == timing->bits) {
        decoder->more = (uint16_t)(decoder->more >> (48 - timing->bits));
    }
}

/* Handles a frame whose bits are complete. */
static drom_heard complete(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder, drom_us lasted,
                           drom_frame *frame)
{
    const timing_ref timing = protocol->timing;
    const uint16_t pause_us = pause_of(timing);
    shift_bits(timing, decoder, false);
    decoder->phase = DROM_PHASE_IDLE;
    if ((lacks_header(timing, decoder) && pause_us == 0 && !has_mean_mark(timing, decoder, lasted)) ||
        !fill(protocol, decoder, frame)) {
        return DROM_NOTHING;
    }
    if (protocol->group == DROM_GROUP_NONE || frame->kind == DROM_FRAME_HEADERLESS) {
        return DROM_FRAME;
    }
    decoder->phase = timing->has_no_stop ? DROM_PHASE_WAIT : STOP;
    return DROM_MAYBE;
}

/* The first bits of a frame of more than 32 go to `more`. */
static void take_bit(timing_ref timing, drom_decoder *decoder, bool is_one)
{
    const bool is_msb_first = timing->is_msb_first;
    if (decoder->count++ + 32 < timing->bits) {
        decoder->more = (uint16_t)(is_msb_first ? (unsigned)decoder->more << 1 | is_one
                                                : decoder->more >> 1 | (unsigned)is_one << 15);
    } else {
        decoder->bits =
            is_msb_first ? decoder->bits << 1 | is_one : decoder->bits >> 1 | (uint32_t)is_one << 31;
    }
}

/* Takes a bit's mark and the space that ended it. False if they are neither a zero nor a one. */
static bool judge_bit(timing_ref timing, drom_decoder *decoder, const drom_interval *space)
{
    const uint16_t bit_us = (uint16_t)(space->before_us + space->us);
    const uint16_t zero = zero_us(timing);
    const uint16_t one = one_us(timing);
    const uint16_t to_zero = between(bit_us, zero);
    const uint16_t to_one = between(bit_us, one);
    const bool is_one = to_one < to_zero;
    const uint16_t off = is_one ? to_one : to_zero;
    if (off > (uint16_t)((is_one ? one : zero) / 8u + BIT_TOLERANCE_US + space->tolerance_us)) {
        return false;
    }
    drom_note_margin(decoder, (uint16_t)(is_one ? to_zero - to_one : to_one - to_zero) / 2);
    take_bit(timing, decoder, is_one);
    return true;
}

/* The part of the received leader mark that corresponds to a short mark: it shares the clock and some of the
 * stretching. The deviation is computed in 256ths, as long divisions are expensive. */
static uint16_t short_part(timing_ref timing, uint16_t leader_us)
{
    const uint16_t zero = timing->zero_mark_us;
    const uint16_t one = timing->one_mark_us;
    const uint16_t nominal = timing->leader_mark_us;
    const uint16_t short_us = one > zero ? zero : one;
    uint16_t part = short_us;
    uint16_t whole = nominal;
    while (part > UINT8_MAX) {
        part /= 2;
        whole /= 2;
    }
    const uint16_t ratio = (uint16_t)(whole > 0 ? part * 256u / whole : 0);
    const uint16_t off = (uint16_t)((uint32_t)between(leader_us, nominal) * ratio / 256);
    return (uint16_t)(leader_us > nominal ? short_us + off : short_us - off);
}

/* Decides the last bit if no space follows: by its mark, against the short part of the leader's mark
 * (`more`). A long mark is longer by nearly half of its nominal length. */
static bool judge_last_mark(timing_ref timing, drom_decoder *decoder, const drom_interval *mark)
{
    const uint16_t zero = timing->zero_mark_us;
    const uint16_t one = timing->one_mark_us;
    const uint16_t half_us = between(one, zero) / 2;
    const uint16_t middle_us = half_us - half_us / 16;
    const uint16_t over_us = mark->us > decoder->more ? mark->us - decoder->more : 0;
    const bool is_one = (over_us > middle_us) == (one > zero);
    if (!is_near(mark->us, is_one ? one : zero, (uint16_t)(EDGE_TOLERANCE_US + mark->tolerance_us))) {
        return false;
    }
    const uint16_t off_us = between(over_us, middle_us);
    drom_note_margin(decoder, off_us + off_us / 8); /* as far from the middle as other bits */
    take_bit(timing, decoder, is_one);
    return true;
}

static drom_heard step_leader(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                              const drom_interval *space, drom_frame *frame)
{
    const timing_ref timing = protocol->timing;
    const uint16_t leader = timing->leader_space_us;
    const uint16_t ditto = timing->ditto_space_us;
    const uint16_t us = space->us;
    const uint16_t to_leader = between(us, leader);
    const uint16_t to_ditto = between(us, ditto);
    const bool is_repeat_frame = ditto != 0 && to_ditto < to_leader;
    decoder->phase = DROM_PHASE_IDLE;
    if (!is_near(us, is_repeat_frame ? ditto : leader, (uint16_t)(EDGE_TOLERANCE_US + space->tolerance_us)) ||
        (timing->has_no_stop &&
         !is_near((uint16_t)(us + space->before_us), (uint16_t)(timing->leader_mark_us + leader),
                  (uint16_t)(BIT_TOLERANCE_US / 4 + space->tolerance_us)))) {
        return DROM_NOTHING; /* the latter: rc6 has a similar leader */
    }
    if (is_repeat_frame) {
        drom_note_margin(decoder, (uint16_t)(to_leader - to_ditto) / 2);
        *frame = (drom_frame){.protocol = protocol, .at = decoder->at, .kind = DROM_FRAME_REPEAT};
        drom_report_margin(decoder, between(leader, ditto) / 2, frame);
        return DROM_FRAME;
    }
    if (leads_once(timing)) {
        decoder->at = space->at + us; /* else the first frame would be longer than the others */
    }
    decoder->more = timing->has_no_stop ? short_part(timing, decoder->more) : 0;
    decoder->phase = MARK;
    return DROM_NOTHING;
}

static drom_heard step_mark(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                            const drom_interval *mark, drom_frame *frame)
{
    const timing_ref timing = protocol->timing;
    if (!is_mark_of_bit(timing, mark)) {
        return begin(protocol, decoder, mark);
    }
    if (timing->has_no_stop && decoder->count + 1 == timing->bits) {
        return judge_last_mark(timing, decoder, mark) ? complete(protocol, decoder, 0, frame)
                                                      : begin(protocol, decoder, mark);
    }
    if (lacks_header(timing, decoder)) {
        decoder->more = plus(decoder->more, mark->us);
    }
    decoder->phase = SPACE;
    return DROM_NOTHING;
}

static drom_heard step_space(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                             const drom_interval *space, drom_frame *frame)
{
    const timing_ref timing = protocol->timing;
    const uint16_t pause_us = pause_of(timing);
    const uint8_t bits = timing->bits;
    decoder->phase = DROM_PHASE_IDLE;
    if (!judge_bit(timing, decoder, space)) {
        return DROM_NOTHING;
    }
    if (decoder->count == bits) {
        return complete(protocol, decoder, space->at + space->us - decoder->at, frame);
    }
    decoder->phase = MARK;
    if (pause_us != 0 && decoder->count == bits / 2) {
        shift_bits(timing, decoder, false);
        decoder->phase = fill(protocol, decoder, frame) ? HALF : DROM_PHASE_IDLE;
        shift_bits(timing, decoder, true);
    }
    return DROM_NOTHING;
}

drom_heard drom_pulse_step(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                           const drom_interval *interval, drom_frame *frame)
{
    const timing_ref timing = protocol->timing;
    switch (decoder->phase) {
    case LEADER:
        return step_leader(protocol, decoder, interval, frame);
    case MARK:
        return step_mark(protocol, decoder, interval, frame);
    case SPACE:
        return step_space(protocol, decoder, interval, frame);
    case STOP:
    case HALF:
        if (!is_mark_of_bit(timing, interval)) {
            return begin(protocol, decoder, interval);
        }
        decoder->phase = decoder->phase == STOP ? DROM_PHASE_WAIT : DROM_PHASE_PAUSE;
        return DROM_NOTHING;
    case DROM_PHASE_PAUSE:
        decoder->phase =
            is_near(interval->us, pause_of(timing), (uint16_t)(EDGE_TOLERANCE_US + interval->tolerance_us))
                ? MARK
                : DROM_PHASE_IDLE;
        return DROM_NOTHING;
    case DROM_PHASE_WAIT: /* received */
        decoder->phase = DROM_PHASE_IDLE;
        return fill(protocol, decoder, frame) ? DROM_FRAME : DROM_NOTHING;
    default:
        return begin(protocol, decoder, interval);
    }
}

bool drom_pulse_accepts(const void DROM_FLASH *timing)
{
    const drom_pulse_timing figures = *(const drom_pulse_timing DROM_FLASH *)timing;
    const uint16_t zero = (uint16_t)(figures.zero_mark_us + figures.zero_space_us);
    const uint16_t one = (uint16_t)(figures.one_mark_us + figures.one_space_us);
    const bool has_marks = figures.zero_mark_us != 0 && figures.one_mark_us != 0;
    const bool has_spaces = figures.zero_space_us != 0 && figures.one_space_us != 0;
    const bool has_leader = figures.leader_mark_us != 0;
    const bool needs_leader = figures.bits > 32 || figures.has_no_stop || figures.has_headerless_repeat ||
                              figures.has_leader_but_once || figures.ditto_space_us != 0;
    return figures.bits >= 1 && figures.bits <= 48 && (figures.pause_us == 0 || figures.bits % 2 == 0) &&
           has_marks && has_spaces && zero != one && has_leader == (figures.leader_space_us != 0) &&
           (has_leader || !needs_leader) && figures.toggle_bit <= figures.bits;
}
