/* The straight line from an edge to a pin: ring, receiver, keys, rules, outputs. */
#include "../include/dromikos/engine.h"

#include "bound.h"

#include <string.h>

/* While a key is down or the line is not yet quiet, what the air has to know changes with time. */
enum { LOOK_US = 2000 };

/* Where there is much to hear, the outputs have every third poll; every other one while few timed edges are
 * made ahead. */
enum { HEARING_TURNS = 2, FEW_EDGES_US = 2500 };

/* On a line that is never still, in sunlight say, there is always more to hear. After so many polls, 10 ms or
 * so, a strip has its refresh nevertheless, as long as no frame can be complete before it is over; where one
 * can, it asks again after some more, since asking takes time, too. */
enum { MAX_PASSED_OVER = 100, ASK_AGAIN = 30 };

static void take_key_event(void *context, const drom_key_event *event)
{
    enum { LONGEST_MS = 32767 };
    drom_engine *const engine = context;
    const drom_observer *const observer = drom_observer_of(&engine->rules);
    const drom_us held_ms = DROM_WITH_NUMBERS ? event->held_us / 1000 : 0;
    if (observer != NULL && observer->key != NULL) {
        observer->key(observer->context, event);
    }
    (void)drom_events_post(&engine->events,
                           &(drom_event){.source = DROM_SOURCE_KEY,
                                         .row = event->handset,
                                         .key = event->key,
                                         .gesture = event->gesture,
                                         .hold = event->hold,
                                         .value = (int16_t)(held_ms < LONGEST_MS ? held_ms : LONGEST_MS)});
}

/* A program that is bound to a plan has been compiled for what that uses. */
static const drom_plan DROM_FLASH *plan_of(const drom_engine *engine)
{
    (void)engine;
#ifdef DROM_PLAN
    return &DROM_PLAN;
#else
    return engine->plan;
#endif
}

static bool is_usable(const drom_plan DROM_FLASH *plan)
{
#ifdef DROM_PLAN
    return plan == &DROM_PLAN;
#else
    return (drom_plan_uses(plan) & ~DROM_USABLE) == 0;
#endif
}

/* Does the port have what the plan's outputs need? */
static bool is_enough(const drom_engine *engine)
{
    enum { MAX_PWM_BITS = 16 };
    const drom_port DROM_FLASH *const port = drom_port_of(&engine->timing);
#ifdef DROM_PLAN
    const uint8_t needs = (uint8_t)DROM_USABLE; /* what it was compiled for */
#else
    const drom_outputs_plan DROM_FLASH *const plan = &plan_of(engine)->outputs;
    uint8_t needs = 0;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        needs |= plan->outputs.rows[i].kind->needs;
    }
#endif
    return port->clock != NULL && port->pins != NULL &&
           ((needs & DROM_USES_PWM) == 0 ||
            (port->pwm != NULL && port->pwm->bits >= 1 && port->pwm->bits <= MAX_PWM_BITS)) &&
           ((needs & DROM_USES_TIMED_EDGES) == 0 || port->edges != NULL) &&
           ((needs & DROM_USES_CARRIER) == 0 || port->burst != NULL ||
            (port->edges != NULL && port->edges->ready_carrier != NULL)) &&
           ((needs & DROM_USES_PIXELS) == 0 || port->pixels != NULL);
}

/* The alarm is off before anything is done to the ring that its handler takes timed edges from. */
static void stop_alarm(drom_engine *engine)
{
    const drom_port DROM_FLASH *const port = drom_port_of(&engine->timing);
    if (DROM_WITH_TIMED_EDGES && port->edges != NULL) {
        port->edges->stop(port->context);
    }
}

static void rest(drom_engine *engine)
{
    drom_timing *const timing = &engine->timing;
    timing->now = drom_port_of(timing)->clock->now(drom_port_of(timing)->context);
    drom_outputs_rest(&plan_of(engine)->outputs, timing);
}

