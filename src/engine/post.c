/* What a program passes to a running engine: events and orders of its own code, and intervals that hardware
 * measured. */
#include "../compiler.h"

#include "engine_shared.h"

#include "../../include/dromikos/internal/queue.h"

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
void drom_engine_interval(drom_engine *engine, drom_us end_at, drom_us us, bool is_mark)
{
    drom_interval_ring_put(drom_engine_plan(engine)->receive.intervals, end_at, us, is_mark);
}
#endif

drom_status drom_engine_order(drom_engine *engine, uint8_t output, uint8_t verb, uint32_t value)
{
    if (engine->state != DROM_RUNNING) {
        return DROM_NOT_RUNNING; /* perhaps without a plan */
    }
    const drom_outputs_plan DROM_FLASH *const plan = &drom_engine_plan(engine)->outputs;
    if (output >= plan->outputs.count) {
        return DROM_BAD_ARGUMENT;
    }
#if DROM_WITH_CHECKS
    const drom_output row = plan->outputs.rows[output];
    const drom_output_kind kind = *row.kind;
    if (kind.accepts_action != NULL && !kind.accepts_action(row.settings, verb, value)) {
        return DROM_BAD_ARGUMENT;
    }
#endif
    (void)drom_engine_read_clock(engine);
    drom_outputs_act(plan, &engine->timing, output, verb, value);
    drom_deadline_arm(&engine->next, engine->timing.now, 0);
    return DROM_OK;
}
