/* The straight line from an edge to a pin: input, keys, events, rules, outputs. Each poll does one step. */
#include "../compiler.h"

#include "engine_shared.h"

#include "../../include/dromikos/internal/keys.h"
#include "../../include/dromikos/internal/kept.h"
#include "../../include/dromikos/internal/queue.h"
#include "../../include/dromikos/internal/receive.h"
#include "../../include/dromikos/internal/rules.h"

/* Interval for updating the medium's state while a key is held or the line isn't quiet. */
enum { LOOK_US = 2000 };

/* While there is more to do, every third poll is the outputs'. A key that arrives then delays them by a poll
 * for its frame and one for its first action. */
enum { OTHER_TURNS = 2, KEY_TURNS = 6 };

/* Rules and events precede input until input has waited for this long; then they alternate. */
enum { INPUT_WAITS_US = 5000 };

void drom_engine_take_key_event(void *context, const drom_key_event *event)
{
    enum { LONGEST_MS = 32767 };
    drom_engine *const engine = context;
    const drom_observer *const observer = drom_observer_of(&engine->rules);
    const drom_us held_ms = DROM_WITH_NUMBERS ? event->held_us / 1000 : 0;
    if (observer != NULL && observer->key != NULL) {
        observer->key(observer->context, event);
    }
    if (DROM_WITH_CARRIER && event->gesture == DROM_PRESS) { /* its frame may have been taken for a repeat */
        engine->timing.air.other_at = engine->timing.now;
        engine->timing.air.is_free = false;
        engine->timing.air.is_other = false;
    }
    (void)drom_events_post(&engine->events,
                           &(drom_event){.source = DROM_SOURCE_KEY,
                                         .row = event->handset,
                                         .key = event->key,
                                         .gesture = event->gesture,
                                         .hold = event->hold,
                                         .value = (int16_t)(held_ms < LONGEST_MS ? held_ms : LONGEST_MS)});
}

static drom_us heard_until(const drom_engine *engine)
{
    return drom_input_heard_until(drom_engine_port(engine), engine->timing.now);
}

/* True while received edges are our own transmission. */
DROM_NOINLINE static bool is_hearing_itself(const drom_engine *engine, drom_us now)
{
    return DROM_WITH_CARRIER && engine->timing.air.is_muted &&
           drom_is_due(now, engine->timing.air.transmit_from);
}

/* True if edges are waiting for the receiver. */
DROM_NOINLINE static bool has_edges_left(const drom_engine *engine)
{
    return engine->input.has_edge || !drom_input_is_empty(&engine->input, drom_engine_port(engine));
}

static bool is_line_active(const drom_engine *engine)
{
    const drom_port DROM_FLASH *const port = drom_engine_port(engine);
    return DROM_WITH_INTERVALS && port->intervals != NULL && port->intervals->line_is_active(port->context);
}

static bool has_posts(const drom_engine *engine)
{
    const drom_events_plan DROM_FLASH *const plan = &drom_engine_plan(engine)->events;
    bool has = DROM_WITH_POSTS && drom_posts_wait(&engine->posts);
    for (uint8_t i = 0; DROM_WITH_POSTS && i < plan->posts.count; i++) {
        has |= drom_posts_wait(&plan->posts.rows[i]);
    }
    return has;
}

DROM_NOINLINE drom_us drom_engine_read_clock(drom_engine *engine)
{
    const drom_port DROM_FLASH *const port = drom_engine_port(engine);
    engine->timing.now = port->clock->now(port->context);
    return engine->timing.now;
}

bool drom_engine_is_behind(const drom_engine *engine)
{
    return engine->events.count > 0 || !drom_rules_are_done(&engine->rules) || engine->input.has_frame ||
           has_edges_left(engine) || has_posts(engine);
}

/* Passes the next event to the rules; false if there is none. */
static bool take_event(drom_engine *engine)
{
    drom_event event;
    if (!drom_events_take(&engine->events, &event)) {
        return false;
    }
    drom_rules_take(&engine->rules, &event);
    return true;
}