drom_status drom_engine_start(drom_engine *engine, const drom_plan DROM_FLASH *plan,
                              const drom_port DROM_FLASH *port)
{
    engine->timing.port = port;
    stop_alarm(engine);
    *engine = (drom_engine){.timing = {.air = {.is_quiet = true}}};
    engine->plan = plan;
    engine->timing.port = port;
    if (!is_usable(plan)) {
        return DROM_BAD_PLAN;
    }
    if (port != drom_port_of(&engine->timing) || !is_enough(engine)) {
        return DROM_BAD_PORT;
    }
    if (DROM_WITH_INTERVALS && port->intervals != NULL && plan->receive.intervals == NULL) {
        return DROM_BAD_PLAN;
    }
    drom_receiver_init(&engine->receiver, &plan_of(engine)->receive);
    drom_keys_init(&engine->keys, &plan_of(engine)->keys, take_key_event, engine);
    rest(engine);
    engine->rules.plan = &plan->rules;
    engine->rules.outputs = &plan->outputs;
    engine->rules.events = &engine->events;
    engine->rules.timing = &engine->timing;
    drom_rules_init(&engine->rules);
    (void)drom_events_post(&engine->events, &(drom_event){.source = DROM_SOURCE_START});
    drom_deadline_arm(&engine->next, engine->timing.now, 0);
    engine->state = DROM_RUNNING;
    return DROM_OK;
}

#if DROM_WITH_CHECKS
drom_status drom_engine_init(drom_engine *engine, const drom_plan DROM_FLASH *plan,
                             const drom_port DROM_FLASH *port, drom_fault *fault)
{
    if (engine == NULL || plan == NULL || port == NULL) {
        return DROM_BAD_ARGUMENT;
    }
    engine->state = DROM_STOPPED;
    const drom_port_facts facts = port->facts;
    const drom_status status = drom_plan_check(plan, &facts, fault);
    return status != DROM_OK ? status : drom_engine_start(engine, plan, port);
}
#endif

#if DROM_WITH_OBSERVER
void drom_engine_observe(drom_engine *engine, const drom_observer *observer)
{
    engine->rules.observer = observer;
}
#endif

#if DROM_WITH_INTERVALS
void drom_engine_interval(drom_engine *engine, uint8_t input, drom_us end_at, drom_us us, bool is_mark)
{
    if (input == 0) {
        drom_interval_ring_put(plan_of(engine)->receive.intervals, end_at, us, is_mark);
    }
}
#endif

/* Brings the receiver nearer to a moment. A frame that it gave is for the next poll: so that none has to both
 * find a frame and do all that it brings about. */
DROM_APART static drom_progress advance(drom_engine *engine, drom_us now)
{
    const drom_progress progress = drom_receiver_step(&engine->receiver, now, &engine->frame);
    engine->has_frame = progress == DROM_HEARD;
    return progress;
}

/* What a frame brings about. */
static void take_frame(drom_engine *engine)
{
    const drom_observer *const observer = drom_observer_of(&engine->rules);
    if (drom_keys_advance(&engine->keys, engine->frame.at)) {
        return; /* the queue has room for one handset's events, and the frame's */
    }
    engine->has_frame = false;
    if (observer != NULL && observer->frame != NULL) {
        observer->frame(observer->context, &engine->frame);
    }
    drom_keys_frame(&engine->keys, &engine->frame);
}

/* What the rules make of the next event; false: none waits. */
static bool take_event(drom_engine *engine)
{
    drom_event event;
    if (!drom_events_take(&engine->events, &event)) {
        return false;
    }
    drom_rules_take(&engine->rules, &event);
    return true;
}

/* By how much an edge's time may be wrong, since interrupts were masked and no hardware latched it. It is set
 * back by so much: to the middle of the time in which it may have been. */
static uint16_t unmask(const drom_engine *engine, drom_edge *edge)
{
    const drom_port DROM_FLASH *const port = drom_port_of(&engine->timing);
    if (engine->masked_us == 0 || port->facts.stamp == DROM_STAMP_HARDWARE) {
        return 0;
    }
    const drom_us into = edge->at - engine->masked_from;
    if (into > engine->masked_us + port->facts.latency_us || into > UINT16_MAX) {
        return 0;
    }
    edge->at -= into / 2;
    return (uint16_t)(into / 2);
}

/* The ring has 15 bits of an edge's time. The first of several that wait was not long ago, unless main has
 * been kept for 32 ms; it may even have come since `now` was read. The others follow it by less than that. */
