/* What the engine's two files share: its life (life.c), and the straight line that it polls (engine.c). */
#ifndef DROMIKOS_LINE_H
#define DROMIKOS_LINE_H

#include "../include/dromikos/engine.h"

#include "bound.h"

/* A program that is bound to a plan has been compiled for what that uses. */
static inline const drom_plan DROM_FLASH *drom_engine_plan(const drom_engine *engine)
{
    (void)engine;
#ifdef DROM_PLAN
    return drom_bound_plan();
#else
    return engine->plan;
#endif
}

static inline const drom_port DROM_FLASH *drom_engine_port(const drom_engine *engine)
{
    return drom_port_of(&engine->timing);
}

#if DROM_WITH_GUARD
/* Feeds the guard, since the program doesn't hang; ends the engine's life where it did. True where something
 * is guarded. */
bool drom_engine_feed_guard(drom_engine *engine);
#else
#define drom_engine_feed_guard(engine) false
#endif

/* After a stop: is something yet to be shown, let go or written? The wait until there is more to do. */
bool drom_engine_is_coming_to_rest(drom_engine *engine, drom_wait *wait);

/* Reads the clock: the moment of what comes next. */
static inline drom_us drom_engine_read_clock(drom_engine *engine)
{
    const drom_port DROM_FLASH *const port = drom_engine_port(engine);
    engine->timing.now = port->clock->now(port->context);
    return engine->timing.now;
}

#endif
