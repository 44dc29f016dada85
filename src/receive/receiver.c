/* From edges to frames.
 *
 * Only the receiver does this: it treats intervals shorter than any protocol allows as glitches and merges
 * them into their neighbours; ends the frames that only silence can end, and the burst; takes the best of
 * several claims to a frame; and accepts dittos only after a whole frame.
 *
 * An edge is held back until its interval has outlasted a glitch. Protocols with short marks have a filter of
 * their own, so that others don't get their noise. */
#include "../compiler.h"

#include "../../include/dromikos/internal/receive.h"

#include "../bound.h"

enum {
    LONGEST_GLITCH_US = 300, /* for protocols without a value of their own: longer than any noise */
    UNKNOWN_GLITCH_US = 120, /* marks of an unknown handset may be short */
    LONGEST_BIT_US = 2500,   /* a longer mark is a leader, and needs no silence before it */
};

/* Number of decoders that receive the end of an interval per call. */
enum { DECODERS_A_STEP = 2 };

/* Intervals of this length or longer are reported as 65535. */
#define STALE_US 65000

/* The age of the current interval. */
enum age { SHORT, LONG /* over DROM_BURST_GAP_US */, STALE };

static bool is_fine(const drom_protocol DROM_FLASH *protocol)
{
    return protocol->glitch_us < DROM_FINE_US;
}

/* True if a protocol uses the fine filter. */
static bool is_behind(const drom_receiver *receiver, const drom_filter *filter,
                      const drom_protocol DROM_FLASH *protocol)
{
    drom_filter *const fine = drom_receiver_plan(receiver)->fine;
    return fine == NULL || is_fine(protocol) == (filter == fine);
}

/* Resets the decoders of a filter, or all; those in a pause of their frame stay there, if allowed. */
static void forget_frames(drom_receiver *receiver, drom_filter *filter, bool is_pause_kept)
{
    const drom_receive_plan DROM_FLASH *const plan = drom_receiver_plan(receiver);
    drom_decoder *decoder = plan->decoders;
    const drom_protocol_ref DROM_FLASH *row = plan->protocols.rows;
    for (uint8_t left = plan->protocols.count; left > 0; left--, decoder++, row++) {
        const bool stays = is_pause_kept && decoder->phase == DROM_PHASE_PAUSE;
        if (!stays && (filter == NULL || is_behind(receiver, filter, *row))) {
            decoder->phase = DROM_PHASE_IDLE;
        }
    }
}

static void begin_filter(drom_filter *filter, uint16_t glitch_us)
{
    *filter = (drom_filter){
        .run = {.before_us = UINT16_MAX}, .glitch_us = glitch_us, .awaited_us = UINT16_MAX, .age = STALE};
}

void drom_receiver_init(drom_receiver *receiver, const drom_receive_plan DROM_FLASH *plan)
{
    receiver->plan = plan;
    drom_filter *const fine = drom_receiver_plan(receiver)->fine;
    drom_fingerprint *const memory = drom_receiver_plan(receiver)->unknown.memory;
    receiver->repeat_until.is_armed = false;
    begin_filter(&receiver->usual, memory != NULL ? UNKNOWN_GLITCH_US : LONGEST_GLITCH_US);
    if (memory != NULL) {
        *memory = (drom_fingerprint){0};
    }
    if (fine != NULL) {
        begin_filter(fine, LONGEST_GLITCH_US);
    }
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        const drom_protocol_ref protocol = plan->protocols.rows[i];
        drom_filter *const filter = fine != NULL && is_fine(protocol) ? fine : &receiver->usual;
        filter->glitch_us = protocol->glitch_us < filter->glitch_us ? protocol->glitch_us : filter->glitch_us;
    }
    forget_frames(receiver, NULL, false);
}

/* True if the frame counts. A ditto is valid only shortly after a whole frame, and then belongs to its
 * protocol, as all dittos are alike. A frame without its leader needs one with it before. */
static bool is_believable(const drom_receiver *receiver, const drom_frame *frame)
{
    const drom_protocol_ref before = receiver->repeat_of;
    const bool is_repeat_frame = frame->kind == DROM_FRAME_REPEAT;
    if (!is_repeat_frame && frame->kind != DROM_FRAME_HEADERLESS) {
        return true;
    }
    return receiver->repeat_until.is_armed &&
           (is_repeat_frame ? before->has_ditto : before == frame->protocol);
}

static void believe(drom_receiver *receiver, drom_frame *frame)
{
    if (frame->kind == DROM_FRAME_REPEAT) {
        frame->protocol = receiver->repeat_of;
    }
    receiver->repeat_of = frame->protocol;
    drom_deadline_arm(&receiver->repeat_until, frame->at, DROM_DITTO_MS * (drom_us)1000);
}

