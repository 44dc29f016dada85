/* The event queue. Repeats of held keys, which are missed least, make room for others. */
#include "../compiler.h"

#include "../../include/dromikos/internal/queue.h"

#include "../../include/dromikos/internal/keys.h"

static void count_dropped(drom_events *events)
{
    events->dropped = (uint16_t)(events->dropped + (events->dropped < UINT16_MAX));
}

static bool is_repeat(const drom_event *event)
{
    return event->source == DROM_SOURCE_KEY && event->gesture == DROM_REPEAT;
}

static void remove_at(drom_events *events, uint8_t number)
{
    events->count--;
    for (; number < events->count; number++) {
        events->rows[number] = events->rows[number + 1];
    }
}

/* Drops the oldest repeat. */
static void drop_repeat(drom_events *events)
{
    uint8_t number = 0;
    while (number < events->count && !is_repeat(&events->rows[number])) {
        number++;
    }
    if (number < events->count) {
        remove_at(events, number);
        count_dropped(events);
    }
}

static bool is_waiting_already(const drom_events *events, const drom_event *event)
{
    bool is_so = false;
    for (uint8_t i = 0; event->source == DROM_SOURCE_VALUE && i < events->count; i++) {
        is_so |= events->rows[i].source == DROM_SOURCE_VALUE && events->rows[i].row == event->row;
    }
    return is_so;
}

/* Returns the number of places that an event may use. */
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
        has |= events->rows[i].source == source;
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
    events->rows[events->count++] = *event;
    return true;
}

bool drom_events_take(drom_events *events, drom_event *event)
{
    if (events->count == 0) {
        return false;
    }
    *event = events->rows[0];
    remove_at(events, 0);
    return true;
}
