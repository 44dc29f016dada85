/* The decoder of the pulse distance and pulse width families.
 *
 * Bits are judged by mark and space together, which a receiver that stretches marks leaves as they were. Only
 * where the last space is the silence after the frame must a mark be judged alone: then it is held against
 * the leader's, which was stretched by as much. A frame without a leader, and so without much to know it by,
 * must also have marks of the right mean length for the clock that its bits show. */
#include "dromikos/protocols.h"

#include "margin.h"

enum phase {
    LEADER = DROM_PHASE_OWN, /* the leader's mark was there */
    MARK,                    /* a bit's mark comes */
    SPACE,                   /* a bit's space comes */
    STOP,                    /* the stop mark comes, and after it silence */
    HALF,                    /* the stop mark of the first half comes */
};

/* What `stretch` keeps: of a frame without its leader, that it needs another before it; of a leader that
 * comes once a press, that this is it. */
enum { IS_FURTHER = 1 };

enum {
    EDGE_SLACK_US = 250, /* what stretching (100), and jitter at both ends of it (140), do to one interval */
    BIT_SLACK_US = 150,  /* what jitter at both ends does to a whole bit, and then some */
};

/* Within an eighth of the nominal length, for the handset's clock, and a slack for the receiver. */
static bool is_near(uint16_t us, uint16_t nominal_us, uint16_t slack_us)
{
    const uint16_t off = us > nominal_us ? us - nominal_us : nominal_us - us;
    return off <= nominal_us / 8u + slack_us;
}

static uint16_t plus(uint16_t a, uint16_t b)
{
    return a > UINT16_MAX - b ? UINT16_MAX : (uint16_t)(a + b);
}

static void begin_bits(drom_decoder *decoder)
{
    decoder->bits = 0;
    decoder->count = 0;
    decoder->margin = 100;
}

static bool is_mark_of_bit(const drom_pulse_timing *timing, const drom_interval *interval)
{
    const uint16_t longest =
        timing->one_mark_us > timing->zero_mark_us ? timing->one_mark_us : timing->zero_mark_us;
    return interval->us <= longest + longest / 8u + EDGE_SLACK_US + interval->slack_us;
}

static drom_heard begin(const drom_protocol DROM_FLASH *protocol, const drom_pulse_timing *timing,
                        drom_decoder *decoder, const drom_interval *interval)
{
    const bool is_first_mark = interval->is_mark && interval->us >= protocol->first_mark_least_us &&
                               interval->us <= protocol->first_mark_most_us;
    const bool is_bare = timing->leader_mark_us == 0 ||
                         (timing->has_bare_repeat && interval->us < timing->leader_mark_us / 2u);
    decoder->at = interval->at;
    decoder->more = interval->us;
    decoder->phase = DROM_PHASE_IDLE;
    if (!is_first_mark ||
        (is_bare && (!is_mark_of_bit(timing, interval) || interval->before_us < protocol->lead_in_us))) {
        return DROM_NOTHING;
    }
    begin_bits(decoder);
    if (is_bare) {
        decoder->stretch = (int8_t)(timing->leader_mark_us == 0 ? 0 : IS_FURTHER);
        decoder->phase = SPACE;
    } else {
        decoder->stretch = (int8_t)(timing->has_leader_but_once && interval->before_us >= DROM_BURST_GAP_US);
        decoder->phase = LEADER;
    }
    return DROM_NOTHING;
}

static bool is_bare(const drom_pulse_timing *timing, const drom_decoder *decoder)
{
    return timing->leader_mark_us == 0 || (timing->has_bare_repeat && decoder->stretch == IS_FURTHER);
}

/* Is a mark stretched by no more than a receiver does, given the clock that the whole frame shows? Not quite
 * half of it: a jvc frame without its leader has the bits of a fast mitsubishi frame, and marks that are
 * nearly twice as long. */
static bool has_mean_mark(const drom_pulse_timing *timing, const drom_decoder *decoder, drom_us lasted)
{
    uint32_t nominal = 0;
    for (uint8_t i = 0; i < timing->bits; i++) {
        const bool is_one = (decoder->bits >> i) & 1;
        nominal += is_one ? timing->one_mark_us + (uint32_t)timing->one_space_us
                          : timing->zero_mark_us + (uint32_t)timing->zero_space_us;
    }
    if (nominal == 0) {
        return false;
    }
    const uint32_t off = lasted > nominal ? lasted - nominal : nominal - lasted;
    const uint32_t expected = timing->zero_mark_us * lasted / nominal;
    const uint32_t mean = decoder->more / timing->bits;
    const uint32_t slack = timing->zero_mark_us * 15u / 32u;
    return off * 9 <= nominal && mean <= expected + slack && mean + slack >= expected;
}

