/* Edges in, frames out. What happens here and nowhere else: a run too short to be anybody's is taken for a
 * glitch and merged into its neighbours; silence ends the frames that only silence can end, and then the
 * burst; of several claims to one frame the best is taken; and a ditto is believed only after a frame.
 *
 * An edge is held back until the run that it starts has outlasted a glitch. Protocols with short marks get a
 * filter of their own, so that the others needn't see the noise that those must. */
#include "dromikos/receive.h"

#include "fingerprint.h"

enum { USUAL, FINE };

enum {
    LONGEST_GLITCH_US = 300, /* without protocols that say otherwise: longer than any noise is */
    UNKNOWN_GLITCH_US = 120, /* the marks of an unknown handset may be short */
};

/* A run of this length is told as 65535 from then on. */
#define STALE_US 65000

/* Which filter a protocol is behind. */
static uint8_t filter_of(const drom_protocol DROM_FLASH *protocol)
{
    return protocol->glitch_us < DROM_FINE_US ? FINE : USUAL;
}

static bool is_behind(const drom_receiver *receiver, const drom_filter *filter,
                      const drom_protocol DROM_FLASH *protocol)
{
    return filter == &receiver->filters[filter_of(protocol)];
}

static void forget_burst(drom_receiver *receiver)
{
    drom_fingerprint *const fingerprint = receiver->plan->fingerprint;
    if (fingerprint != NULL) {
        fingerprint->count = 0;
    }
    receiver->intervals = 0;
    receiver->is_recognised = false;
}

/* Notes the shortest silence that a decoder behind a filter waits for. */
static void note_awaited(drom_receiver *receiver, drom_filter *filter)
{
    const drom_receive_plan DROM_FLASH *const plan = receiver->plan;
    filter->awaited_us = UINT16_MAX;
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        if (plan->decoders[i].phase == DROM_PHASE_WAIT &&
            is_behind(receiver, filter, plan->protocols.rows[i]) &&
            plan->protocols.rows[i]->silence_us < filter->awaited_us) {
            filter->awaited_us = plan->protocols.rows[i]->silence_us;
        }
    }
}

static void forget_frames(drom_receiver *receiver)
{
    for (uint8_t i = 0; i < receiver->plan->protocols.count; i++) {
        receiver->plan->decoders[i].phase = DROM_PHASE_IDLE;
    }
    receiver->filters[USUAL].awaited_us = UINT16_MAX;
    receiver->filters[FINE].awaited_us = UINT16_MAX;
}

void drom_receiver_init(drom_receiver *receiver, const drom_receive_plan DROM_FLASH *plan)
{
    const drom_filter quiet = {
        .before_us = UINT16_MAX,
        .glitch_us = plan->fingerprint != NULL ? UNKNOWN_GLITCH_US : LONGEST_GLITCH_US,
        .is_long = true,
        .is_stale = true,
    };
    *receiver = (drom_receiver){.plan = plan, .filters = {quiet, quiet}};
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        const drom_protocol_ref protocol = plan->protocols.rows[i];
        drom_filter *const filter = &receiver->filters[filter_of(protocol)];
        filter->glitch_us = protocol->glitch_us < filter->glitch_us ? protocol->glitch_us : filter->glitch_us;
        receiver->has_fine |= filter_of(protocol) == FINE;
    }
    forget_burst(receiver);
    forget_frames(receiver);
}

/* A ditto says nothing unless a frame came shortly before, and then it is that protocol's, since they are all
 * alike. A frame without its leader needs one that had it. */
static bool is_believed(drom_receiver *receiver, drom_frame *frame)
{
    if (frame->kind == DROM_FRAME_DITTO || frame->kind == DROM_FRAME_FURTHER) {
        const drom_protocol_ref before = receiver->ditto_of;
        const bool is_ditto = frame->kind == DROM_FRAME_DITTO;
        if (!receiver->ditto_until.is_armed ||
            (is_ditto ? !before->has_ditto : before != frame->code.protocol)) {
            return false;
        }
        frame->code.protocol = before;
    }
    receiver->ditto_of = frame->code.protocol;
    drom_deadline_arm(&receiver->ditto_until, frame->at, DROM_DITTO_MS * (drom_us)1000);
    return true;
}

