/* The engine: runs a plan on a port.
 *
 *     static drom_engine engine;
 *
 *     if (drom_engine_init(&engine, &lantern_plan, &port, &fault) != DROM_OK) { ... fault says where ... }
 *     for (;;) {
 *         drom_engine_idle(&engine, drom_engine_poll(&engine));
 *     }
 *
 * and, in the capture interrupt, drom_engine_edge(&engine, time, is_mark). */
#ifndef DROMIKOS_ENGINE_H
#define DROMIKOS_ENGINE_H

#include "events.h"
#include "fault.h"
#include "internal/layouts.h"
#include "port.h"

#ifdef __cplusplus
extern "C" {
#endif

/** An engine. Static memory is best; it needs no initialisation. Its fields are not an interface. */
typedef struct drom_engine drom_engine;

/** States of an engine. */
enum {
    DROM_STOPPED,
    DROM_RUNNING,
    DROM_STOPPING, /**< a strip's rest state is to be shown, a key to be released, a value to be written, or
                      an output waits for the pause of its interlock */
    DROM_FAULT,    /**< the guard has acted; all outputs are at rest until the engine is started again */
};

/* A program and a library with different switches don't link. */
#define drom_engine_init DROM_CONFIGURED(drom_engine_init)
#define drom_engine_start DROM_CONFIGURED(drom_engine_start)

/** Checks the plan, then puts every output into its rest state. If it fails, no pin is driven. Main only.
 *
 * With DROM_WITH_CHECKS it checks each row of each table; without, only that the plan's features are on.
 * DROM_BAD_ARGUMENT: engine, plan or port is null. DROM_BAD_PORT: the port lacks a function. DROM_BAD_PLAN:
 * see `fault`, which may be null. */
drom_status drom_engine_init(drom_engine *engine, const drom_plan DROM_FLASH *plan,
                             const drom_port DROM_FLASH *port, drom_fault *fault);

/** Does the same for a plan that has been checked already, such as a baked one. The checks aren't linked,
 * which saves 1.5 KB on AVR. Main only.
 *
 * DROM_BAD_PORT: the port lacks a function that the plan needs. DROM_BAD_PLAN: the plan needs a feature that
 * is off. Both also if drom_config.h binds the program to a different plan or port. */
drom_status drom_engine_start(drom_engine *engine, const drom_plan DROM_FLASH *plan,
                              const drom_port DROM_FLASH *port);

#if DROM_WITH_OBSERVER
/** Sets the observer, which must stay valid; null: none. Main only. */
void drom_engine_observe(drom_engine *engine, const drom_observer *observer);
#endif

/** Gives an output an order, as an action of a rule does: a verb of its kind (outputs/KIND.h) and the verb's
 * value. Orders to outputs of an interlock follow its rules. Main only; not from a function that the engine
 * calls.
 *
 * DROM_NOT_RUNNING: the engine isn't running. DROM_BAD_ARGUMENT: no such output, or, with DROM_WITH_CHECKS,
 * its kind doesn't accept this verb or value; without, the value isn't checked. */
drom_status drom_engine_order(drom_engine *engine, uint8_t output, uint8_t verb, uint32_t value);

#if DROM_WITH_POSTS
/** Posts an event of your own code: a row of the plan's events, and a value. The event is handled when no
 * other event is queued, so that frequent posts delay nothing else. Main only.
 *
 * DROM_FULL: four are queued. DROM_NOT_RUNNING. */
drom_status drom_engine_post(drom_engine *engine, uint8_t row, int16_t value);

/** Posts an event from an interrupt or another thread, and wakes main. `source` is a row of the plan's
 * `posts`; each interrupt or thread has its own.
 *
 * DROM_FULL: four are queued. DROM_BAD_ARGUMENT: no such source. DROM_NOT_RUNNING. */
drom_status drom_engine_post_from(drom_engine *engine, uint8_t source, uint8_t row, int16_t value);
#endif

/** Returns the newest frame: for a function that a rule about any code calls. Main only. */
static inline const drom_frame *drom_engine_frame(const drom_engine *engine)
{
    return &engine->input.frame;
}

/** Returns the state: DROM_STOPPED and so on. Main only. */
static inline uint8_t drom_engine_state(const drom_engine *engine)
{
    return engine->state;
}

#if DROM_WITH_INTERVALS
/** Passes a mark or a space that hardware has measured: `us` µs up to `end_at`. In order of time, and not
 * later than the port declares. Interrupt or main, from one place only. */
void drom_engine_interval(drom_engine *engine, drom_us end_at, drom_us us, bool is_mark);
#endif

/** Passes an edge of the receiver's output; `is_mark`: a mark begins. Calls nothing, so that an interrupt
 * stays short. Interrupt or main, from one place only. */
static inline void drom_engine_edge(drom_engine *engine, drom_us at, bool is_mark)
{
    drom_ring_put(&engine->input.ring, (uint16_t)at, is_mark);
}

/** Does one step of what is due: takes an edge, fires rules, moves outputs, makes timed edges. The first call
 * does the plan's `at start`. If the guard has acted, puts every output into its rest state: the state is
 * then DROM_FAULT.
 *
 * Returns the time in µs until the next call, if no edge arrives before; 0: there is more to do; DROM_LONG:
 * only an edge requires a call. Earlier calls are allowed. Main only. Never waits, and takes less than 500 µs
 * on an ATmega328P at 16 MHz for any plan (481 measured: examples/lantern/stage.plan). */
drom_wait drom_engine_poll(drom_engine *engine);

/** Spends the time until the next poll: refreshes a strip if that delays no key and no step, else sleeps for
 * at most `wait` µs, the answer of drom_engine_poll(). With a wait of 0, or before the engine is started, it
 * does nothing; pass 1 if your own loop must go on. Main only; takes as long as the refresh (30 µs per pixel)
 * or the sleep. */
void drom_engine_idle(drom_engine *engine, drom_wait wait);

/** Stops reception, switches the alarm off and puts every output into its rest state. Pins are at rest when
 * it returns, except as DROM_STOPPING says: go on with drom_engine_poll() and drom_engine_idle() until the
 * state is DROM_STOPPED (a strip of 60 pixels: 3 ms later). A stepper's position stays known. Main only, with
 * interrupts on or masked. */
void drom_engine_stop(drom_engine *engine);

#ifdef __cplusplus
}
#endif

#endif
