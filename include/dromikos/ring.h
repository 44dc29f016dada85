/* The capture ring: pin edges on their way from the interrupt to the receiver.
 *
 * One producer (the capture interrupt), one consumer (the poll), no lock: each side writes only its own
 * index. An edge is 15 bits of its time and one of its level, so that an 8-bit chip has put it away in 5 µs;
 * the engine, which knows the time, gives it the rest (src/engine.c). */
#ifndef DROMIKOS_RING_H
#define DROMIKOS_RING_H

#include "timing.h"

/** DROM_EDGES of them can wait. A strip of 60 pixels keeps main from its poll for 2 ms, in which the fastest
 * protocol (rcmm) has 12. */
typedef struct drom_ring {
    uint16_t slots[DROM_EDGES]; /**< bits 15 to 1: the low 15 bits of the time in µs; bit 0: a mark begins */
    uint8_t head;               /**< written by the producer alone; free-running */
    uint8_t tail;               /**< written by the consumer alone; free-running */
    uint8_t lost_at;            /**< the slot before which edges were lost, where has_lost */
    bool has_lost;              /**< the ring was full when an edge came */
} drom_ring;

/** Adds an edge, of whose time the low 16 bits are enough; drops it when the ring is full, and notes that.
 * Interrupt or main, but from one place only. Never waits; masks nothing. */
static inline void drom_ring_put(drom_ring *ring, uint16_t at, bool is_mark)
{
    const uint8_t head = __atomic_load_n(&ring->head, __ATOMIC_RELAXED);
    if ((uint8_t)(head - __atomic_load_n(&ring->tail, __ATOMIC_ACQUIRE)) >= DROM_EDGES) {
        __atomic_store_n(&ring->lost_at, head, __ATOMIC_RELAXED);
        __atomic_store_n(&ring->has_lost, true, __ATOMIC_RELEASE);
        return;
    }
    ring->slots[head % DROM_EDGES] = (uint16_t)((uint16_t)(at << 1) | is_mark);
    __atomic_store_n(&ring->head, (uint8_t)(head + 1), __ATOMIC_RELEASE);
}

/** True when no edge is waiting. Main only. */
static inline bool drom_ring_is_empty(const drom_ring *ring)
{
    return ring->tail == __atomic_load_n(&ring->head, __ATOMIC_ACQUIRE);
}

/** True when half of the ring is free; or edges have been lost, so that there is nothing left to save. Main
 * only. */
static inline bool drom_ring_can_wait(const drom_ring *ring)
{
    const uint8_t waiting = (uint8_t)(__atomic_load_n(&ring->head, __ATOMIC_ACQUIRE) - ring->tail);
    return waiting <= DROM_EDGES / 2 || __atomic_load_n(&ring->has_lost, __ATOMIC_ACQUIRE);
}

/** Takes the oldest edge; false when there is none. `after_loss`: edges were lost before it, or will turn out
 * to have been lost after one that waited with it. Main only. */
bool drom_ring_take(drom_ring *ring, uint16_t *slot, bool *after_loss);

#endif