/* Queues a post, if there is one. Posts are taken when no other event is queued, and from one source after
 * the other: they take no places of keys, and no source blocks another. */
static bool take_post(drom_engine *engine)
{
    const drom_events_plan DROM_FLASH *const plan = &drom_engine_plan(engine)->events;
    drom_event event;
    bool has_taken = false;
    for (uint8_t i = 0; DROM_WITH_POSTS && !has_taken && i <= plan->posts.count; i++) {
        drom_posts *const posts =
            engine->post_turn > 0 ? &plan->posts.rows[engine->post_turn - 1] : &engine->posts;
        engine->post_turn = (uint8_t)(engine->post_turn < plan->posts.count ? engine->post_turn + 1 : 0);
        has_taken = drom_posts_take(posts, &event) && drom_events_post(&engine->events, &event);
    }
    return has_taken;
}

static drom_wait look_at_contacts(drom_engine *engine)
{
    return DROM_WITH_INPUTS
               ? drom_contacts_pass(&drom_engine_plan(engine)->contacts, drom_engine_port(engine),
                                    &engine->keys, &engine->events, engine->timing.now)
               : DROM_LONG;
}

/* True while a rule about any code is queued or running: the newest frame must not change. */
static bool is_frame_wanted(const drom_engine *engine)
{
    return DROM_WITH_HEARD &&
           (drom_events_have(&engine->events, DROM_SOURCE_HEARD) ||
            (engine->rules.event.source == DROM_SOURCE_HEARD && !drom_rules_are_done(&engine->rules)));
}

/* Passes the frame to the keys; or first what was due before the frame, as the queue has room for one of the
 * two. */
static void take_frame(drom_engine *engine)
{
    const drom_observer *const observer = drom_observer_of(&engine->rules);
    drom_input *const input = &engine->input;
    if (drom_keys_wait(&engine->keys, input->frame.at) == 0) {
        (void)drom_keys_advance(&engine->keys, input->frame.at);
        return;
    }
    input->has_frame = false;
    if (observer != NULL && observer->frame != NULL) {
        observer->frame(observer->context, &input->frame);
    }
    if (DROM_WITH_HEARD && input->frame.kind != DROM_FRAME_BOUNDARY &&
        drom_rules_hear(&drom_engine_plan(engine)->rules)) {
        (void)drom_events_post(&engine->events, &(drom_event){.source = DROM_SOURCE_HEARD});
    }
    drom_keys_frame(&engine->keys, &input->frame);
}

/* Ends a transmission whose echo is over. Edges received meanwhile were our own: the receiver starts again,
 * and no key counts as released for a frame that was covered. */
DROM_NOINLINE static void end_transmission_by(drom_engine *engine, drom_us now)
{
    drom_air *const air = &engine->timing.air;
    if (!DROM_WITH_CARRIER || !drom_deadline_passed(&air->echo, now)) {
        return;
    }
    if (air->is_muted) {
        drom_keys_mute(&engine->keys, air);
        drom_keys_expect(&engine->keys, air->echo.at, false, &air->expected);
        drom_receiver_edge(&engine->input.receiver,
                           &(drom_edge){.at = air->echo.at, .is_mark = air->is_mark, .after_loss = true}, 0);
    }
    air->is_transmitting = false;
    air->is_muted = false;
    drom_deadline_arm(&engine->next, engine->timing.now, 0);
}

/* Passes the edge to the receiver, after receiver and keys have advanced to its time: on a line that is never
 * quiet, releases have no other time. A frame found on the way is handled first. */