/* True when the plan has a longer protocol that begins like this one. */
static bool has_rival(const drom_receiver *receiver, const drom_protocol DROM_FLASH *protocol)
{
    const drom_receive_plan DROM_FLASH *const plan = receiver->plan;
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        const drom_protocol_ref other = plan->protocols.rows[i];
        if (other->group == protocol->group && other->length > protocol->length) {
            return true;
        }
    }
    return false;
}

/* An idle decoder needs to be bothered only where a frame of its protocol could begin. */
static bool can_begin(const drom_protocol DROM_FLASH *protocol, const drom_interval *interval)
{
    return interval->us >= protocol->first_mark_least_us && interval->us <= protocol->first_mark_most_us &&
           interval->before_us >= protocol->lead_in_us;
}

/* A frame is taken: its marks were nobody else's. */
static void take_frame(drom_receiver *receiver, const drom_interval *interval, drom_frame *frame)
{
    const drom_receive_plan DROM_FLASH *const plan = receiver->plan;
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        if (plan->decoders[i].phase != DROM_PHASE_PAUSE) {
            plan->decoders[i].phase = DROM_PHASE_IDLE;
        }
    }
    frame->intervals = receiver->intervals;
    frame->lasted_us = interval->at + (interval->is_open ? 0 : interval->us) - frame->at;
    receiver->is_recognised = true;
}

static void note_busy(drom_filter *filter, uint8_t row)
{
    filter->busy_from = row < filter->busy_from ? row : filter->busy_from;
    filter->busy_to = (uint8_t)(row + 1);
}

/* Steps the decoders behind a filter. Of several frames the one of the lowest rank is taken. */
static bool step_decoders(drom_receiver *receiver, drom_filter *filter, const drom_interval *interval,
                          drom_frame *frame)
{
    const drom_receive_plan DROM_FLASH *const plan = receiver->plan;
    const uint8_t behind = filter == &receiver->filters[FINE] ? FINE : USUAL;
    bool is_heard = false;
    bool was_awaited = filter->awaited_us != UINT16_MAX;
    /* A frame begins with a mark: at a space only those decoders matter that are in one. */
    const uint8_t from = interval->is_mark ? 0 : filter->busy_from;
    const uint8_t to = interval->is_mark ? plan->protocols.count : filter->busy_to;
    filter->busy_from = plan->protocols.count;
    filter->busy_to = 0;
    for (uint8_t i = from; i < to; i++) {
        drom_decoder *const decoder = &plan->decoders[i];
        if (decoder->phase == DROM_PHASE_IDLE) {
            if (!interval->is_mark || !can_begin(plan->protocols.rows[i], interval)) {
                continue;
            }
        } else if (interval->is_open && (decoder->phase != DROM_PHASE_WAIT ||
                                         interval->us < plan->protocols.rows[i]->silence_us)) {
            note_busy(filter, i);
            continue; /* of a silence that goes on only those are told that have waited for it */
        }
        const drom_protocol_ref protocol = plan->protocols.rows[i];
        if (filter_of(protocol) != behind) {
            continue;
        }
        drom_frame claim;
        const drom_heard heard = protocol->step(protocol, decoder, interval, &claim);
        was_awaited |= decoder->phase == DROM_PHASE_WAIT;
        if (decoder->phase != DROM_PHASE_IDLE) {
            note_busy(filter, i);
        }
        if (heard == DROM_NOTHING || (heard == DROM_MAYBE && has_rival(receiver, protocol))) {
            continue;
        }
        decoder->phase = DROM_PHASE_IDLE;
        if (!is_heard || protocol->rank < frame->code.protocol->rank) {
            *frame = claim;
            is_heard = true;
        }
    }
    is_heard = is_heard && is_believed(receiver, frame);
    if (is_heard) {
        take_frame(receiver, interval, frame);
    }
    if (was_awaited) {
        note_awaited(receiver, filter);
    }
    return is_heard;
}

