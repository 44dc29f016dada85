/* The producer's side of the ring of timed edges; timed_edges.h has the consumer's. */
#include "../compiler.h"

#include "../../include/dromikos/internal/timed_edges.h"

void drom_timed_edges_put(drom_timed_edges *timed_edges, drom_us at, uint32_t toggles)
{
    const uint8_t head = timed_edges->head;
    timed_edges->slots[head % DROM_TIMED_EDGES] = (drom_timed_edge){.toggles = toggles, .at = (uint16_t)at};
    timed_edges->last_at = at;
    __atomic_store_n(&timed_edges->head, (uint8_t)(head + 1), __ATOMIC_RELEASE);
}

bool drom_timed_edges_take_back(drom_timed_edges *timed_edges, uint32_t *toggles)
{
    if (drom_timed_edges_are_empty(timed_edges)) {
        return false;
    }
    const uint8_t head = (uint8_t)(timed_edges->head - 1);
    *toggles = timed_edges->slots[head % DROM_TIMED_EDGES].toggles;
    __atomic_store_n(&timed_edges->head, head, __ATOMIC_RELEASE);
    return true;
}
