/* The ring of timed edges: changes of pins on their way from main to the alarm interrupt.
 *
 * An output that needs an exact time (a step, the edge of a burst) works it out ahead, in main, and leaves it
 * here. The alarm then has nothing to think about: it turns pins over, and arms itself for the next timed
 * edge. One producer (main), one consumer (the alarm), no lock. Timed edges are in the order of their times,
 * whoever they are from. */
#ifndef DROMIKOS_TIMED_EDGES_H
#define DROMIKOS_TIMED_EDGES_H

#include "timing.h"

/** Slots of the ring; a power of two. They must outlast what keeps main from its poll: a strip of 60 pixels
 * takes 2 ms, in which an infrared frame has up to five edges and a stepper one step. */
enum { DROM_TIMED_EDGES = 8 };

/** No timed edge is made further ahead than this: what begins now comes after those that are made already. It
 * must stay below 16 ms, so that timers of 2 MHz and 16 bits can hold it. */
#define DROM_TIMED_EDGE_HORIZON_US 8000

/** But for the second edge of a pulse, which may lie so much farther ahead. */
#define DROM_PULSE_US 3000

/** Nor than this while a burst is to begin: the air is asked for right before its first edge. What is due so
 * soon and isn't made yet goes before a key. */
#define DROM_TIMED_EDGE_HURRY_US 1000

/** Pins that turn over at a time. */
typedef struct drom_timed_edge {
    uint32_t toggles; /**< what of the port turns over; the port's own bits, see drom_port.toggle_pin */
    uint16_t at;      /**< the low 16 bits of the time in µs */
} drom_timed_edge;

typedef struct drom_timed_edges {
    drom_timed_edge slots[DROM_TIMED_EDGES];
    drom_us last_at; /**< main's: the newest timed edge's time */
    uint8_t head;    /**< written by main alone; free-running */
    uint8_t tail;    /**< written by the alarm alone; free-running */
} drom_timed_edges;

/** True when no more timed edges fit. Main only. */
static inline bool drom_timed_edges_are_full(const drom_timed_edges *timed_edges)
{
    return (uint8_t)(timed_edges->head - __atomic_load_n(&timed_edges->tail, __ATOMIC_ACQUIRE)) >=
           DROM_TIMED_EDGES;
}

/** True when every timed edge has been taken. Interrupt or main. */
static inline bool drom_timed_edges_are_empty(const drom_timed_edges *timed_edges)
{
    return __atomic_load_n(&timed_edges->head, __ATOMIC_ACQUIRE) ==
           __atomic_load_n(&timed_edges->tail, __ATOMIC_ACQUIRE);
}

/** Adds a timed edge to a ring that isn't full. `at` is not before the newest timed edge's, and within the
 * horizon. Arm the alarm afterwards. Main only. */
void drom_timed_edges_put(drom_timed_edges *timed_edges, drom_us at, uint32_t toggles);

/** Takes the newest timed edge back; false when none is left. The alarm must be off. Main only. */
bool drom_timed_edges_take_back(drom_timed_edges *timed_edges, uint32_t *toggles);

/** The oldest timed edge of a ring that isn't empty. The alarm's handler, or main while the alarm is off. */
static inline const drom_timed_edge *drom_timed_edges_first(const drom_timed_edges *timed_edges)
{
    return &timed_edges->slots[timed_edges->tail % DROM_TIMED_EDGES];
}

/** Lets the oldest timed edge go. The alarm's handler only. */
static inline void drom_timed_edges_take(drom_timed_edges *timed_edges)
{
    __atomic_store_n(&timed_edges->tail, (uint8_t)(timed_edges->tail + 1), __ATOMIC_RELEASE);
}

#endif
