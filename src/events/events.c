/* The queue of events. What a person can miss most easily, the repeat of a held key, makes room for others.
 */
#include "../../include/dromikos/events.h"

#include "../../include/dromikos/keys.h"

static uint8_t place_of(const drom_events *events, uint8_t number)
{
    return (uint8_t)(events->first + number) % DROM_EVENTS;
}

static drom_event *place(drom_events *events, uint8_t number)
{
    return &events->rows[place_of(events, number)];
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

/* The places that an event may fill. */
static uint8_t places_for(const drom_event *event)
{
    switch (event->source) {
    case DROM_SOURCE_KEY:
    case DROM_SOURCE_LOST:
    case DROM_SOURCE_SWITCH:
    case DROM_SOURCE_HEARD:
        return DROM_EVENTS;
    default:
        return DROM_EVENTS - DROM_EVENTS_SPARE;
    }
}

bool drom_events_have(const drom_events *events, uint8_t source)
{
    bool has = false;
    for (uint8_t i = 0; i < events->count; i++) {
        has |= events->rows[place_of(events, i)].source == source;
    }
    return has;
}

bool drom_events_post(drom_events *events, const drom_event *event)
{
    const uint8_t places = places_for(event);
    if (is_waiting_already(events, event)) {
        return true;
    }
    if (events->count >= places) {
        drop_repeat(events);
    }
    if (events->count >= places) {
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