/* True if the plan has a longer protocol that begins like this one. */
static bool has_rival(const drom_receive_plan DROM_FLASH *plan, const drom_protocol DROM_FLASH *protocol)
{
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        const drom_protocol_ref other = plan->protocols.rows[i];
        if (other->group == protocol->group && other->length > protocol->length) {
            return true;
        }
    }
    return false;
}

/* True if a frame of an idle decoder's protocol could begin here. */
static bool can_begin(const drom_protocol DROM_FLASH *protocol, const drom_interval *mark)
{
    return mark->us >= protocol->first_mark_min_us && mark->us <= protocol->first_mark_max_us &&
           (mark->before_us >= protocol->lead_in_us || mark->us > LONGEST_BIT_US);
}

/* True if a decoder needs this interval. A continuing silence is only for decoders that wait for it; if an
 * edge comes instead, the frame was another protocol's. */
static bool is_concerned(const drom_protocol DROM_FLASH *protocol, drom_decoder *decoder,
                         const drom_interval *run, bool is_open)
{
    if (decoder->phase == DROM_PHASE_WAIT) {
        if (!is_open) {
            decoder->phase = DROM_PHASE_IDLE;
        }
        return is_open && run->us >= protocol->silence_us;
    }
    return decoder->phase == DROM_PHASE_IDLE ? can_begin(protocol, run) : !is_open;
}

/* Steps one decoder, which may claim the frame. A claim that wouldn't count is ignored, or it could block
 * another protocol's. */
DROM_NOINLINE static void step(const drom_receiver *receiver, uint8_t i, const drom_interval *run,
                               drom_frame *frame)
{
    const drom_receive_plan DROM_FLASH *const plan = drom_receiver_plan(receiver);
    const drom_protocol_ref protocol = plan->protocols.rows[i];
    drom_decoder *const decoder = &plan->decoders[i];
    const drom_protocol_ref before = frame->protocol;
    drom_frame second;
    /* cppcheck-suppress uninitvar */ /* filled by the decoder, if it has a frame */
    drom_frame *const claim = before == NULL ? frame : &second;
    const drom_heard heard = protocol->step(protocol, decoder, run, claim);
    const bool is_whole = heard == DROM_FRAME || (heard == DROM_MAYBE && !has_rival(plan, protocol));
    if (is_whole) {
        decoder->phase = DROM_PHASE_IDLE;
    }
    if (!is_whole || !is_believable(receiver, claim)) {
        frame->protocol = before;
    } else if (before != NULL && protocol->rank < before->rank) {
        *frame = second;
    }
}

/* Steps the decoders of a filter. Of several frames the one of the lowest rank is taken; the frame's protocol
 * is null until there is one. Only `left` decoders receive the end of an interval per call; filter->row is
 * the next. */
static bool step_decoders(drom_receiver *receiver, drom_filter *filter, bool is_open, drom_frame *frame,
                          uint8_t *left)
{
    const drom_receive_plan DROM_FLASH *const plan = drom_receiver_plan(receiver);
    const drom_interval *const run = &filter->run;
    uint8_t i = filter->row;
    if (plan->protocols.count == 0) {
        return false;
    }
    if (i == 0) {
        filter->awaited_us = UINT16_MAX;
        frame->protocol = NULL;
    }
    drom_decoder *decoder = &plan->decoders[i];
    const drom_protocol_ref DROM_FLASH *row = &plan->protocols.rows[i];
    for (; i < plan->protocols.count; i++, decoder++, row++) {
        if (decoder->phase == DROM_PHASE_IDLE && !run->is_mark) {
            continue; /* a frame begins with a mark */
        }
        const drom_protocol_ref protocol = *row;
        if (!is_behind(receiver, filter, protocol)) {
            continue;
        }
        if (is_concerned(protocol, decoder, run, is_open)) {
            if (!is_open && *left == 0) {
                filter->row = i; /* not the first: at least one was possible */
                return false;
            }
            if (!is_open) {
                --*left;
            }
            step(receiver, i, run, frame);
        }
        if (decoder->phase == DROM_PHASE_WAIT && protocol->silence_us < filter->awaited_us) {
            filter->awaited_us = protocol->silence_us;
        }
    }
    filter->row = 0;
    if (frame->protocol == NULL) {
        return false;
    }
    believe(receiver, frame);
    frame->code.protocol = frame->protocol->number;
    drom_fingerprint *const memory = plan->unknown.memory;
    forget_frames(receiver, NULL, true); /* its marks belong to no other frame */
    filter->awaited_us = UINT16_MAX;
    frame->lasted_us = run->at + (is_open ? 0 : run->us) - frame->at;
    if (memory != NULL) {
        memory->is_reported = true;
    }
    return true;
}

