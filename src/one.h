/* Where the rooms find their tables and their machine. Private to src/.
 *
 * A program that has one plan and one machine may say so when it is compiled: -DDROM_PLAN=lantern_plan
 * -DDROM_PORT=drom_avr_port, the same for the library and the program. The compiler, which optimises when
 * linking, then sees through every table: what the plan doesn't use isn't in the program, and calls of the
 * port are plain calls. Such a plan counts as checked. */
#ifndef DROMIKOS_ONE_H
#define DROMIKOS_ONE_H

#include "dromikos/engine.h"

/* Where the engine's keys tell their events; `context` is the engine. */
drom_key_sink drom_take_key_event;

#ifdef DROM_PLAN
extern const drom_plan DROM_FLASH DROM_PLAN;
extern const drom_port DROM_FLASH DROM_PORT;

#define DROM_PLAN_OF(engine) ((void)(engine), &DROM_PLAN)
#define DROM_RECEIVE_OF(receiver) ((void)(receiver), &DROM_PLAN.receive)
#define DROM_KEYS_OF(keys) ((void)(keys), &DROM_PLAN.keys)
#define DROM_PORT_OF(timing) ((void)(timing), &DROM_PORT)
#define DROM_CHECK(function) (1 ? NULL : (function))
#define DROM_POINT(pointer, at) ((void)(at)) /* there is no such member */
#define DROM_TELL_KEY(keys, event)                                                                           \
    drom_take_key_event((char *)(uintptr_t)(keys)-offsetof(drom_engine, keys), event)
#else
#define DROM_PLAN_OF(engine) ((engine)->plan)
#define DROM_RECEIVE_OF(receiver) ((receiver)->plan)
#define DROM_KEYS_OF(keys) ((keys)->plan)
#define DROM_PORT_OF(timing) ((timing)->port)
#define DROM_CHECK(function) (function)
#define DROM_POINT(pointer, at) ((pointer) = (at))
#define DROM_TELL_KEY(keys, event) ((keys)->sink((keys)->context, event))
#endif

/* A program that never calls drom_engine_watch() may say that, too: -DDROM_UNWATCHED. */
#ifdef DROM_UNWATCHED
#define DROM_WATCH_OF(engine) ((void)(engine), (const drom_watch *)NULL)
#else
#define DROM_WATCH_OF(engine) ((engine)->watch)
#endif

#endif