/* All bits are in. `lasted` is the time from the first mark to the end of the last bit. */
static drom_heard complete(const drom_protocol DROM_FLASH *protocol, const drom_pulse_timing *timing,
                           drom_decoder *decoder, drom_us lasted, drom_frame *frame)
{
    *frame = (drom_frame){
        .code = {.protocol = protocol},
        .at = decoder->at,
        .margin = decoder->margin,
        .kind = timing->has_bare_repeat && is_bare(timing, decoder) ? DROM_FRAME_FURTHER : DROM_FRAME_WHOLE,
    };
    decoder->phase = DROM_PHASE_IDLE;
    if (is_bare(timing, decoder) && timing->pause_us == 0 && !has_mean_mark(timing, decoder, lasted)) {
        return DROM_NOTHING;
    }
    if (!protocol->unpack(decoder, frame)) {
        return DROM_NOTHING;
    }
    if (protocol->group == DROM_GROUP_NONE || frame->kind == DROM_FRAME_FURTHER) {
        return DROM_FRAME;
    }
    decoder->phase = timing->has_no_stop ? DROM_PHASE_WAIT : STOP;
    return DROM_MAYBE;
}

static void take_bit(const drom_pulse_timing *timing, drom_decoder *decoder, bool is_one)
{
    const uint8_t head = (uint8_t)(timing->bits > 32 ? timing->bits - 32 : 0);
    if (timing->is_msb_first && decoder->count < head) {
        decoder->more = (uint16_t)(decoder->more << 1 | is_one);
    } else if (timing->is_msb_first) {
        decoder->bits = decoder->bits << 1 | is_one;
    } else if (decoder->count < head) {
        decoder->more |= (uint16_t)((uint16_t)is_one << decoder->count);
    } else {
        decoder->bits |= (uint32_t)is_one << (decoder->count - head);
    }
    decoder->count++;
}

/* A bit's mark and the space that ended it. False when it belongs to neither. */
static bool judge_bit(const drom_pulse_timing *timing, drom_decoder *decoder, const drom_interval *interval)
{
    const uint16_t bit_us = plus(interval->before_us, interval->us);
    const uint16_t zero_us = (uint16_t)(timing->zero_mark_us + timing->zero_space_us);
    const uint16_t one_us = (uint16_t)(timing->one_mark_us + timing->one_space_us);
    const uint16_t middle_us = (uint16_t)(((uint32_t)zero_us + one_us) / 2);
    const bool is_long = bit_us > middle_us;
    const bool is_one = is_long == (one_us > zero_us);
    if (!is_near(bit_us, is_one ? one_us : zero_us, plus(BIT_SLACK_US, interval->slack_us))) {
        return false;
    }
    const uint16_t half_us = one_us > zero_us ? one_us - middle_us : zero_us - middle_us;
    drom_note_margin(decoder, is_long ? bit_us - middle_us : middle_us - bit_us, half_us);
    take_bit(timing, decoder, is_one);
    return true;
}

/* The last bit where no space follows: a mark alone. It is held against that part of the leader's mark which
 * is as long as a short one, and shares its clock and some of its stretching; a long one is longer by nearly
 * half of what it should be. */
static bool judge_last_mark(const drom_pulse_timing *timing, drom_decoder *decoder,
                            const drom_interval *interval)
{
    const uint16_t mark_us = interval->us;
    const bool is_one_longer = timing->one_mark_us > timing->zero_mark_us;
    const uint16_t short_us = is_one_longer ? timing->zero_mark_us : timing->one_mark_us;
    const uint16_t long_us = is_one_longer ? timing->one_mark_us : timing->zero_mark_us;
    const uint16_t part_us = (uint16_t)((uint32_t)decoder->more * short_us / timing->leader_mark_us);
    const uint16_t over_us = mark_us > part_us ? mark_us - part_us : 0;
    const uint16_t middle_us = (uint16_t)((long_us - short_us) * UINT32_C(15) / 32);
    const bool is_long = over_us > middle_us;
    if (!is_near(mark_us, is_long ? long_us : short_us, plus(EDGE_SLACK_US, interval->slack_us))) {
        return false;
    }
    drom_note_margin(decoder, is_long ? over_us - middle_us : middle_us - over_us, middle_us);
    take_bit(timing, decoder, is_long == is_one_longer);
    return true;
}

