/* The capture ring: received edges on their way from the interrupt to the receiver. One producer (the capture
 * interrupt), one consumer (the poll), no lock: each side writes only its own index.
 *
 * A slot has 15 bits of the edge's time and its level, so that an 8-bit chip stores an edge in 5 µs. The
 * engine knows the time and restores the upper bits. */
#ifndef DROMIKOS_INTERNAL_RING_H
#define DROMIKOS_INTERNAL_RING_H

#include "../config.h"

/** Holds DROM_EDGES edges. A refresh of 60 pixels delays the poll by 2 ms, in which the fastest protocol
 * (rcmm) has 12 edges. */
typedef struct drom_ring {
    uint16_t slots[DROM_EDGES]; /**< bits 15 to 1: the low 15 bits of the time in µs; bit 0: a mark begins */
    uint8_t head;               /**< written by the producer; free-running */
    uint8_t tail;               /**< written by the consumer; free-running */
    uint8_t lost_at;            /**< with has_lost: the slot before which edges were lost */
    bool has_lost;              /**< an edge arrived while the ring was full */
} drom_ring;

/** Adds an edge, with the low 16 bits of its time; if the ring is full, drops the edge and sets has_lost.
 * Interrupt or main, from one place only. Never waits; masks nothing. */
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

/** True if the ring is empty. Main only. */
static inline bool drom_ring_is_empty(const drom_ring *ring)
{
    return ring->tail == __atomic_load_n(&ring->head, __ATOMIC_ACQUIRE);
}

/** True if half of the ring is free; or if edges were lost already. Main only. */
static inline bool drom_ring_can_wait(const drom_ring *ring)
{
    const uint8_t waiting = (uint8_t)(__atomic_load_n(&ring->head, __ATOMIC_ACQUIRE) - ring->tail);
    return waiting <= DROM_EDGES / 2 || __atomic_load_n(&ring->has_lost, __ATOMIC_ACQUIRE);
}

/** Takes the oldest edge; false if the ring is empty. `after_loss`: edges were lost before this edge, or
 * between the edges queued with it. Main only. */
bool drom_ring_take(drom_ring *ring, uint16_t *slot, bool *after_loss);

#endif