/* Ends the current interval, once all decoders have received it. */
static bool end_run(drom_receiver *receiver, drom_filter *filter, drom_frame *frame, uint8_t *left)
{
    drom_interval *const run = &filter->run;
    const drom_us length = filter->pending_at - run->at;
    drom_fingerprint *const memory = drom_receiver_plan(receiver)->unknown.memory;
    run->us = filter->age == STALE || length > UINT16_MAX ? UINT16_MAX : (uint16_t)length;
    if (filter == &receiver->usual && memory != NULL && filter->row == 0) {
        drom_receiver_plan(receiver)->unknown.functions->take_run(memory, run, filter->pending_at);
    }
    const bool is_heard = step_decoders(receiver, filter, false, frame, left);
    if (filter->row != 0) {
        return false;
    }
    run->at = filter->pending_at;
    run->before_us = run->us;
    run->is_mark = !run->is_mark;
    if (filter->tolerant_runs > 0 && --filter->tolerant_runs == 0) {
        run->tolerance_us = 0;
    }
    filter->is_pending = false;
    filter->age = SHORT;
    return is_heard;
}

/* Returns the length of the current interval, up to a pending edge; 65535 for anything longer. */
static uint16_t run_so_far(const drom_filter *filter, drom_us now)
{
    const drom_wait us = drom_until(filter->run.at, filter->is_pending ? filter->pending_at : now);
    return us > UINT16_MAX ? UINT16_MAX : (uint16_t)us;
}

/* True if a burst was long enough, no decoder recognised it, and none waits for the rest of it. */
static bool end_burst(drom_receiver *receiver, drom_frame *frame)
{
    const drom_receive_plan DROM_FLASH *const plan = drom_receiver_plan(receiver);
    drom_fingerprint *const memory = plan->unknown.memory;
    if (memory == NULL) {
        return false;
    }
    memory->is_reported |= drom_receiver_is_within(receiver);
    return plan->unknown.functions->end_burst(memory, receiver->usual.run.at, frame);
}

/* Handles a continuing interval: silence that a decoder waits for, the end of the burst, and the longest
 * length. */
static bool grow_run(drom_receiver *receiver, drom_filter *filter, drom_us now, drom_frame *frame)
{
    drom_interval *const run = &filter->run;
    if (filter->age == STALE) {
        return false;
    }
    run->us = run_so_far(filter, now);
    if (!run->is_mark && run->us >= filter->awaited_us &&
        step_decoders(receiver, filter, true, frame, NULL)) {
        return true;
    }
    if (filter->age == SHORT && run->us >= DROM_BURST_GAP_US) {
        filter->age = LONG;
        forget_frames(receiver, filter,
                      true); /* no frame contains such a silence, unless its protocol says so */
        filter->awaited_us = UINT16_MAX;
        if (filter == &receiver->usual && end_burst(receiver, frame)) {
            return true;
        }
    }
    if (run->us >= STALE_US) {
        filter->age = STALE;
    }
    return false;
}

/* Advances one filter to a time, or towards it. Does at most one thing that completes a frame. */
static drom_progress advance_filter(drom_receiver *receiver, drom_filter *filter, drom_us now,
                                    drom_frame *frame, uint8_t *left)
{
    if (filter->row == 0 && grow_run(receiver, filter, now, frame)) {
        return DROM_HEARD;
    }
    if (!filter->is_pending || !drom_is_due(now, filter->pending_at + filter->glitch_us)) {
        return DROM_UP_TO_DATE;
    }
    return end_run(receiver, filter, frame, left) ? DROM_HEARD : DROM_GOES_ON;
}

/* Passes the ends of intervals to at most `left` decoders. */
static drom_progress advance(drom_receiver *receiver, drom_us now, drom_frame *frame, uint8_t max)
{
    drom_filter *const fine = drom_receiver_plan(receiver)->fine;
    uint8_t left = max;
    drom_progress progress;
    (void)drom_deadline_passed(&receiver->repeat_until, now);
    do {
        progress = DROM_UP_TO_DATE;
        if (fine != NULL &&
            receiver->usual.row == 0) { /* `frame` belongs to one filter until that filter has finished */
            progress = advance_filter(receiver, fine, now, frame, &left);
        }
        if (progress == DROM_UP_TO_DATE) {
            progress = advance_filter(receiver, &receiver->usual, now, frame, &left);
        }
    } while (progress == DROM_GOES_ON && left > 0);
    return progress == DROM_UP_TO_DATE && left < max ? DROM_CAUGHT_UP : progress;
}

