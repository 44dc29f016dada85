/* The guard: the port puts pins to rest if the program stops polling. */
#include "../compiler.h"

#include "engine_shared.h"

#if DROM_WITH_GUARD

/* Copies the guard's table, as avr-gcc 5.4 fails on a flash pointer whose null test is the value of an
 * expression. False if the plan has no guard. */
static bool find_guard(const drom_engine *engine, drom_port_guard *guard)
{
    if (drom_engine_plan(engine)->guard.ms == 0) {
        return false;
    }
    const drom_port_guard DROM_FLASH *const found = drom_engine_port(engine)->guard;
    *guard = *found;
    return true;
}

void drom_engine_start_guard(drom_engine *engine)
{
    drom_port_guard guard;
    if (find_guard(engine, &guard)) {
        const drom_guard_plan DROM_FLASH *const plan = &drom_engine_plan(engine)->guard;
        guard.start(drom_engine_port(engine)->context, plan->ms, plan->pins.rows, plan->pins.count);
    }
}

bool drom_engine_feed_guard(drom_engine *engine)
{
    drom_port_guard guard;
    if (!find_guard(engine, &guard)) {
        return false;
    }
    if (guard.has_acted(drom_engine_port(engine)->context)) {
        drom_engine_end(engine, DROM_FAULT);
    } else {
        guard.feed(drom_engine_port(engine)->context);
    }
    return true;
}

void drom_engine_stop_guard(drom_engine *engine)
{
    drom_port_guard guard;
    if (find_guard(engine, &guard)) {
        guard.stop(drom_engine_port(engine)->context);
    }
}
#endif
