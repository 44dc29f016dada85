/* What the engine's files share. */
#ifndef DROMIKOS_ENGINE_SHARED_H
#define DROMIKOS_ENGINE_SHARED_H

#include "../../include/dromikos/engine.h"
#include "../../include/dromikos/internal/outputs.h"

#include "../bound.h"

/* Returns the plan; in a program that is bound to a plan, a constant. */
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

/* Reads the clock, for the timing of this call. */
drom_us drom_engine_read_clock(drom_engine *engine);

/* True if something is known that hasn't been processed. */
bool drom_engine_is_behind(const drom_engine *engine);

/* Observes and queues a key event: the drom_key_sink of the engine. */
void drom_engine_take_key_event(void *context, const drom_key_event *event);

/* Starts, feeds or stops the guard, if the plan has one. drom_engine_feed_guard() ends the engine's run if
 * the guard has acted; true if the plan has a guard. */
#if DROM_WITH_GUARD
void drom_engine_start_guard(drom_engine *engine);
bool drom_engine_feed_guard(drom_engine *engine);
void drom_engine_stop_guard(drom_engine *engine);
#else
#define drom_engine_start_guard(engine) ((void)(engine))
#define drom_engine_feed_guard(engine) false
#define drom_engine_stop_guard(engine) ((void)(engine))
#endif

/* Switches the alarm off, before anything is done to the ring of timed edges. */
void drom_engine_stop_alarm(drom_engine *engine);

/* Puts every output into its rest state. */
void drom_engine_rest(drom_engine *engine, bool is_start);

/* Ends a run: pins go to rest; `state` follows when the rest has ended. */
void drom_engine_end(drom_engine *engine, uint8_t state);

/* After a stop: continues what must end, such as a strip's last refresh. True while there is more to do;
 * `wait` is the time in µs until the next call. */
bool drom_engine_is_coming_to_rest(drom_engine *engine, drom_wait *wait);

#endif
