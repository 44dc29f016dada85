/* The producer's side of the cue ring. See cues.h for the consumer's. */
#include "dromikos/cues.h"

void drom_cues_put(drom_cues *cues, drom_us at, uint32_t toggles)
{
    const uint8_t head = cues->head;
    cues->slots[head % DROM_CUES] = (drom_cue){.toggles = toggles, .at = (uint16_t)at};
    cues->last_at = at;
    __atomic_store_n(&cues->head, (uint8_t)(head + 1), __ATOMIC_RELEASE);
}

void drom_cues_drop(drom_cues *cues)
{
    cues->tail = cues->head;
}