static drom_us date(const drom_engine *engine, uint16_t low)
{
    const drom_us from =
        engine->has_more ? engine->edge.at + engine->tolerance_us : engine->timing.now + 1000;
    return engine->has_more ? from + ((uint16_t)(low - (uint16_t)from) & 0x7fff)
                            : from - ((uint16_t)((uint16_t)from - low) & 0x7fff);
}

/* What comes in now is our own. */
static bool is_hearing_itself(const drom_engine *engine, drom_us now)
{
    return DROM_WITH_CARRIER && engine->timing.air.is_muted &&
           drom_is_due(now, engine->timing.air.transmit_from);
}

/* Takes an edge of an interval: where it begins, unless the one before ended there, and where it ends. */
static bool next_edge_of_interval(drom_engine *engine)
{
    drom_interval_ring *const ring = plan_of(engine)->receive.intervals;
    if (drom_interval_ring_is_empty(ring)) {
        return false;
    }
    const drom_interval_slot slot = *drom_interval_ring_first(ring);
    const drom_us begins_at = slot.end_at - slot.us;
    const bool has_begun = engine->edge.at == begins_at && engine->edge.is_mark == slot.is_mark;
    engine->edge = has_begun ? (drom_edge){slot.end_at, !slot.is_mark, false}
                             : (drom_edge){begins_at, slot.is_mark, slot.after_loss};
    if (has_begun) {
        drom_interval_ring_take(ring);
    }
    engine->has_edge = true;
    return true;
}

/* Takes an edge out of the ring. False when there is none. */
static bool next_edge(drom_engine *engine)
{
    if (DROM_WITH_INTERVALS && drom_port_of(&engine->timing)->intervals != NULL) {
        return next_edge_of_interval(engine);
    }
    uint16_t slot;
    bool after_loss;
    if (!drom_ring_take(&engine->ring, &slot, &after_loss)) {
        engine->has_more = false;
        return false;
    }
    engine->edge = (drom_edge){date(engine, slot >> 1), slot & 1, after_loss};
    engine->tolerance_us = unmask(engine, &engine->edge);
    engine->has_more = true;
    engine->has_edge = true;
    return true;
}

static bool has_unheard(const drom_engine *engine)
{
    if (DROM_WITH_INTERVALS && drom_port_of(&engine->timing)->intervals != NULL) {
        return !drom_interval_ring_is_empty(plan_of(engine)->receive.intervals);
    }
    return !drom_ring_is_empty(&engine->ring);
}

/* Up to when all edges are known by now. */
static drom_us heard_until(const drom_engine *engine)
{
    const drom_port DROM_FLASH *const port = drom_port_of(&engine->timing);
    return DROM_WITH_INTERVALS && port->intervals != NULL ? engine->timing.now - port->intervals->late_us
                                                          : engine->timing.now;
}

/* Is something known that hasn't been dealt with? */
static bool is_behind(const drom_engine *engine)
{
    return engine->events.count > 0 || !drom_rules_are_done(&engine->rules) || engine->has_frame ||
           engine->has_edge || has_unheard(engine);
}

/* What came while we transmitted was our echo, or drowned in it: the receiver starts anew after it, and no
 * key counts as released for a frame that we couldn't hear. */
DROM_APART static void end_transmission_by(drom_engine *engine, drom_us now)
{
    drom_air *const air = &engine->timing.air;
    if (!DROM_WITH_CARRIER || !drom_deadline_passed(&air->echo, now)) {
        return;
    }
    if (air->is_muted) {
        drom_keys_mute(&engine->keys, air->transmit_from, air->echo.at);
        drom_receiver_edge(&engine->receiver,
                           &(drom_edge){.at = air->echo.at, .is_mark = air->is_mark, .after_loss = true}, 0);
    }
    air->is_transmitting = false;
    air->is_muted = false;
    drom_deadline_arm(&engine->next, engine->timing.now, 0);
}

/* Gives the edge to the receiver, once that has come up to it without finding a frame, and the keys have come
 * up to it, too: on a line that is never still, no other moment comes for a release. */
