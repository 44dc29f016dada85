/* The straight line from an edge to a pin: ring, receiver, keys, rules, outputs. */
#include "dromikos/engine.h"

static void act(const drom_engine *engine, const drom_action DROM_FLASH *rows, uint8_t count)
{
    for (uint8_t i = 0; i < count; i++) {
        const drom_action action = rows[i];
        if (engine->watch != NULL && engine->watch->action != NULL) {
            engine->watch->action(engine->watch->context, &action);
        }
        drom_outputs_act(&engine->plan->outputs, engine->port, &action);
    }
}

static void take_key_event(void *context, const drom_key_event *event)
{
    const drom_engine *const engine = context;
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

drom_status drom_engine_init(drom_engine *engine, const drom_plan DROM_FLASH *plan, const drom_port *port,
                             drom_fault *fault)
{
    if (engine == NULL || plan == NULL || port == NULL) {
        return DROM_BAD_ARGUMENT;
    }
    *engine = (drom_engine){.plan = plan, .port = port};
    if (port->now == NULL || port->write_pin == NULL) {
        return DROM_BAD_PORT;
    }
    const drom_status status = drom_plan_check(plan, fault);
    if (status != DROM_OK) {
        return status;
    }
    (void)drom_ring_init(&engine->ring, plan->receive.edges, plan->receive.edge_count);
    drom_receiver_init(&engine->receiver, &plan->receive);
    drom_keys_init(&engine->keys, &plan->keys, take_key_event, engine);
    drom_outputs_rest(&plan->outputs, port);
    engine->is_running = true;
    return DROM_OK;
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

drom_us drom_engine_poll(drom_engine *engine)
{
    if (!engine->is_running) {
        return DROM_NEVER;
    }
    if (!engine->has_started) {
        engine->has_started = true;
        act(engine, engine->plan->rules.at_start.rows, engine->plan->rules.at_start.count);
    }
    drom_edge edge;
    for (uint8_t i = 0; i <= engine->ring.mask && drom_ring_take(&engine->ring, &edge); i++) {
        advance(engine, edge.at);
        drom_receiver_edge(&engine->receiver, &edge);
    }
    advance(engine, engine->port->now(engine->port->context));
    const drom_us wait = drom_outputs_poll(&engine->plan->outputs, engine->port);
    const drom_us now = engine->port->now(engine->port->context);
    return drom_sooner(
        wait, drom_sooner(drom_receiver_wait(&engine->receiver, now), drom_keys_wait(&engine->keys, now)));
}

void drom_engine_stop(drom_engine *engine)
{
    if (engine->is_running) {
        engine->is_running = false;
        drom_outputs_rest(&engine->plan->outputs, engine->port);
    }
}
