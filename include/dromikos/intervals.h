/* Marks and spaces that hardware measured, on their way from an interrupt to the receiver: for ports that
 * have such a machine instead of a capture. One producer, one consumer, no lock. The memory is the plan's. */
#ifndef DROMIKOS_INTERVALS_H
#define DROMIKOS_INTERVALS_H

#include "timing.h"

/** How many can wait; a power of two. A machine may give a whole frame at a time. */
enum { DROM_INTERVALS = 128 };

typedef struct drom_interval_slot {
    drom_us end_at;
    drom_us us;
    bool is_mark;
    bool after_loss; /**< some before it found no room */
} drom_interval_slot;

typedef struct drom_interval_ring {
    drom_interval_slot slots[DROM_INTERVALS];
    uint8_t head;  /**< written by the producer alone; free-running */
    uint8_t tail;  /**< written by the consumer alone; free-running */
    bool has_lost; /**< written by the producer alone */
} drom_interval_ring;

/** True when none waits. Interrupt or main. */
static inline bool drom_interval_ring_is_empty(const drom_interval_ring *ring)
{
    return __atomic_load_n(&ring->tail, __ATOMIC_ACQUIRE) == __atomic_load_n(&ring->head, __ATOMIC_ACQUIRE);
}

/** Adds an interval; where there is no room it is lost, and the next one says so. The producer. */
static inline void drom_interval_ring_put(drom_interval_ring *ring, drom_us end_at, drom_us us, bool is_mark)
{
    const uint8_t head = ring->head;
    if ((uint8_t)(head - __atomic_load_n(&ring->tail, __ATOMIC_ACQUIRE)) >= DROM_INTERVALS) {
        ring->has_lost = true;
        return;
    }
    ring->slots[head % DROM_INTERVALS] = (drom_interval_slot){end_at, us, is_mark, ring->has_lost};
    ring->has_lost = false;
    __atomic_store_n(&ring->head, (uint8_t)(head + 1), __ATOMIC_RELEASE);
}

/** The oldest interval of a ring that isn't empty. Main only. */
static inline const drom_interval_slot *drom_interval_ring_first(const drom_interval_ring *ring)
{
    return &ring->slots[ring->tail % DROM_INTERVALS];
}

/** Lets the oldest interval go. Main only. */
static inline void drom_interval_ring_take(drom_interval_ring *ring)
{
    __atomic_store_n(&ring->tail, (uint8_t)(ring->tail + 1), __ATOMIC_RELEASE);
}

#endif
