/* The decoder of the pulse distance family. Bits are judged by mark and space together, which a receiver that
 * stretches marks leaves as they were; the leader, where the space alone tells a frame from a ditto, by each.
 */
#include "dromikos/protocols.h"

enum phase { IDLE, LEADER, MARK, SPACE };

enum {
    EDGE_SLACK_US = 200, /* what stretching (100), and jitter at both ends of it, do to one interval */
    BIT_SLACK_US = 180,  /* what jitter at both ends does to a whole bit, and then some */
};

/* Within an eighth of the nominal length, for the handset's clock, and a slack for the receiver. */
static bool is_near(uint16_t us, uint16_t nominal_us, uint16_t slack_us)
{
    const uint16_t off = us > nominal_us ? us - nominal_us : nominal_us - us;
    return off <= nominal_us / 8u + slack_us;
}

static void begin(const drom_pulse_timing *timing, drom_decoder *decoder, const drom_interval *interval)
{
    const bool is_leader = interval->is_mark && is_near(interval->us, timing->leader_mark_us, EDGE_SLACK_US);
    decoder->at = interval->at;
    decoder->phase = is_leader ? LEADER : IDLE;
}

static bool is_ditto(const drom_pulse_timing *timing, uint16_t space_us)
{
    return timing->ditto_space_us != 0 && is_near(space_us, timing->ditto_space_us, EDGE_SLACK_US);
}

/* The space that ends a bit. False when it belongs to neither. */
static bool take_bit(const drom_pulse_timing *timing, drom_decoder *decoder, uint16_t space_us)
{
    const uint16_t bit_us = (uint16_t)(decoder->mark_us + space_us);
    const uint16_t one_us = (uint16_t)(timing->mark_us + timing->one_space_us);
    const uint16_t zero_us = (uint16_t)(timing->mark_us + timing->zero_space_us);
    if (is_near(bit_us, one_us, BIT_SLACK_US)) {
        decoder->bits |= UINT32_C(1) << decoder->count;
    } else if (!is_near(bit_us, zero_us, BIT_SLACK_US)) {
        return false;
    }
    decoder->count++;
    return true;
}

bool drom_pulse_step(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                     const drom_interval *interval, drom_frame *frame)
{
    const drom_pulse_timing timing = *(const drom_pulse_timing DROM_FLASH *)protocol->timing;
    switch ((enum phase)decoder->phase) {
    case LEADER:
        if (is_near(interval->us, timing.leader_space_us, EDGE_SLACK_US)) {
            decoder->phase = MARK;
            decoder->bits = 0;
            decoder->count = 0;
            return false;
        }
        decoder->phase = IDLE;
        *frame = (drom_frame){.code = {.protocol = protocol}, .at = decoder->at, .is_ditto = true};
        return is_ditto(&timing, interval->us);
    case MARK:
        if (!is_near(interval->us, timing.mark_us, EDGE_SLACK_US)) {
            begin(&timing, decoder, interval);
            return false;
        }
        decoder->mark_us = interval->us;
        decoder->phase = SPACE;
        return false;
    case SPACE:
        if (!take_bit(&timing, decoder, interval->us)) {
            decoder->phase = IDLE;
            return false;
        }
        if (decoder->count < timing.bits) {
            decoder->phase = MARK;
            return false;
        }
        decoder->phase = IDLE;
        *frame = (drom_frame){.code = {.protocol = protocol}, .at = decoder->at};
        return protocol->unpack(decoder->bits, &frame->code);
    case IDLE:
    default:
        begin(&timing, decoder, interval);
        return false;
    }
}