drom_progress drom_receiver_step(drom_receiver *receiver, drom_us now, drom_frame *frame)
{
    return advance(receiver, now, frame, DECODERS_A_STEP);
}

bool drom_receiver_advance(drom_receiver *receiver, drom_us now, drom_frame *frame)
{
    drom_progress progress;
    do { /* each time less is due */
        progress = advance(receiver, now, frame, UINT8_MAX);
    } while (progress == DROM_GOES_ON);
    return progress == DROM_HEARD;
}

/* Edges were lost: the intervals up to here are invalid. */
static void begin_anew(drom_receiver *receiver, drom_filter *filter, const drom_edge *edge)
{
    drom_fingerprint *const memory = drom_receiver_plan(receiver)->unknown.memory;
    begin_filter(filter, filter->glitch_us);
    filter->run = (drom_interval){.at = edge->at, .is_mark = edge->is_mark};
    filter->age = SHORT;
    forget_frames(receiver, NULL, false);
    if (memory != NULL) {
        memory->is_reported = true;
    }
}

static void take_edge(drom_receiver *receiver, drom_filter *filter, const drom_edge *edge,
                      uint16_t tolerance_us)
{
    const bool level = filter->run.is_mark != filter->is_pending;
    if (tolerance_us > filter->run.tolerance_us) {
        /* it applies to the interval that ends, the one that begins, and the bit after */
        filter->run.tolerance_us = tolerance_us;
        filter->tolerant_runs = 3;
    }
    if (edge->after_loss || edge->is_mark == level) {
        begin_anew(receiver, filter, edge);
    } else if (filter->is_pending) { /* advance() found that it is shorter than a glitch */
        filter->is_pending = false;
    } else {
        filter->pending_at = edge->at;
        filter->is_pending = true;
    }
}

void drom_receiver_edge(drom_receiver *receiver, const drom_edge *edge, uint16_t tolerance_us)
{
    drom_filter *const fine = drom_receiver_plan(receiver)->fine;
    take_edge(receiver, &receiver->usual, edge, tolerance_us);
    if (fine != NULL) {
        take_edge(receiver, fine, edge, tolerance_us);
    }
}

bool drom_receiver_is_within(const drom_receiver *receiver)
{
    const drom_decoder *decoder = drom_receiver_plan(receiver)->decoders;
    bool is_within = false;
    for (uint8_t left = drom_receiver_plan(receiver)->protocols.count; left > 0; left--, decoder++) {
        is_within |= decoder->phase != DROM_PHASE_IDLE;
    }
    return is_within;
}

DROM_NOINLINE drom_wait drom_receiver_soonest(const drom_receiver *receiver, drom_us now)
{
    const drom_receive_plan DROM_FLASH *const plan = drom_receiver_plan(receiver);
    drom_filter *const fine = plan->fine;
    drom_wait soonest = DROM_LONG;
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        const drom_protocol_ref protocol = plan->protocols.rows[i];
        const drom_decoder *const decoder = &plan->decoders[i];
        const drom_interval *const run = &(fine != NULL && is_fine(protocol) ? fine : &receiver->usual)->run;
        const bool is_idle = decoder->phase == DROM_PHASE_IDLE;
        if (decoder->phase == DROM_PHASE_WAIT) {
            return 0;
        }
        drom_us from = now;
        drom_us us = protocol->min_ms * (drom_us)1000;
        if ((is_idle || decoder->count == 0) && protocol->has_ditto && us > DROM_DITTO_MIN_US) {
            us = DROM_DITTO_MIN_US;
        }
        if (!is_idle) {
            from = decoder->at;
        } else if (run->is_mark) { /* it may be the first of a frame, which no decoder has received */
            from = run->at;
        }
        soonest = drom_shorter(soonest, drom_until(now, from + us));
    }
    return soonest;
}

static drom_wait filter_wait(const drom_filter *filter, drom_us now)
{
    if (filter->is_pending) {
        return drom_until(now, filter->pending_at + filter->glitch_us);
    }
    if (filter->age == STALE) {
        return DROM_LONG;
    }
    uint16_t until_us = filter->age == SHORT ? DROM_BURST_GAP_US : STALE_US;
    if (!filter->run.is_mark && filter->awaited_us < until_us) {
        until_us = filter->awaited_us;
    }
    return drom_until(now, filter->run.at + until_us);
}

drom_wait drom_receiver_wait(const drom_receiver *receiver, drom_us now)
{
    drom_filter *const fine = drom_receiver_plan(receiver)->fine;
    drom_wait wait = drom_deadline_wait(&receiver->repeat_until, now);
    wait = drom_shorter(wait, filter_wait(&receiver->usual, now));
    return fine != NULL ? drom_shorter(wait, filter_wait(fine, now)) : wait;
}