static void give_edge(drom_engine *engine)
{
    drom_air *const air = &engine->timing.air;
    drom_input *const input = &engine->input;
    const drom_us at = input->edge.at;
    end_transmission_by(engine, at);
    const bool is_echo = is_hearing_itself(engine, at);
    if (!is_echo) {
        const drom_progress progress = drom_input_advance(input, at);
        if (progress == DROM_GOES_ON || progress == DROM_HEARD) {
            return; /* enough for one poll; a frame comes first */
        }
        if (drom_keys_wait(&engine->keys, at) == 0) {
            (void)drom_keys_advance(&engine->keys, at); /* enough for one poll */
            return;
        }
        drom_input_give(input);
    }
    if (input->edge.is_mark) { /* an unexpected signal lasts until the line is quiet */
        const bool goes_on = air->is_other && at - air->other_at < DROM_QUIET_US;
        air->is_other = !is_echo && (goes_on || !drom_air_expects(air, at));
    }
    air->other_at = air->is_other ? at : air->other_at;
    air->is_mark = input->edge.is_mark;
    air->is_quiet = false;
    input->has_edge = false;
}

/* Updates the state of the medium, for outputs that transmit or block the processor. Returns the wait until
 * the next update. */
static drom_wait watch_air(drom_engine *engine, drom_us now)
{
    drom_air *const air = &engine->timing.air;
    if (DROM_WITH_CARRIER + DROM_WITH_PIXELS == 0) {
        return DROM_LONG;
    }
    const drom_us quiet_us = now - engine->input.edge.at;
    const bool is_over = air->is_quiet || quiet_us >= DROM_LONGEST_PAUSE_US ||
                         !drom_receiver_is_within(&engine->input.receiver);
    air->is_quiet |= is_over && !air->is_mark && quiet_us >= DROM_QUIET_US && !is_line_active(engine);
    drom_keys_expect(&engine->keys, now, air->is_quiet, &air->expected);
    const bool may_go_on = !is_over && !drom_air_expects(air, now);
    air->is_free =
        air->is_quiet ||
        (DROM_WITH_CARRIER && now - air->other_at >= (may_go_on ? DROM_LONGEST_PAUSE_US : DROM_QUIET_US));
    return air->expected.next.is_armed || !air->is_quiet ? LOOK_US : DROM_LONG;
}

/* Advances receiver, keys and medium to now, while no edge is waiting. Returns the wait until the next call.
 */
static drom_wait pass(drom_engine *engine)
{
    const drom_us now = heard_until(engine);
    end_transmission_by(engine, now); /* after the edges before it */
    const drom_wait echo = drom_deadline_wait(&engine->timing.air.echo, now);
    if (is_hearing_itself(engine, now)) { /* keys and receiver don't advance */
        return drom_shorter(echo, DROM_QUIET_US);
    }
    if (drom_input_advance(&engine->input, now) != DROM_UP_TO_DATE || drom_keys_advance(&engine->keys, now)) {
        return 0;
    }
    return drom_shorter(
        drom_shorter(echo, watch_air(engine, now)),
        drom_shorter(drom_keys_wait(&engine->keys, now), drom_receiver_wait(&engine->input.receiver, now)));
}

/* Handles one step of input: a frame, a post, an edge, or the passing of time. Returns the wait until there
 * is more to do, which was `known` before, and is `touching` for the contacts; 0: there is more.
 * `is_in_between`: rules have more to do, and continue with the next poll. */
static drom_wait look_at_input(drom_engine *engine, drom_wait known, drom_wait touching, bool is_in_between)
{
    drom_input *const input = &engine->input;
    drom_wait wait = drom_shorter(drom_rules_pass(&engine->rules), touching);
    if (is_in_between ? !drom_events_have_room(&engine->events) || is_frame_wanted(engine)
                      : engine->events.count > 0) {
        return 0;
    }
    if (input->has_frame) {
        take_frame(engine);
        if (!is_in_between) {
            (void)take_event(engine);
        }
        return 0;
    }
    if (!is_in_between && take_post(engine)) {
        return 0;
    }
    if (input->has_edge || drom_input_take(input, drom_engine_port(engine), engine->timing.now)) {
        give_edge(engine);
        return input->has_edge ? 0 /* not passed yet */
                               : drom_shorter(drom_shorter(drom_shorter(wait, known), LOOK_US),
                                              drom_receiver_wait(&input->receiver, heard_until(engine)));
    }
    wait = drom_shorter(wait, pass(engine));
    return engine->events.count > 0 ? 0 : wait;
}