static drom_heard step_leader(const drom_protocol DROM_FLASH *protocol, const drom_pulse_timing *timing,
                              drom_decoder *decoder, const drom_interval *interval, drom_frame *frame)
{
    const uint16_t middle_us = (uint16_t)(((uint32_t)timing->leader_space_us + timing->ditto_space_us) / 2);
    const bool is_longer = interval->us > middle_us;
    const bool is_ditto =
        timing->ditto_space_us != 0 && is_longer == (timing->ditto_space_us > timing->leader_space_us);
    if (!is_near(interval->us, is_ditto ? timing->ditto_space_us : timing->leader_space_us,
                 plus(EDGE_SLACK_US, interval->slack_us))) {
        decoder->phase = DROM_PHASE_IDLE;
        return DROM_NOTHING;
    }
    const uint16_t leader_us = (uint16_t)(timing->leader_mark_us + timing->leader_space_us);
    if (timing->has_no_stop && !is_near(plus(interval->us, interval->before_us), leader_us,
                                        plus(BIT_SLACK_US / 4, interval->slack_us))) {
        decoder->phase = DROM_PHASE_IDLE; /* rc6 has a leader much like it */
        return DROM_NOTHING;
    }
    begin_bits(decoder);
    if (timing->ditto_space_us != 0) {
        const uint16_t half_us =
            is_longer == is_ditto ? timing->ditto_space_us - middle_us : middle_us - timing->ditto_space_us;
        drom_note_margin(decoder, is_longer ? interval->us - middle_us : middle_us - interval->us, half_us);
    }
    if (is_ditto) {
        decoder->phase = DROM_PHASE_IDLE;
        *frame = (drom_frame){.code = {.protocol = protocol},
                              .at = decoder->at,
                              .margin = decoder->margin,
                              .kind = DROM_FRAME_DITTO};
        return DROM_FRAME;
    }
    if (timing->has_leader_but_once && !decoder->stretch) {
        decoder->at = interval->at + interval->us; /* it was the stop mark of the frame before */
    }
    if (!timing->has_no_stop) {
        decoder->more = 0;
    }
    decoder->phase = MARK;
    return DROM_NOTHING;
}

static drom_heard step_mark(const drom_protocol DROM_FLASH *protocol, const drom_pulse_timing *timing,
                            drom_decoder *decoder, const drom_interval *interval, drom_frame *frame)
{
    if (!is_mark_of_bit(timing, interval)) {
        return begin(protocol, timing, decoder, interval);
    }
    if (timing->has_no_stop && decoder->count + 1 == timing->bits) {
        if (judge_last_mark(timing, decoder, interval)) {
            return complete(protocol, timing, decoder, 0, frame);
        }
        return begin(protocol, timing, decoder, interval);
    }
    if (is_bare(timing, decoder)) {
        decoder->more = plus(decoder->more, interval->us);
    }
    decoder->phase = SPACE;
    return DROM_NOTHING;
}

static drom_heard step_space(const drom_protocol DROM_FLASH *protocol, const drom_pulse_timing *timing,
                             drom_decoder *decoder, const drom_interval *interval, drom_frame *frame)
{
    decoder->phase = DROM_PHASE_IDLE;
    if (!judge_bit(timing, decoder, interval)) {
        return DROM_NOTHING;
    }
    if (timing->pause_us != 0 && decoder->count == timing->bits / 2) {
        decoder->phase = protocol->unpack(decoder, frame) ? HALF : DROM_PHASE_IDLE;
        return DROM_NOTHING;
    }
    if (decoder->count == timing->bits) {
        return complete(protocol, timing, decoder, interval->at + interval->us - decoder->at, frame);
    }
    decoder->phase = MARK;
    return DROM_NOTHING;
}

drom_heard drom_pulse_step(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                           const drom_interval *interval, drom_frame *frame)
{
    const drom_pulse_timing timing = *(const drom_pulse_timing DROM_FLASH *)protocol->timing;
    switch (decoder->phase) {
    case LEADER:
        return step_leader(protocol, &timing, decoder, interval, frame);
    case MARK:
        return step_mark(protocol, &timing, decoder, interval, frame);
    case SPACE:
        return step_space(protocol, &timing, decoder, interval, frame);
    case STOP:
    case HALF:
        if (!is_mark_of_bit(&timing, interval)) {
            return begin(protocol, &timing, decoder, interval);
        }
        decoder->phase = decoder->phase == STOP ? DROM_PHASE_WAIT : DROM_PHASE_PAUSE;
        return DROM_NOTHING;
    case DROM_PHASE_PAUSE:
        decoder->phase = is_near(interval->us, timing.pause_us, plus(EDGE_SLACK_US, interval->slack_us))
                             ? MARK
                             : DROM_PHASE_IDLE;
        return DROM_NOTHING;
    case DROM_PHASE_WAIT:
        decoder->phase = DROM_PHASE_IDLE;
        if (!interval->is_open) {
            return DROM_NOTHING; /* it went on: a longer frame */
        }
        (void)complete(protocol, &timing, decoder, 0, frame);
        return DROM_FRAME;
    default:
        return begin(protocol, &timing, decoder, interval);
    }
}
