/* Stopping: every output goes to its rest state, and what must end ends. */
#include "../compiler.h"

#include "engine_shared.h"

#include "../../include/dromikos/internal/kept.h"
#include "../../include/dromikos/internal/rules.h"

void drom_engine_stop_alarm(drom_engine *engine)
{
    const drom_port DROM_FLASH *const port = drom_engine_port(engine);
    if (DROM_WITH_TIMED_EDGES && port->edges != NULL) {
        port->edges->stop(port->context);
    }
}

bool drom_engine_is_coming_to_rest(drom_engine *engine, drom_wait *wait)
{
    bool is_coming = drom_outputs_come_to_rest(&drom_engine_plan(engine)->outputs, &engine->timing, wait);
#if DROM_WITH_KEPT
    is_coming |= drom_kept_end(&drom_engine_plan(engine)->kept, &engine->timing, wait);
#endif
    return is_coming;
}

void drom_engine_end(drom_engine *engine, uint8_t state)
{
    drom_wait wait;
    drom_engine_stop_alarm(engine);
    drom_outputs_take_edges_back(&drom_engine_plan(engine)->outputs, &engine->timing);
    drom_engine_rest(engine, false);
#if DROM_WITH_KEPT
    drom_kept_stop(&drom_engine_plan(engine)->kept, &drom_engine_plan(engine)->rules);
#endif
    drom_rules_init(&engine->rules);
    engine->events.count = 0;
    drom_engine_stop_guard(engine);
    engine->ends_as = state;
    engine->state = drom_engine_is_coming_to_rest(engine, &wait) ? DROM_STOPPING : state;
}

void drom_engine_stop(drom_engine *engine)
{
    if (engine->state == DROM_RUNNING) {
        drom_engine_end(engine, DROM_STOPPED);
    }
}
