/* The straight line from an edge to a pin: ring, receiver, keys, rules, outputs. */
#include "dromikos/engine.h"

static void act(drom_engine *engine, const drom_action DROM_FLASH *rows, uint8_t count)
{
    for (uint8_t i = 0; i < count; i++) {
        const drom_action action = rows[i];
        if (engine->watch != NULL && engine->watch->action != NULL) {
            engine->watch->action(engine->watch->context, &action);
        }
        drom_outputs_act(&engine->plan->outputs, &engine->timing, &action);
    }
}

static void take_key_event(void *context, const drom_key_event *event)
{
    drom_engine *const engine = context;
    const drom_rules_plan DROM_FLASH *const plan = &engine->plan->rules;
    const drom_watch *const watch = engine->watch;
    if (watch != NULL && watch->key != NULL) {
        watch->key(watch->context, event);
    }
    for (uint8_t i = 0; i < plan->rules.count; i++) {
        const drom_rule DROM_FLASH *const rule = &plan->rules.rows[i];
        if (drom_rule_fits(rule, event)) {
            if (watch != NULL && watch->rule != NULL) {
                watch->rule(watch->context, i);
            }
            act(engine, rule->actions.rows, rule->actions.count);
        }
    }
}

/* Does the port have what the plan's outputs need? */
static bool is_enough(const drom_port *port, const drom_outputs_plan DROM_FLASH *plan)
{
    uint8_t needs = 0;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        needs |= plan->outputs.rows[i].kind->needs;
    }
    const bool has_alarm = port->arm_alarm != NULL;
    return ((needs & DROM_NEEDS_PWM) == 0 || port->write_pwm != NULL) &&
           ((needs & DROM_NEEDS_STEPS) == 0 || (has_alarm && port->toggle_pin != NULL)) &&
           ((needs & DROM_NEEDS_CARRIER) == 0 || (has_alarm && port->ready_carrier != NULL)) &&
           ((needs & DROM_NEEDS_PIXELS) == 0 || port->send_pixels != NULL);
}

static void rest(drom_engine *engine)
{
    drom_timing *const timing = &engine->timing;
    drom_cues_drop(&timing->cues);
    if (timing->port->arm_alarm != NULL) {
        timing->port->arm_alarm(timing->port->context, &timing->cues);
    }
    timing->now = timing->port->now(timing->port->context);
    drom_outputs_rest(&engine->plan->outputs, timing);
}

drom_status drom_engine_start(drom_engine *engine, const drom_plan DROM_FLASH *plan, const drom_port *port)
{
    *engine = (drom_engine){.plan = plan, .timing = {.port = port, .air = {.is_quiet = true}}};
    if (port->now == NULL || port->write_pin == NULL || !is_enough(port, &plan->outputs)) {
        return DROM_BAD_PORT;
    }
    drom_receiver_init(&engine->receiver, &plan->receive);
    drom_keys_init(&engine->keys, &plan->keys, take_key_event, engine);
    rest(engine);
    engine->is_running = true;
    return DROM_OK;
}

drom_status drom_engine_init(drom_engine *engine, const drom_plan DROM_FLASH *plan, const drom_port *port,
                             drom_fault *fault)
{
    if (engine == NULL || plan == NULL || port == NULL) {
        return DROM_BAD_ARGUMENT;
    }
    *engine = (drom_engine){.plan = plan};
    const drom_status status = drom_plan_check(plan, fault);
    return status != DROM_OK ? status : drom_engine_start(engine, plan, port);
}

void drom_engine_watch(drom_engine *engine, const drom_watch *watch)
{
    engine->watch = watch;
}

/* Brings receiver and keys up to a moment. At most one frame comes of the end of a run and one of the silence
 * after it, so the loop runs three times at most. */
static void advance(drom_engine *engine, drom_us now)
{
    drom_frame frame;
    while (drom_receiver_advance(&engine->receiver, now, &frame)) {
        if (engine->watch != NULL && engine->watch->frame != NULL) {
            engine->watch->frame(engine->watch->context, &frame);
        }
        drom_keys_frame(&engine->keys, &frame);
    }
    drom_keys_advance(&engine->keys, now);
}

/* What came while we talked was our echo, or drowned in it: the receiver starts anew after it, and no key counts as
 * released for a frame that we couldn't hear. */
static void end_talk(drom_engine *engine)
{
    drom_air *const air = &engine->timing.air;
    const drom_us until = air->talk_until + DROM_ECHO_US;
    if (air->is_deaf) {
        drom_keys_deaf(&engine->keys, air->talk_from, until);
        drom_receiver_edge(&engine->receiver, &(drom_edge){.at = until, .is_mark = air->is_mark, .after_loss = true}, 0);
    }
    air->is_talking = false;
    air->is_deaf = false;
}

/* By how much an edge's time may be wrong, since interrupts were masked. It is set to the middle of the time in which
 * it may have been. */
