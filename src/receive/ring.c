/* The consumer's side of the capture ring. See ring.h for the producer's. */
#include "dromikos/ring.h"

bool drom_ring_init(drom_ring *ring, drom_edge *slots, uint8_t count)
{
    if (count < 2 || count > 128 || (count & (count - 1)) != 0) {
        return false;
    }
    *ring = (drom_ring){.slots = slots, .mask = (uint8_t)(count - 1)};
    return true;
}

bool drom_ring_take(drom_ring *ring, drom_edge *edge)
{
    const uint8_t tail = __atomic_load_n(&ring->tail, __ATOMIC_RELAXED);
    if (tail == __atomic_load_n(&ring->head, __ATOMIC_ACQUIRE)) {
        return false;
    }
    *edge = ring->slots[tail & ring->mask];
    __atomic_store_n(&ring->tail, (uint8_t)(tail + 1), __ATOMIC_RELEASE);
    return true;
}