static void give_edge(drom_engine *engine)
{
    drom_air *const air = &engine->timing.air;
    const drom_us at = engine->edge.at;
    end_transmission_by(engine, at);
    if (!is_hearing_itself(engine, at)) {
        const drom_progress progress = advance(engine, at);
        if (progress == DROM_GOES_ON || progress == DROM_HEARD) {
            return; /* that was enough for one poll, and a frame goes first if there is one */
        }
        if (drom_keys_wait(&engine->keys, at) == 0) {
            (void)drom_keys_advance(&engine->keys, at); /* which was enough, too */
            return;
        }
        drom_receiver_edge(&engine->receiver, &engine->edge, engine->tolerance_us);
    }
    air->is_mark = engine->edge.is_mark;
    air->is_quiet = false;
    engine->has_edge = false;
}

/* Where a machine measures intervals, a burst may be on the air of which nothing is known as yet. */
static bool is_line_active(const drom_engine *engine)
{
    const drom_port DROM_FLASH *const port = drom_port_of(&engine->timing);
    return DROM_WITH_INTERVALS && port->intervals != NULL && port->intervals->line_is_active(port->context);
}

/* No edge is waiting: time itself may bring things about, for keys and air. The wait until it may again. */
static drom_wait pass(drom_engine *engine)
{
    drom_air *const air = &engine->timing.air;
    const drom_us now = heard_until(engine);
    const drom_wait echo = drom_deadline_wait(&air->echo, now);
    if (is_hearing_itself(engine, now)) { /* keys and receiver stand still */
        return drom_shorter(echo, DROM_QUIET_US);
    }
    if (drom_keys_advance(&engine->keys, now)) {
        return 0;
    }
    drom_wait look_again = DROM_LONG;
    if (DROM_WITH_CARRIER || DROM_WITH_PIXELS) { /* those that want to transmit, or keep the processor */
        const drom_us quiet_us = now - engine->edge.at;
        if (!air->is_quiet && !air->is_mark && quiet_us >= DROM_QUIET_US && !is_line_active(engine)) {
            air->is_quiet = quiet_us >= DROM_LONGEST_PAUSE_US || !drom_receiver_is_within(&engine->receiver);
        }
        const drom_us next_frame = drom_keys_next_frame(&engine->keys, now);
        air->next_frame = (drom_deadline){now + next_frame, next_frame != DROM_NEVER};
        look_again = air->next_frame.is_armed || !air->is_quiet ? LOOK_US : DROM_LONG;
    }
    return drom_shorter(
        drom_shorter(echo, look_again),
        drom_shorter(drom_keys_wait(&engine->keys, now), drom_receiver_wait(&engine->receiver, now)));
}

static drom_wait come_to_rest(drom_engine *engine)
{
    drom_wait wait;
    if (!drom_outputs_come_to_rest(&plan_of(engine)->outputs, &engine->timing, &wait)) {
        engine->state = DROM_STOPPED;
    }
    return wait;
}

/* The next thing on the line from an edge to an action. The wait until there is more to do, which was `known`
 * until now. */
static drom_wait go_on(drom_engine *engine, drom_wait known)
{
    const drom_us now = heard_until(engine);
    if (drom_rules_act(&engine->rules) || take_event(engine)) {
        return 0;
    }
    const drom_wait wait = drom_rules_pass(&engine->rules);
    if (wait == 0) {
        return 0;
    }
    if (engine->has_frame) {
        take_frame(engine);
        (void)take_event(engine);
        return 0;
    }
    if (engine->has_edge || next_edge(engine)) {
        give_edge(engine);
        return engine->has_edge ? 0 /* it wasn't taken yet */
                                : drom_shorter(drom_shorter(drom_shorter(wait, known), LOOK_US),
                                               drom_receiver_wait(&engine->receiver, now));
    }
    end_transmission_by(engine, now); /* after the edges before it */
    if (!is_hearing_itself(engine, now) && advance(engine, now) != DROM_UP_TO_DATE) {
        return 0;
    }
    const drom_wait passing = pass(engine);
    return engine->events.count > 0 ? 0 : drom_shorter(wait, passing);
}

