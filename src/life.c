/* The engine's life: it starts with every output at rest, and stops with every output at rest. */
#include "line.h"

/* A key event goes to the observer, and behind the events that wait. */
static void take_key_event(void *context, const drom_key_event *event)
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

static bool is_usable(const drom_plan DROM_FLASH *plan)
{
#ifdef DROM_PLAN
    return plan == drom_bound_plan();
#else
    return (drom_plan_uses(plan) & ~DROM_USABLE) == 0;
#endif
}

/* What the plan's outputs need. */
static uint8_t needs_of(const drom_engine *engine)
{
#ifdef DROM_PLAN
    (void)engine;
    return (uint8_t)DROM_USABLE; /* what it was compiled for */
#else
    const drom_outputs_plan DROM_FLASH *const plan = &drom_engine_plan(engine)->outputs;
    uint8_t needs = 0;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        needs |= plan->outputs.rows[i].kind->needs;
    }
    return needs;
#endif
}

static bool has_guard(const drom_engine *engine)
{
    return DROM_WITH_GUARD && drom_engine_plan(engine)->guard.ms > 0;
}

/* Is there a store with room for what is kept, if something is? */
static bool has_store(const drom_engine *engine)
{
#if DROM_WITH_KEPT
    const uint8_t values = drom_engine_plan(engine)->kept.values.count;
    if (values > 0) {
        const drom_port_store DROM_FLASH *const store = drom_engine_port(engine)->store;
        if (store == NULL) {
            return false;
        }
        const drom_port_store copy = *store;
        return drom_kept_slots(&copy, values) > 0;
    }
#else
    (void)engine;
#endif
    return true;
}

/* Does the port have what the plan's outputs need? Tables are copied, since avr-gcc 5.4 breaks down over a
 * pointer in flash whose being null is the value of an expression. */
static bool is_enough(const drom_engine *engine)
{
    enum { MAX_PWM_BITS = 16 };
    const drom_port port = *drom_engine_port(engine);
    const uint8_t needs = needs_of(engine);
    const drom_port_pwm DROM_FLASH *const pwm = port.pwm;
    const drom_port_edges edges = port.edges != NULL ? *port.edges : (drom_port_edges){0};
    const bool has_contacts = DROM_WITH_INPUTS && drom_engine_plan(engine)->contacts.contacts.count > 0;
    return port.clock != NULL && port.pins != NULL && (!has_contacts || port.pins->read != NULL) &&
           (!has_guard(engine) || port.guard != NULL) && has_store(engine) &&
           ((needs & DROM_USES_PWM) == 0 || (pwm != NULL && pwm->bits >= 1 && pwm->bits <= MAX_PWM_BITS)) &&
           ((needs & DROM_USES_TIMED_EDGES) == 0 || port.edges != NULL) &&
           ((needs & DROM_USES_CARRIER) == 0 || port.burst != NULL || edges.ready_carrier != NULL) &&
           ((needs & DROM_USES_HID) == 0 || port.hid != NULL) &&
           ((needs & DROM_USES_PIXELS) == 0 || port.pixels != NULL);
}

/* The alarm is off before anything is done to the ring that its handler takes timed edges from. */
static void stop_alarm(drom_engine *engine)
{
    const drom_port DROM_FLASH *const port = drom_engine_port(engine);
    if (DROM_WITH_TIMED_EDGES && port->edges != NULL) {
        port->edges->stop(port->context);
    }
}

/* The guard's table, where something is guarded; a copy, for the same reason. */
static bool find_guard(const drom_engine *engine, drom_port_guard *guard)
{
    if (!has_guard(engine)) {
        return false;
    }
    const drom_port_guard DROM_FLASH *const found = drom_engine_port(engine)->guard;
    *guard = *found;
    return true;
}

static void start_guard(drom_engine *engine)
{
    drom_port_guard guard;
    if (find_guard(engine, &guard)) {
        const drom_guard_plan DROM_FLASH *const plan = &drom_engine_plan(engine)->guard;
        guard.start(drom_engine_port(engine)->context, plan->ms, plan->pins.rows, plan->pins.count);
    }
}

static void stop_guard(drom_engine *engine)
{
    drom_port_guard guard;
    if (find_guard(engine, &guard)) {
        guard.stop(drom_engine_port(engine)->context);
    }
}

static void rest(drom_engine *engine, bool is_start)
{
    (void)drom_engine_read_clock(engine);
    drom_outputs_rest(&drom_engine_plan(engine)->outputs, &engine->timing, is_start);
}

