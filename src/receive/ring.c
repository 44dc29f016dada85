/* The consumer's side of the capture ring; ring.h has the producer's. */
#include "../compiler.h"

#include "../../include/dromikos/internal/ring.h"

bool drom_ring_take(drom_ring *ring, uint16_t *slot, bool *after_loss)
{
    const uint8_t tail = __atomic_load_n(&ring->tail, __ATOMIC_RELAXED);
    if (drom_ring_is_empty(ring)) {
        return false;
    }
    *slot = ring->slots[tail % DROM_EDGES];
    *after_loss = __atomic_load_n(&ring->has_lost, __ATOMIC_ACQUIRE);
    if (*after_loss && __atomic_load_n(&ring->lost_at, __ATOMIC_RELAXED) == tail) {
        __atomic_store_n(&ring->has_lost, false, __ATOMIC_SEQ_CST);
        if (__atomic_load_n(&ring->lost_at, __ATOMIC_SEQ_CST) != tail) { /* and more just now */
            __atomic_store_n(&ring->has_lost, true, __ATOMIC_RELEASE);
        }
    }
    __atomic_store_n(&ring->tail, (uint8_t)(tail + 1), __ATOMIC_RELEASE);
    return true;
}
