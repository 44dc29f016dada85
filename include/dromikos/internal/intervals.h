/* The ring of marks and spaces that hardware has measured, for ports without capture. One producer, one
 * consumer, no lock. The plan provides the memory. */
#ifndef DROMIKOS_INTERNAL_INTERVALS_H
#define DROMIKOS_INTERNAL_INTERVALS_H

#include "../config.h"

/** Slots of the ring; a power of two. Hardware may deliver a whole frame at once. */
enum { DROM_INTERVALS = 128 };

typedef struct drom_interval_slot {
    drom_us end_at;
    drom_us us;
    bool is_mark;
    bool after_loss; /**< intervals before this one were lost */
} drom_interval_slot;

typedef struct drom_interval_ring {
    drom_interval_slot slots[DROM_INTERVALS];
    uint8_t head;  /**< written by the producer; free-running */
    uint8_t tail;  /**< written by the consumer; free-running */
    bool has_lost; /**< written by the producer */
} drom_interval_ring;

/** True if the ring is empty. Interrupt or main. */
static inline bool drom_interval_ring_is_empty(const drom_interval_ring *ring)
{
    return __atomic_load_n(&ring->tail, __ATOMIC_ACQUIRE) == __atomic_load_n(&ring->head, __ATOMIC_ACQUIRE);
}

/** Adds an interval; if the ring is full, drops the interval and marks the next one `after_loss`. Producer.
 */
static inline void drom_interval_ring_put(drom_interval_ring *ring, drom_us end_at, drom_us us, bool is_mark)
{
    const uint8_t head = ring->head;
    if ((uint8_t)(head - __atomic_load_n(&ring->tail, __ATOMIC_ACQUIRE)) >= DROM_INTERVALS) {
        ring->has_lost = true;
        return;
    }
    drom_interval_slot *const slot = &ring->slots[head % DROM_INTERVALS];
    slot->end_at = end_at;
    slot->us = us;
    slot->is_mark = is_mark;
    slot->after_loss = ring->has_lost;
    ring->has_lost = false;
    __atomic_store_n(&ring->head, (uint8_t)(head + 1), __ATOMIC_RELEASE);
}

/** Returns the oldest interval of a ring that isn't empty. Main only. */
static inline const drom_interval_slot *drom_interval_ring_first(const drom_interval_ring *ring)
{
    return &ring->slots[ring->tail % DROM_INTERVALS];
}

/** Removes the oldest interval. Main only. */
static inline void drom_interval_ring_take(drom_interval_ring *ring)
{
    __atomic_store_n(&ring->tail, (uint8_t)(ring->tail + 1), __ATOMIC_RELEASE);
}

#endif
