/* The engine: a plan on a machine.
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

#include "input.h"
#include "observer.h"
#include "plan.h"

enum {
    DROM_STOPPED,
    DROM_RUNNING,
    DROM_STOPPING, /**< a strip's rest state is yet to be shown, a key to be let go, a value to be kept, or
                      what rests on waits for the pause of its interlock */
    DROM_FAULT,    /**< the guard has acted; all outputs are at rest until the engine is started again */
};

/* What is used most comes first: an 8-bit chip reaches the first 64 bytes of a struct at half the cost. */
typedef struct drom_engine {
    const drom_plan DROM_FLASH *plan;
    uint8_t state;         /**< DROM_STOPPED and so on */
    uint8_t ends_as;       /**< after DROM_STOPPING */
    uint8_t turn;          /**< polls since the outputs had one */
    drom_us rested_at;     /**< the newest refresh, or moment at which none was wanted */
    drom_deadline next;    /**< when time alone may bring something about */
    uint16_t caught_up_at; /**< when nothing that comes in was left to be dealt with, in µs: the low bits */
    bool was_busy;         /**< the poll before went to rules and events */
    uint8_t post_turn;     /**< whose post comes next: 0: main's; else 1 more than a row of the plan's */
    drom_input input;
    drom_rules rules;
    drom_events events;
    drom_keys keys;
    drom_timing timing;
    drom_posts posts; /**< main's */
} drom_engine;

/* A program and a library that were compiled with different switches don't link. */
#define drom_engine_init DROM_CONFIGURED(drom_engine_init)
#define drom_engine_start DROM_CONFIGURED(drom_engine_start)

#if DROM_WITH_CHECKS
/** Checks the plan, then puts every output into its rest state. Nothing is driven when it fails.
 *  DROM_BAD_ARGUMENT: engine, plan or port is null. DROM_BAD_PORT: the port lacks a function. DROM_BAD_PLAN:
 * see `fault`, which may be null. Main only. */
drom_status drom_engine_init(drom_engine *engine, const drom_plan DROM_FLASH *plan,
                             const drom_port DROM_FLASH *port, drom_fault *fault);
#endif

/** The same for a plan that has been checked already, such as one that the tool has baked: the checks aren't
 * linked, which saves 1.5 KB on AVR. DROM_BAD_PORT: the port lacks a function that the plan needs.
 * DROM_BAD_PLAN: it needs what is switched off. In a program that drom_config.h binds to a plan and a port,
 * DROM_BAD_PLAN and DROM_BAD_PORT: it is another. Main only. */
drom_status drom_engine_start(drom_engine *engine, const drom_plan DROM_FLASH *plan,
                              const drom_port DROM_FLASH *port);

#if DROM_WITH_OBSERVER
/** Sets the observer from now on; null: none. It must stay where it is. Main only. */
void drom_engine_observe(drom_engine *engine, const drom_observer *observer);
#endif

#if DROM_WITH_POSTS
/** Posts an event of the maker's own code: which row of the plan's events, and a value. It comes when no
 * other event waits, so that it may be posted as often as one likes. DROM_FULL: four wait already.
 * DROM_NOT_RUNNING. Main only. */
drom_status drom_engine_post(drom_engine *engine, uint8_t row, int16_t value);

/** The same from an interrupt or another thread, which is one of the plan's `posts`: each source is called by
 * one of them. It wakes main. DROM_FULL: four wait already. DROM_BAD_ARGUMENT: there is no such source.
 * DROM_NOT_RUNNING. */
drom_status drom_engine_post_from(drom_engine *engine, uint8_t source, uint8_t row, int16_t value);
#endif

/** The newest frame: for a function of your own that a rule about any code calls. Main only. */
static inline const drom_frame *drom_engine_frame(const drom_engine *engine)
{
    return &engine->input.frame;
}

#if DROM_WITH_INTERVALS
/** Gives the engine a mark or a space of an input (0: there is one) that a machine has measured: `us` µs up
 * to `end_at`. In the order of their times, none later than the port declares. Interrupt, or main, but from
 * one place only. */
void drom_engine_interval(drom_engine *engine, uint8_t input, drom_us end_at, drom_us us, bool is_mark);
#endif

/** Gives the engine an edge of the receiver's output: `is_mark` where a mark begins. Calls nothing, so
 * that an interrupt stays short. Interrupt, or main, but from one place only. */
static inline void drom_engine_edge(drom_engine *engine, drom_us at, bool is_mark)
{
    drom_ring_put(&engine->input.ring, (uint16_t)at, is_mark);
}

/** Does a piece of what is due: takes an edge in, fires rules, moves outputs, makes timed edges. The first
 * call does what the plan says at start. Where the program has hung for so long that the guard acted, it puts
 * every output into its rest state: the state is then DROM_FAULT. The answer is the time in µs until it must
 * be called again though no edge comes; 0: there is more to do; DROM_LONG: only an edge will wake it. It may
 * be called at any time before. Main only; never waits, and takes less than 500 µs on an ATmega328P at 16 MHz
 * whatever the plan (481 measured: examples/lantern/stage.plan). */
drom_wait drom_engine_poll(drom_engine *engine);

/** Spends the time until the next poll: refreshes a strip where that makes no key and no step late, else
 * sleeps for at most `wait` µs, as drom_engine_poll() said. With a wait of 0, or before the engine was
 * started, there is no time to spend, and it does nothing; a loop of your own that must go on gives 1. Main
 * only; takes as long as the refresh (30 µs a pixel) or the sleep. */
void drom_engine_idle(drom_engine *engine, drom_wait wait);

/** Turns the alarm off, puts every output into its rest state, and hears nothing more. Pins are at rest when
 * it returns, but for what must wait: see DROM_STOPPING. A strip must have shown its picture before it takes
 * another, so go on with drom_engine_poll() and drom_engine_idle() until the state is DROM_STOPPED (a strip
 * of 60 pixels: 3 ms later); then the poll does nothing. A stepper knows where its rotor is. Main only, with
 * interrupts as they are. */
void drom_engine_stop(drom_engine *engine);

#endif
