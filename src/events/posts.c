/* Posts come from interrupts and other threads, and wait in a ring per source until the engine takes them. */
#include "../compiler.h"

#include "../../include/dromikos/internal/queue.h"

bool drom_posts_put(drom_posts *posts, uint8_t row, int16_t value)
{
    const uint8_t head = posts->head;
    if ((uint8_t)(head - __atomic_load_n(&posts->tail, __ATOMIC_ACQUIRE)) >= DROM_POSTS) {
        return false;
    }
    posts->rows[head % DROM_POSTS].row = row;
    posts->rows[head % DROM_POSTS].value = value;
    __atomic_store_n(&posts->head, (uint8_t)(head + 1), __ATOMIC_RELEASE);
    return true;
}

bool drom_posts_take(drom_posts *posts, drom_event *event)
{
    const uint8_t tail = posts->tail;
    if (tail == __atomic_load_n(&posts->head, __ATOMIC_ACQUIRE)) {
        return false;
    }
    *event = (drom_event){.source = DROM_SOURCE_POSTED,
                          .row = posts->rows[tail % DROM_POSTS].row,
                          .value = posts->rows[tail % DROM_POSTS].value};
    __atomic_store_n(&posts->tail, (uint8_t)(tail + 1), __ATOMIC_RELEASE);
    return true;
}

void drom_posts_clear(drom_posts *posts)
{
    __atomic_store_n(&posts->tail, __atomic_load_n(&posts->head, __ATOMIC_ACQUIRE), __ATOMIC_RELEASE);
}
