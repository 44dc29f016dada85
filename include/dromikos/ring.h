/* The capture ring: pin edges on their way from the interrupt to the receiver.
 *
 * One producer (the capture interrupt), one consumer (the poll), no lock: each side writes only its own
 * index. The producer is inline so that an interrupt handler calls no function and saves few registers. */
#ifndef DROMIKOS_RING_H
#define DROMIKOS_RING_H

#include "timing.h"

/** One change of the receiver's output. */
typedef struct drom_edge {
    drom_us at;      /**< when, on the port's clock */
    bool is_mark;    /**< true where a mark begins, false where it ends */
    bool after_loss; /**< edges were lost between the one before and this */
} drom_edge;

typedef struct drom_ring {
    drom_edge *slots;
    uint8_t mask;  /**< slots less one; the number of slots is a power of two, 2 to 128 */
    uint8_t head;  /**< written by the producer alone; free-running */
    uint8_t tail;  /**< written by the consumer alone; free-running */
    bool has_lost; /**< the producer's own: the ring was full when an edge came */
} drom_ring;

/** Empties a ring over `count` slots. False when count isn't a power of two from 2 to 128. Main only. */
bool drom_ring_init(drom_ring *ring, drom_edge *slots, uint8_t count);

/** Adds an edge; drops it when the ring is full, and then marks the next one that fits. Interrupt or main,
 *  but from one place only. Never waits; masks nothing. */
static inline void drom_ring_put(drom_ring *ring, drom_us at, bool is_mark)
{
    const uint8_t head = __atomic_load_n(&ring->head, __ATOMIC_RELAXED);
    const uint8_t tail = __atomic_load_n(&ring->tail, __ATOMIC_ACQUIRE);
    if ((uint8_t)(head - tail) > ring->mask) {
        ring->has_lost = true;
        return;
    }
    drom_edge *const slot = &ring->slots[head & ring->mask];
    slot->at = at;
    slot->is_mark = is_mark;
    slot->after_loss = ring->has_lost;
    ring->has_lost = false;
    __atomic_store_n(&ring->head, (uint8_t)(head + 1), __ATOMIC_RELEASE);
}

/** Takes the oldest edge; false when there is none. Main only. */
bool drom_ring_take(drom_ring *ring, drom_edge *edge);

#endif
