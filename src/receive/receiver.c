/* Edges in, frames out. Three things happen here and nowhere else: a run too short to be anybody's is taken
 * for a glitch and merged into its neighbours, a long run ends the burst, and a ditto is believed only after
 * a frame of the same protocol. An edge is therefore held back until the run that it starts has outlasted a
 * glitch. */
#include "dromikos/receive.h"

#include "fingerprint.h"

static void forget_burst(drom_receiver *receiver)
{
    const drom_receive_plan DROM_FLASH *const plan = receiver->plan;
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        plan->decoders[i].phase = 0;
    }
    if (plan->fingerprint != NULL) {
        plan->fingerprint->count = 0;
    }
    receiver->intervals = 0;
    receiver->is_recognised = false;
}

void drom_receiver_init(drom_receiver *receiver, const drom_receive_plan DROM_FLASH *plan)
{
    *receiver = (drom_receiver){.plan = plan, .is_long = true, .glitch_us = UINT16_MAX};
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        const uint16_t glitch_us = plan->protocols.rows[i]->glitch_us;
        if (glitch_us < receiver->glitch_us) {
            receiver->glitch_us = glitch_us;
        }
    }
    forget_burst(receiver);
}

/* A ditto has no numbers, so it says nothing unless a frame of its protocol came shortly before. */
static bool is_believed(drom_receiver *receiver, const drom_frame *frame)
{
    if (frame->is_ditto && (!receiver->ditto_until.is_armed || receiver->ditto_of != frame->code.protocol)) {
        return false;
    }
    receiver->ditto_of = frame->code.protocol;
    drom_deadline_arm(&receiver->ditto_until, frame->at, DROM_DITTO_MS * (drom_us)1000);
    return true;
}

static bool step_decoders(drom_receiver *receiver, const drom_interval *interval, drom_frame *frame)
{
    const drom_receive_plan DROM_FLASH *const plan = receiver->plan;
    bool is_heard = false;
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        const drom_protocol DROM_FLASH *const protocol = plan->protocols.rows[i];
        drom_frame heard;
        if (protocol->step(protocol, &plan->decoders[i], interval, &heard) && is_believed(receiver, &heard)) {
            heard.intervals = receiver->intervals;
            *frame = heard;
            is_heard = true;
        }
    }
    return is_heard;
}

/* The run that the line was in is over: it becomes an interval. */
static bool end_run(drom_receiver *receiver, drom_frame *frame)
{
    const drom_us length = receiver->pending_at - receiver->since;
    const drom_interval interval = {
        .at = receiver->since,
        .us = receiver->is_long || length > UINT16_MAX ? UINT16_MAX : (uint16_t)length,
        .is_mark = receiver->is_mark,
    };
    if (receiver->is_long) {
        receiver->burst_at = receiver->pending_at;
    } else if (receiver->intervals < UINT16_MAX) {
        receiver->intervals++;
    }
    receiver->since = receiver->pending_at;
    receiver->is_mark = !receiver->is_mark;
    receiver->is_pending = false;
    receiver->is_long = false;
    if (receiver->is_mark && receiver->plan->fingerprint != NULL) {
        drom_fingerprint_mark(receiver->plan->fingerprint, receiver->since);
    }
    const bool is_heard = step_decoders(receiver, &interval, frame);
    receiver->is_recognised |= is_heard;
    return is_heard;
}

/* True when the burst was of some length and nobody knew it. */
static bool end_burst(drom_receiver *receiver, drom_frame *frame)
{
    const drom_fingerprint *const fingerprint = receiver->plan->fingerprint;
    const bool is_unknown = fingerprint != NULL && !receiver->is_recognised &&
                            receiver->intervals >= DROM_UNKNOWN_LEAST_INTERVALS;
    if (is_unknown) {
        *frame = (drom_frame){
            .code = {.protocol = &drom_unknown, .address = drom_fingerprint_take(fingerprint)},
            .at = receiver->burst_at,
            .intervals = receiver->intervals,
        };
    }
    forget_burst(receiver);
    receiver->is_long = true;
    return is_unknown;
}

static bool has_run_long(const drom_receiver *receiver, drom_us now)
{
    return !receiver->is_long && drom_is_due(now, receiver->since + DROM_BURST_GAP_US);
}

bool drom_receiver_advance(drom_receiver *receiver, drom_us now, drom_frame *frame)
{
    (void)drom_deadline_passed(&receiver->ditto_until, now);
    if (has_run_long(receiver, receiver->is_pending ? receiver->pending_at : now) &&
        end_burst(receiver, frame)) {
        return true;
    }
    if (receiver->is_pending && drom_is_due(now, receiver->pending_at + receiver->glitch_us) &&
        end_run(receiver, frame)) {
        return true;
    }
    return !receiver->is_pending && has_run_long(receiver, now) && end_burst(receiver, frame);
}

void drom_receiver_edge(drom_receiver *receiver, const drom_edge *edge)
{
    const bool level = receiver->is_mark != receiver->is_pending;
    if (edge->after_loss || edge->is_mark == level) { /* the intervals up to here can't be trusted */
        forget_burst(receiver);
        receiver->is_recognised = true;
        receiver->since = edge->at;
        receiver->is_mark = edge->is_mark;
        receiver->is_long = false;
        receiver->is_pending = false;
    } else if (receiver->is_pending) { /* advance() found it shorter than a glitch */
        receiver->is_pending = false;
    } else {
        receiver->pending_at = edge->at;
        receiver->is_pending = true;
    }
}

drom_us drom_receiver_wait(const drom_receiver *receiver, drom_us now)
{
    drom_us wait = drom_deadline_wait(&receiver->ditto_until, now);
    if (receiver->is_pending) {
        wait = drom_sooner(wait, drom_until(now, receiver->pending_at + receiver->glitch_us));
    } else if (!receiver->is_long) {
        wait = drom_sooner(wait, drom_until(now, receiver->since + DROM_BURST_GAP_US));
    }
    return wait;
}

bool drom_receiver_is_busy(const drom_receiver *receiver)
{
    return receiver->is_pending || !receiver->is_long;
}