/* The run that the line was in is over: it becomes an interval. */
static bool end_run(drom_receiver *receiver, drom_filter *filter, drom_frame *frame)
{
    const drom_us length = filter->pending_at - filter->since;
    const drom_interval interval = {
        .at = filter->since,
        .us = filter->is_stale || length > UINT16_MAX ? UINT16_MAX : (uint16_t)length,
        .before_us = filter->before_us,
        .slack_us = filter->slack_us,
        .is_mark = filter->is_mark,
    };
    if (filter == &receiver->filters[USUAL]) {
        if (filter->is_long) {
            receiver->burst_at = filter->pending_at;
        } else if (receiver->intervals < UINT16_MAX) {
            receiver->intervals++;
        }
        if (!filter->is_mark && receiver->plan->fingerprint != NULL) {
            drom_fingerprint_mark(receiver->plan->fingerprint, filter->pending_at);
        }
    }
    filter->since = filter->pending_at;
    filter->before_us = interval.us;
    filter->is_mark = !filter->is_mark;
    filter->is_pending = false;
    filter->is_long = false;
    filter->is_stale = false;
    if (filter->slack_runs > 0 && --filter->slack_runs == 0) {
        filter->slack_us = 0;
    }
    return step_decoders(receiver, filter, &interval, frame);
}

/* How long the run has lasted, up to an edge that is pending. */
static drom_us run_so_far(const drom_filter *filter, drom_us now)
{
    const drom_us until = filter->is_pending ? filter->pending_at : now;
    return drom_is_due(until, filter->since) ? until - filter->since : 0;
}

/* Tells the decoders of a silence that goes on. */
static bool tell_silence(drom_receiver *receiver, drom_filter *filter, drom_us so_far, drom_frame *frame)
{
    const drom_interval interval = {
        .at = filter->since,
        .us = so_far > UINT16_MAX ? UINT16_MAX : (uint16_t)so_far,
        .before_us = filter->before_us,
        .is_open = true,
    };
    return step_decoders(receiver, filter, &interval, frame);
}

/* No frame has such a long silence in it, but for those whose decoders say so. */
static void end_frames(drom_receiver *receiver, drom_filter *filter)
{
    const drom_receive_plan DROM_FLASH *const plan = receiver->plan;
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        drom_decoder *const decoder = &plan->decoders[i];
        if (decoder->phase != DROM_PHASE_PAUSE && is_behind(receiver, filter, plan->protocols.rows[i])) {
            decoder->phase = DROM_PHASE_IDLE;
        }
    }
    filter->awaited_us = UINT16_MAX;
}

/* True when the burst was of some length and nobody knew it, nor is still waiting for the rest of it. */
static bool end_burst(drom_receiver *receiver, drom_frame *frame)
{
    const drom_receive_plan DROM_FLASH *const plan = receiver->plan;
    const drom_fingerprint *const fingerprint = plan->fingerprint;
    bool is_unknown = fingerprint != NULL && !receiver->is_recognised &&
                      receiver->intervals >= DROM_UNKNOWN_LEAST_INTERVALS;
    for (uint8_t i = 0; i < plan->protocols.count && is_unknown; i++) {
        is_unknown = plan->decoders[i].phase == DROM_PHASE_IDLE;
    }
    if (is_unknown) {
        *frame = (drom_frame){
            .code = {.protocol = &drom_unknown, .address = drom_fingerprint_take(fingerprint)},
            .at = receiver->burst_at,
            .lasted_us = receiver->filters[USUAL].since - receiver->burst_at,
            .intervals = receiver->intervals,
        };
    }
    forget_burst(receiver);
    return is_unknown;
}

/* What a run that goes on may bring: silence that somebody waits for, the end of the burst, and that its
 * length is no longer told. */
static bool grow_run(drom_receiver *receiver, drom_filter *filter, drom_us now, drom_frame *frame)
{
    const drom_us so_far = run_so_far(filter, now);
    if (so_far < DROM_BURST_GAP_US && (filter->is_mark || so_far < filter->awaited_us)) {
        return false;
    }
    if (!filter->is_mark && filter->awaited_us != UINT16_MAX &&
        tell_silence(receiver, filter, so_far, frame)) {
        return true;
    }
    if (!filter->is_long && so_far >= DROM_BURST_GAP_US) {
        filter->is_long = true;
        end_frames(receiver, filter);
        if (filter == &receiver->filters[USUAL] && end_burst(receiver, frame)) {
            return true;
        }
    }
    filter->is_stale |= so_far >= STALE_US;
    return false;
}

/* Brings one filter up to a moment. Does at most one thing that gives a frame. */
static bool advance_filter(drom_receiver *receiver, drom_filter *filter, drom_us now, drom_frame *frame)
{
    if (!filter->is_stale && grow_run(receiver, filter, now, frame)) {
        return true;
    }
    if (!filter->is_pending || !drom_is_due(now, filter->pending_at + filter->glitch_us)) {
        return false;
    }
    return end_run(receiver, filter, frame) || grow_run(receiver, filter, now, frame);
}

