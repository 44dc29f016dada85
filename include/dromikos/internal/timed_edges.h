/* The ring of timed edges: pin changes on their way from main to the alarm interrupt.
 *
 * Outputs that need exact times (steps, edges of a burst) compute them ahead in main and queue them here. The
 * alarm's handler only inverts pins and arms the alarm for the next edge. One producer (main), one consumer
 * (the alarm), no lock. The edges of all outputs are in order of time. */
#ifndef DROMIKOS_INTERNAL_TIMED_EDGES_H
#define DROMIKOS_INTERNAL_TIMED_EDGES_H

#include "../config.h"

/** Slots of the ring; a power of two. The ring covers the longest delay of a poll: a refresh of 60 pixels
 * takes 2 ms, in which an infrared frame has up to five edges and a stepper one step. */
enum { DROM_TIMED_EDGES = 8 };

/** Edges are made at most this far ahead: a new action's edges follow those already made. Below 16 ms, so
 * that timers of 2 MHz and 16 bits can hold it. */
#define DROM_TIMED_EDGE_HORIZON_US 8000

/** The second edge of a pulse may lie this much further ahead. */
#define DROM_PULSE_US 3000

/** The limit while a burst is about to begin, as the medium is checked right before its first edge. Edges due
 * within this time precede key events. */
#define DROM_TIMED_EDGE_HURRY_US 1000

/** Pins that change at a time. */
typedef struct drom_timed_edge {
    uint32_t toggles; /**< the port's bits of the pins to invert: drom_port_edges.toggle */
    uint16_t at;      /**< the low 16 bits of the time in µs */
} drom_timed_edge;

typedef struct drom_timed_edges {
    drom_timed_edge slots[DROM_TIMED_EDGES];
    drom_us last_at; /**< time of the newest edge; main's */
    uint8_t head;    /**< written by main; free-running */
    uint8_t tail;    /**< written by the alarm; free-running */
} drom_timed_edges;

/** True if the ring is full. Main only. */
static inline bool drom_timed_edges_are_full(const drom_timed_edges *timed_edges)
{
    return (uint8_t)(timed_edges->head - __atomic_load_n(&timed_edges->tail, __ATOMIC_ACQUIRE)) >=
           DROM_TIMED_EDGES;
}

/** True if the ring is empty. Interrupt or main. */
static inline bool drom_timed_edges_are_empty(const drom_timed_edges *timed_edges)
{
    return __atomic_load_n(&timed_edges->head, __ATOMIC_ACQUIRE) ==
           __atomic_load_n(&timed_edges->tail, __ATOMIC_ACQUIRE);
}

/** Adds a timed edge to a ring that isn't full. `at` isn't earlier than the newest edge, and within the
 * horizon. Arm the alarm afterwards. Main only. */
void drom_timed_edges_put(drom_timed_edges *timed_edges, drom_us at, uint32_t toggles);

/** Removes the newest timed edge; false if the ring is empty. The alarm must be off. Main only. */
bool drom_timed_edges_take_back(drom_timed_edges *timed_edges, uint32_t *toggles);

/** Returns the oldest timed edge of a ring that isn't empty. The alarm's handler, or main while the alarm is
 * off. */
static inline const drom_timed_edge *drom_timed_edges_first(const drom_timed_edges *timed_edges)
{
    return &timed_edges->slots[timed_edges->tail % DROM_TIMED_EDGES];
}

/** Removes the oldest timed edge. The alarm's handler only. */
static inline void drom_timed_edges_take(drom_timed_edges *timed_edges)
{
    __atomic_store_n(&timed_edges->tail, (uint8_t)(timed_edges->tail + 1), __ATOMIC_RELEASE);
}

#endif
