/* The queue of events. What a person can miss most easily, the repeat of a held key, makes room for others.
 */
#include "../../include/dromikos/events.h"

#include "../../include/dromikos/keys.h"

static drom_event *place(drom_events *events, uint8_t number)
{
    return &events->rows[(uint8_t)(events->first + number) % DROM_EVENTS];
}

static void count_dropped(drom_events *events)
{
    events->dropped = (uint16_t)(events->dropped + (events->dropped < UINT16_MAX));
}

static bool is_repeat(const drom_event *event)
{
    return event->source == DROM_SOURCE_KEY && event->gesture == DROM_REPEAT;
}

/* Drops the repeat that waits longest. */
static void drop_repeat(drom_events *events)
{
    uint8_t number = 0;
    while (number < events->count && !is_repeat(place(events, number))) {
        number++;
    }
    if (number == events->count) {
        return;
    }
    for (; number + 1 < events->count; number++) {
        *place(events, number) = *place(events, (uint8_t)(number + 1));
    }
    events->count--;
    count_dropped(events);
}

static bool is_waiting_already(drom_events *events, const drom_event *event)
{
    for (uint8_t i = 0; event->source == DROM_SOURCE_VALUE && i < events->count; i++) {
        const drom_event *const waiting = place(events, i);
        if (waiting->source == DROM_SOURCE_VALUE && waiting->row == event->row) {
            return true;
        }
    }
    return false;
}

bool drom_events_post(drom_events *events, const drom_event *event)
{
    if (is_waiting_already(events, event)) {
        return true;
    }
    if (events->count == DROM_EVENTS) {
        drop_repeat(events);
    }
    if (events->count == DROM_EVENTS) {
        count_dropped(events);
        return false;
    }
    *place(events, events->count++) = *event;
    return true;
}

bool drom_events_take(drom_events *events, drom_event *event)
{
    if (events->count == 0) {
        return false;
    }
    *event = *place(events, 0);
    events->first = (uint8_t)((events->first + 1) % DROM_EVENTS);
    events->count--;
    return true;
}