drom_status drom_engine_start(drom_engine *engine, const drom_plan DROM_FLASH *plan,
                              const drom_port DROM_FLASH *port)
{
    engine->timing.port = port;
    stop_alarm(engine);
    *engine = (drom_engine){.timing = {.air = {.is_quiet = true, .is_free = true}}};
    engine->plan = plan;
    engine->timing.port = port;
    if (!is_usable(plan)) {
        return DROM_BAD_PLAN;
    }
    if (port != drom_engine_port(engine) || !is_enough(engine)) {
        return DROM_BAD_PORT;
    }
    if (DROM_WITH_INTERVALS && port->intervals != NULL && plan->receive.intervals == NULL) {
        return DROM_BAD_PLAN;
    }
    drom_input_init(&engine->input, &drom_engine_plan(engine)->receive);
    drom_keys_init(&engine->keys, &drom_engine_plan(engine)->keys, take_key_event, engine);
    rest(engine, true);
    engine->rules.plan = &plan->rules;
    engine->rules.outputs = &plan->outputs;
    engine->rules.events = &engine->events;
    engine->rules.timing = &engine->timing;
    drom_rules_init(&engine->rules);
#if DROM_WITH_KEPT
    drom_kept_begin(&drom_engine_plan(engine)->kept, &drom_engine_plan(engine)->rules, port);
#endif
    for (uint8_t i = 0; DROM_WITH_POSTS && i < plan->events.posts.count; i++) {
        drom_posts_clear(&plan->events.posts.rows[i]);
    }
    if (DROM_WITH_INPUTS) {
        drom_contacts_init(&drom_engine_plan(engine)->contacts, engine->timing.now);
    }
    (void)drom_events_post(&engine->events, &(drom_event){.source = DROM_SOURCE_START});
    drom_deadline_arm(&engine->next, engine->timing.now, 0);
    engine->rested_at = engine->timing.now;
    engine->caught_up_at = (uint16_t)engine->timing.now;
    engine->state = DROM_RUNNING;
    if (DROM_WITH_HID && (needs_of(engine) & DROM_USES_HID) != 0) {
        const drom_port DROM_FLASH *const machine = drom_engine_port(engine);
        machine->hid->attach(machine->context);
    }
    start_guard(engine);
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

#if DROM_WITH_POSTS
drom_status drom_engine_post(drom_engine *engine, uint8_t row, int16_t value)
{
    return engine->state != DROM_RUNNING                ? DROM_NOT_RUNNING
           : drom_posts_put(&engine->posts, row, value) ? DROM_OK
                                                        : DROM_FULL;
}

drom_status drom_engine_post_from(drom_engine *engine, uint8_t source, uint8_t row, int16_t value)
{
    if (engine->state != DROM_RUNNING) {
        return DROM_NOT_RUNNING;
    }
    const drom_events_plan DROM_FLASH *const plan = &drom_engine_plan(engine)->events;
    const drom_port DROM_FLASH *const port = drom_engine_port(engine);
    if (source >= plan->posts.count) {
        return DROM_BAD_ARGUMENT;
    }
    const bool has_room = drom_posts_put(&plan->posts.rows[source], row, value);
    if (has_room && port->clock->wake != NULL) {
        port->clock->wake(port->context);
    }
    return has_room ? DROM_OK : DROM_FULL;
}
#endif

#if DROM_WITH_INTERVALS
void drom_engine_interval(drom_engine *engine, uint8_t input, drom_us end_at, drom_us us, bool is_mark)
{
    if (input == 0) {
        drom_interval_ring_put(drom_engine_plan(engine)->receive.intervals, end_at, us, is_mark);
    }
}
#endif

bool drom_engine_is_coming_to_rest(drom_engine *engine, drom_wait *wait)
{
    bool is_coming = drom_outputs_come_to_rest(&drom_engine_plan(engine)->outputs, &engine->timing, wait);
#if DROM_WITH_KEPT
    is_coming |= drom_kept_end(&drom_engine_plan(engine)->kept, &engine->timing, wait);
#endif
    return is_coming;
}

static void end(drom_engine *engine, uint8_t state)
{
    drom_wait wait;
    stop_alarm(engine);
    drom_outputs_take_edges_back(&drom_engine_plan(engine)->outputs, &engine->timing);
    rest(engine, false);
#if DROM_WITH_KEPT
    drom_kept_stop(&drom_engine_plan(engine)->kept, &drom_engine_plan(engine)->rules);
#endif
    drom_rules_init(&engine->rules);
    engine->events.count = 0;
    stop_guard(engine);
    engine->ends_as = state;
    engine->state = drom_engine_is_coming_to_rest(engine, &wait) ? DROM_STOPPING : state;
}

void drom_engine_stop(drom_engine *engine)
{
    if (engine->state == DROM_RUNNING) {
        end(engine, DROM_STOPPED);
    }
}

#if DROM_WITH_GUARD
bool drom_engine_feed_guard(drom_engine *engine)
{
    drom_port_guard guard;
    if (!find_guard(engine, &guard)) {
        return false;
    }
    if (guard.has_acted(drom_engine_port(engine)->context)) {
        end(engine, DROM_FAULT);
    } else {
        guard.feed(drom_engine_port(engine)->context);
    }
    return true;
}
#endif