static uint16_t unmask(const drom_engine *engine, drom_edge *edge)
{
    const drom_us into = edge->at - engine->masked_from;
    if (engine->masked_us == 0 || into > engine->masked_us + engine->timing.port->facts.latency_us ||
        into > UINT16_MAX) {
        return 0;
    }
    edge->at -= into / 2;
    return (uint16_t)(into / 2);
}

/* The ring has 15 bits of an edge's time. The first of several that wait was not long ago, unless main has been kept
 * for 32 ms; it may even have come since `now` was read. The others follow it by less than that. */
static drom_us date(const drom_engine *engine, uint16_t low)
{
    const drom_us from = engine->has_more ? engine->edge_at : engine->timing.now + 1000;
    return engine->has_more ? from + ((low - from) & 0x7fff) : from - ((from - low) & 0x7fff);
}

/* Takes one edge in. False when there is none. */
static bool take_edge(drom_engine *engine)
{
    drom_air *const air = &engine->timing.air;
    drom_edge edge;
    uint16_t slot;
    if (!drom_ring_take(&engine->ring, &slot, &edge.after_loss)) {
        engine->has_more = false;
        return false;
    }
    edge.is_mark = slot & 1;
    edge.at = date(engine, slot >> 1);
    engine->edge_at = edge.at;
    engine->has_more = true;
    const uint16_t slack_us = unmask(engine, &edge);
    if (air->is_talking && air->has_last_edge && drom_is_due(edge.at, air->talk_until + DROM_ECHO_US)) {
        end_talk(engine);
    }
    air->is_mark = edge.is_mark;
    air->is_quiet = false;
    air->heard_at = edge.at;
    if (!air->is_deaf || !drom_is_due(edge.at, air->talk_from)) {
        advance(engine, edge.at);
        drom_receiver_edge(&engine->receiver, &edge, slack_us);
    }
    return true;
}

/* No edge is waiting: time itself may bring things about. */
static void pass(drom_engine *engine)
{
    drom_air *const air = &engine->timing.air;
    const drom_us now = engine->timing.now;
    if (air->is_talking && air->has_last_edge && drom_is_due(now, air->talk_until + DROM_ECHO_US)) {
        end_talk(engine);
    }
    if (!air->is_deaf || !drom_is_due(now, air->talk_from)) {
        advance(engine, now);
    }
    if (!air->is_quiet && !air->is_mark) {
        const drom_us quiet_us = now - air->heard_at;
        air->is_quiet = quiet_us >= DROM_QUIET_US && (quiet_us >= DROM_LONGEST_PAUSE_US ||
                                                      !drom_receiver_is_within(&engine->receiver));
    }
    air->next_frame = drom_keys_next_frame(&engine->keys, now);
}

/* The wait until the engine itself has something to do. */
static drom_us next_wait(const drom_engine *engine)
{
    const drom_air *const air = &engine->timing.air;
    const drom_us now = engine->timing.now;
    const drom_us echo = air->is_talking && air->has_last_edge
                             ? drom_until(now, air->talk_until + DROM_ECHO_US)
                             : DROM_NEVER;
    if (air->is_deaf) { /* keys and receiver stand still */
        return echo;
    }
    return drom_sooner(echo, drom_sooner(drom_keys_wait(&engine->keys, now),
                                         drom_receiver_wait(&engine->receiver, now)));
}

drom_us drom_engine_poll(drom_engine *engine)
{
    drom_timing *const timing = &engine->timing;
    if (!engine->is_running) {
        return DROM_NEVER;
    }
    timing->now = timing->port->now(timing->port->context);
    if (!engine->has_started) {
        engine->has_started = true;
        act(engine, engine->plan->rules.at_start.rows, engine->plan->rules.at_start.count);
    }
    const bool has_edge = take_edge(engine);
    if (!has_edge) {
        pass(engine);
    }
    const drom_us wait = drom_outputs_poll(&engine->plan->outputs, timing);
    return has_edge ? 0 : drom_sooner(wait, next_wait(engine));
}

void drom_engine_idle(drom_engine *engine, drom_us wait)
{
    drom_timing *const timing = &engine->timing;
    const drom_port *const port = timing->port;
    if (engine->is_running && drom_ring_is_empty(&engine->ring)) {
        timing->now = port->now(port->context);
        timing->air.soonest = drom_receiver_soonest(&engine->receiver, timing->now);
        if (drom_outputs_refresh(&engine->plan->outputs, timing)) {
            if (!port->facts.can_slice) {
                engine->masked_from = timing->now;
                engine->masked_us = port->now(port->context) - timing->now;
            }
            return;
        }
    }
    if (wait > 0 && port->sleep != NULL) {
        port->sleep(port->context, wait);
    }
}

void drom_engine_stop(drom_engine *engine)
{
    if (engine->is_running) {
        engine->is_running = false;
        rest(engine);
    }
}