/* Does the step that has advanced furthest along the line, unless input has waited too long. Returns the wait
 * until there is more to do, which was `known` before. */
DROM_NOINLINE static drom_wait go_on(drom_engine *engine, drom_wait known)
{
    const drom_us now = engine->timing.now;
    const drom_wait touching = look_at_contacts(engine);
    const bool is_in_between =
        engine->was_busy && (uint16_t)((uint16_t)now - engine->caught_up_at) >= INPUT_WAITS_US;
    engine->was_busy = !is_in_between && (drom_rules_act(&engine->rules) || take_event(engine));
    if (engine->was_busy) {
        return 0;
    }
    const drom_wait wait = look_at_input(engine, known, touching, is_in_between);
    engine->caught_up_at = wait > 0 ? (uint16_t)now : engine->caught_up_at;
    return wait;
}

/* True if this poll is the outputs': every third one while there is more to do, else each. A key precedes
 * them, unless a timed edge would be late. */
static bool is_outputs_turn(drom_engine *engine, bool is_late)
{
    const bool has_key = engine->input.has_frame || drom_rules_have_fired(&engine->rules);
    const bool is_due = !is_late || engine->turn >= OTHER_TURNS + (has_key ? KEY_TURNS : 0) ||
                        (engine->turn >= OTHER_TURNS &&
                         drom_outputs_are_pressed(&drom_engine_plan(engine)->outputs, &engine->timing));
    engine->turn = (uint8_t)(is_due ? 0 : engine->turn + 1);
    return is_due;
}

static drom_wait come_to_rest(drom_engine *engine)
{
    drom_wait wait;
    (void)drom_engine_read_clock(engine);
    if (!drom_engine_is_coming_to_rest(engine, &wait)) {
        engine->state = engine->ends_as;
    }
    return wait;
}

/* Does one step of a running engine. */
static drom_wait go(drom_engine *engine)
{
    drom_timing *const timing = &engine->timing;
    const drom_us now = drom_engine_read_clock(engine);
    const drom_wait echo = DROM_WITH_CARRIER ? drom_deadline_wait(&timing->air.echo, now) : DROM_LONG;
    drom_wait wait = drom_shorter(drom_deadline_wait(&engine->next, now), echo);
    const bool is_late = wait == 0 || drom_engine_is_behind(engine);
    if (has_edges_left(engine) || is_line_active(engine)) {
        timing->air.is_quiet = false;
        timing->air.is_free = DROM_WITH_CARRIER && timing->air.is_free && drom_air_expects(&timing->air, now);
    }
    if (is_outputs_turn(engine, is_late)) {
        wait = drom_shorter(wait, drom_outputs_poll(&drom_engine_plan(engine)->outputs, timing));
#if DROM_WITH_KEPT
        wait = drom_shorter(
            wait, drom_kept_poll(&drom_engine_plan(engine)->kept, &drom_engine_plan(engine)->rules, timing));
#endif
        return is_late ? 0 : wait;
    }
    wait = go_on(engine, wait);
    drom_deadline_arm(&engine->next, now, wait);
    engine->next.is_armed = sizeof wait < sizeof now || wait < DROM_LONG; /* 16 bits: it may be longer */
    return 0;
}

drom_wait drom_engine_poll(drom_engine *engine)
{
    enum { FED_WITHIN_US = 30000 };
    const bool is_guarded =
        DROM_WITH_GUARD && engine->state == DROM_RUNNING && drom_engine_feed_guard(engine);
    if (engine->state == DROM_STOPPING) {
        return come_to_rest(engine);
    }
    if (engine->state != DROM_RUNNING) {
        return DROM_LONG;
    }
    const drom_wait wait = go(engine);
    return is_guarded ? drom_shorter(wait, FED_WITHIN_US) : wait;
}