drom_wait drom_engine_poll(drom_engine *engine)
{
    drom_timing *const timing = &engine->timing;
    if (engine->state == DROM_STOPPED) {
        return DROM_LONG;
    }
    timing->now = drom_port_of(timing)->clock->now(drom_port_of(timing)->context);
    if (engine->state == DROM_STOPPING) {
        return come_to_rest(engine);
    }
    drom_wait wait = drom_deadline_wait(&engine->next, timing->now);
    if (DROM_WITH_CARRIER) {
        wait = drom_shorter(wait, drom_deadline_wait(&timing->air.echo, timing->now));
    }
    const bool is_late = is_behind(engine) || wait == 0;
    const bool are_edges_few = timing->edges_from != DROM_NO_OUTPUT &&
                               drom_until(timing->now, timing->timed_edges.last_at) < FEW_EDGES_US;
    const uint8_t turns = are_edges_few ? HEARING_TURNS - 1 : HEARING_TURNS;
    engine->turn = (uint8_t)(is_late && engine->turn < turns ? engine->turn + 1 : 0);
    const bool is_pressed = engine->has_frame || drom_rules_have_fired(&engine->rules);
    if (engine->has_edge || has_unheard(engine) || is_line_active(engine)) {
        timing->air.is_quiet = false; /* what comes in is yet to be given to the receiver */
    }
    if (engine->turn == 0 && !is_pressed) { /* a key goes before all else */
        const drom_wait outputs_wait = drom_outputs_poll(&plan_of(engine)->outputs, timing);
        return is_late ? 0 : drom_shorter(outputs_wait, wait);
    }
    wait = go_on(engine, wait);
    drom_deadline_arm(&engine->next, timing->now, wait);
    engine->next.is_armed = DROM_LONG < DROM_NEVER || wait < DROM_LONG; /* a short one may be longer */
    return 0;
}

/* Is no handset's frame lost when the processor is busy for so long? */
static bool is_allowed(const drom_engine *engine, drom_wait us)
{
    const drom_timing *const timing = &engine->timing;
    const bool is_at_rest = timing->air.is_quiet || timing->air.is_muted;
    const drom_wait soonest = is_at_rest ? 0 : drom_receiver_soonest(&engine->receiver, heard_until(engine));
    return drom_air_allows_refresh(timing, us, soonest);
}

/* Refreshes a strip, if one wants to and nothing is late for it. */
static bool refresh(drom_engine *engine)
{
    drom_timing *const timing = &engine->timing;
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    uint8_t row = 0;
    timing->now = port->clock->now(port->context);
    const drom_wait us = drom_outputs_want(&plan_of(engine)->outputs, timing, &row);
    if (us == 0) {
        return false;
    }
    if (engine->state != DROM_STOPPING && !is_allowed(engine, us)) {
        return false;
    }
    const drom_output DROM_FLASH *const output = &plan_of(engine)->outputs.outputs.rows[row];
    output->kind->refresh(output->settings, output->state, timing);
    if (!port->pixels->can_slice) {
        engine->masked_from = timing->now;
        const drom_us took = port->clock->now(port->context) - timing->now;
        engine->masked_us = took > UINT16_MAX ? UINT16_MAX : (uint16_t)took;
    }
    return true;
}

void drom_engine_idle(drom_engine *engine, drom_wait wait)
{
    const drom_port DROM_FLASH *const port = drom_port_of(&engine->timing);
    const bool is_idle = wait > 0 && (engine->state == DROM_STOPPING || !is_behind(engine));
    const bool is_starved = !engine->has_frame && drom_rules_are_done(&engine->rules) &&
                            engine->passed_over == MAX_PASSED_OVER && drom_ring_can_wait(&engine->ring);
    if (!is_idle && !is_starved) {
        engine->passed_over = (uint8_t)(engine->passed_over + (engine->passed_over < MAX_PASSED_OVER));
        return;
    }
    const bool is_refreshed = engine->state != DROM_STOPPED && refresh(engine);
    engine->passed_over = is_idle || is_refreshed ? 0 : MAX_PASSED_OVER - ASK_AGAIN;
    if (is_idle && !is_refreshed && port->clock->sleep != NULL) {
        port->clock->sleep(port->context, wait);
    }
}

void drom_engine_stop(drom_engine *engine)
{
    if (engine->state == DROM_RUNNING) {
        drom_wait wait;
        stop_alarm(engine);
        drom_outputs_take_edges_back(&plan_of(engine)->outputs, &engine->timing);
        rest(engine);
        drom_rules_init(&engine->rules);
        engine->events.count = 0;
        engine->state = drom_outputs_come_to_rest(&plan_of(engine)->outputs, &engine->timing, &wait)
                            ? DROM_STOPPING
                            : DROM_STOPPED;
    }
}