bool drom_receiver_advance(drom_receiver *receiver, drom_us now, drom_frame *frame)
{
    (void)drom_deadline_passed(&receiver->ditto_until, now);
    return (receiver->has_fine && advance_filter(receiver, &receiver->filters[FINE], now, frame)) ||
           advance_filter(receiver, &receiver->filters[USUAL], now, frame);
}

static void take_edge(drom_receiver *receiver, drom_filter *filter, const drom_edge *edge, uint16_t slack_us)
{
    if (slack_us >
        filter->slack_us) { /* counts for the run that it ends, the one that it begins, and the bit after */
        filter->slack_us = slack_us;
        filter->slack_runs = 3;
    }
    const bool level = filter->is_mark != filter->is_pending;
    if (edge->after_loss || edge->is_mark == level) { /* the intervals up to here can't be trusted */
        *filter = (drom_filter){.since = edge->at, .glitch_us = filter->glitch_us, .is_mark = edge->is_mark};
        forget_frames(receiver); /* sets awaited_us, too */
        receiver->is_recognised = true;
    } else if (filter->is_pending) { /* advance() found it shorter than a glitch */
        filter->is_pending = false;
    } else {
        filter->pending_at = edge->at;
        filter->is_pending = true;
    }
}

void drom_receiver_edge(drom_receiver *receiver, const drom_edge *edge, uint16_t slack_us)
{
    take_edge(receiver, &receiver->filters[USUAL], edge, slack_us);
    if (receiver->has_fine) {
        take_edge(receiver, &receiver->filters[FINE], edge, slack_us);
    }
}

bool drom_receiver_is_within(const drom_receiver *receiver)
{
    bool is_within = false;
    for (uint8_t i = 0; i < receiver->plan->protocols.count; i++) {
        is_within |= receiver->plan->decoders[i].phase != DROM_PHASE_IDLE;
    }
    return is_within;
}

static drom_us soonest_of(const drom_protocol DROM_FLASH *protocol, bool may_be_ditto)
{
    const drom_us least_us = protocol->least_ms * (drom_us)1000;
    return may_be_ditto && protocol->has_ditto && least_us > DROM_DITTO_LEAST_US ? DROM_DITTO_LEAST_US
                                                                                 : least_us;
}

drom_us drom_receiver_soonest(const drom_receiver *receiver, drom_us now)
{
    const drom_receive_plan DROM_FLASH *const plan = receiver->plan;
    drom_us soonest = DROM_NEVER;
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        const drom_protocol_ref protocol = plan->protocols.rows[i];
        const drom_decoder *const decoder = &plan->decoders[i];
        const drom_filter *const filter = &receiver->filters[filter_of(protocol)];
        if (decoder->phase == DROM_PHASE_WAIT) {
            return 0;
        }
        drom_us wait = soonest_of(protocol, true);
        if (decoder->phase != DROM_PHASE_IDLE) {
            wait = drom_until(now, decoder->at + soonest_of(protocol, decoder->count == 0));
        } else if (filter->is_mark) { /* it may be the first of a frame, of which the decoder hasn't been told
                                       */
            wait = drom_until(now, filter->since + wait);
        }
        soonest = drom_sooner(soonest, wait);
    }
    return soonest;
}

static drom_us filter_wait(const drom_filter *filter, drom_us now)
{
    if (filter->is_pending) {
        return drom_until(now, filter->pending_at + filter->glitch_us);
    }
    if (!filter->is_long) {
        const bool is_awaited = !filter->is_mark && filter->awaited_us < DROM_BURST_GAP_US;
        return drom_until(now, filter->since + (is_awaited ? filter->awaited_us : DROM_BURST_GAP_US));
    }
    return filter->is_stale ? DROM_NEVER : drom_until(now, filter->since + STALE_US);
}

drom_us drom_receiver_wait(const drom_receiver *receiver, drom_us now)
{
    drom_us wait = drom_deadline_wait(&receiver->ditto_until, now);
    wait = drom_sooner(wait, filter_wait(&receiver->filters[USUAL], now));
    return receiver->has_fine ? drom_sooner(wait, filter_wait(&receiver->filters[FINE], now)) : wait;
}
