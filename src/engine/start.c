/* Starting: the engine checks that features and port suffice for the plan, and puts every output into its
 * rest state. */
#include "../compiler.h"

#include "../check/check.h"
#include "engine_shared.h"

#include "../../include/dromikos/internal/keys.h"
#include "../../include/dromikos/internal/kept.h"
#include "../../include/dromikos/internal/queue.h"
#include "../../include/dromikos/internal/receive.h"
#include "../../include/dromikos/internal/rules.h"

/* True if no feature of the plan is off. A bound program was configured for its plan. */
static bool is_usable(const drom_plan DROM_FLASH *plan)
{
#ifdef DROM_PLAN
    return plan == drom_bound_plan();
#else
    return (drom_plan_uses(plan) & ~drom_features_on()) == 0;
#endif
}

/* Returns the features that the plan's outputs need; in a bound program, at least those. */
static uint32_t needs_of(const drom_engine *engine)
{
#ifdef DROM_PLAN
    (void)engine;
    return drom_features_on();
#else
    const drom_outputs_plan DROM_FLASH *const plan = &drom_engine_plan(engine)->outputs;
    uint32_t needs = 0;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        needs |= plan->outputs.rows[i].kind->needs;
    }
    return needs;
#endif
}

/* True if the store has room for the plan's kept values. */
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

/* True if the port has all that the plan needs. Tables are copied, as avr-gcc 5.4 fails on a flash pointer
 * whose null test is the value of an expression. */
static bool is_enough(const drom_engine *engine)
{
    enum { MAX_PWM_BITS = 16 };
    const drom_port port = *drom_engine_port(engine);
    const uint32_t needs = needs_of(engine);
    const drom_port_pwm DROM_FLASH *const pwm = port.pwm;
    const drom_port_edges edges = port.edges != NULL ? *port.edges : (drom_port_edges){0};
    const bool has_contacts = DROM_WITH_INPUTS && drom_engine_plan(engine)->contacts.contacts.count > 0;
    const bool has_guard = DROM_WITH_GUARD && drom_engine_plan(engine)->guard.ms > 0;
    return port.clock != NULL && port.pins != NULL && (!has_contacts || port.pins->read != NULL) &&
           (!has_guard || port.guard != NULL) && has_store(engine) &&
           ((needs & DROM_USES(PWM)) == 0 || (pwm != NULL && pwm->bits >= 1 && pwm->bits <= MAX_PWM_BITS)) &&
           ((needs & DROM_USES(TIMED_EDGES)) == 0 || port.edges != NULL) &&
           ((needs & DROM_USES(CARRIER)) == 0 || port.burst != NULL || edges.ready_carrier != NULL) &&
           ((needs & DROM_USES(HID)) == 0 || port.hid != NULL) &&
           ((needs & DROM_USES(PIXELS)) == 0 || port.pixels != NULL);
}

void drom_engine_rest(drom_engine *engine, bool is_start)
{
    (void)drom_engine_read_clock(engine);
    drom_outputs_rest(&drom_engine_plan(engine)->outputs, &engine->timing, is_start);
}

drom_status drom_engine_start(drom_engine *engine, const drom_plan DROM_FLASH *plan,
                              const drom_port DROM_FLASH *port)
{
    engine->timing.port = port;
    drom_engine_stop_alarm(engine);
    *engine = (drom_engine){.timing = {.air = {.is_quiet = true, .is_free = true}, .sends_on = DROM_NONE}};
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
    drom_keys_init(&engine->keys, &drom_engine_plan(engine)->keys, drom_engine_take_key_event, engine);
    drom_engine_rest(engine, true);
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
    if (DROM_WITH_HID && (needs_of(engine) & DROM_USES(HID)) != 0) {
        const drom_port DROM_FLASH *const with_hid = drom_engine_port(engine);
        with_hid->hid->attach(with_hid->context);
    }
    drom_engine_start_guard(engine);
    return DROM_OK;
}

drom_status drom_engine_init(drom_engine *engine, const drom_plan DROM_FLASH *plan,
                             const drom_port DROM_FLASH *port, drom_fault *fault)
{
    drom_fault unwanted = {.reason = DROM_REASON_NONE};
    drom_fault *const found = fault != NULL ? fault : &unwanted;
    if (engine == NULL || plan == NULL || port == NULL) {
        return DROM_BAD_ARGUMENT;
    }
    *found = (drom_fault){.reason = DROM_REASON_NONE};
    engine->state = DROM_STOPPED;
#if DROM_WITH_CHECKS
    const drom_port_facts facts = port->facts;
    const drom_status checked = drom_plan_check(plan, &facts, found);
    return checked != DROM_OK ? checked : drom_engine_start(engine, plan, port);
#else
    const drom_status started = drom_engine_start(engine, plan, port);
#ifndef DROM_PLAN
    if (started == DROM_BAD_PLAN) {
        (void)drom_check_features(drom_plan_uses(plan), found);
    }
#endif
    return started;
#endif
}

#if DROM_WITH_OBSERVER
void drom_engine_observe(drom_engine *engine, const drom_observer *observer)
{
    engine->rules.observer = observer;
}
#endif
