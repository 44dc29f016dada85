/* The event queue and its sources: posts and contacts. */
#ifndef DROMIKOS_INTERNAL_QUEUE_H
#define DROMIKOS_INTERNAL_QUEUE_H

#include "../plan.h"

/** Adds a post; false if there is no room. The source. */
bool drom_posts_put(drom_posts *posts, uint8_t row, int16_t value);

/** Takes the oldest post as an event; false if there is none. Main only. */
bool drom_posts_take(drom_posts *posts, drom_event *event);

/** True if there is a post. Main only. */
static inline bool drom_posts_wait(const drom_posts *posts)
{
    return posts->tail != __atomic_load_n(&posts->head, __ATOMIC_ACQUIRE);
}

/** Removes all posts. Main only. */
void drom_posts_clear(drom_posts *posts);

/** Adds an event to the end of the queue. Events of keys, contacts and frames may use all places, others
 * leave DROM_EVENTS_SPARE free. If there is no place, a queued repeat is dropped instead; else the event is,
 * and the answer is false. `dropped` counts both. A value that has changed again isn't queued twice. Main
 * only. */
bool drom_events_post(drom_events *events, const drom_event *event);

/** Takes the oldest event; false if there is none. Main only. */
bool drom_events_take(drom_events *events, drom_event *event);

/** True if an event of that source is queued. Main only. */
bool drom_events_have(const drom_events *events, uint8_t source);

/** True if there is a place that isn't reserved for keys and contacts. */
static inline bool drom_events_have_room(const drom_events *events)
{
    return events->count < DROM_EVENTS - DROM_EVENTS_SPARE;
}

/** Starts with all contacts open. Main only. */
void drom_contacts_init(const drom_contacts_plan DROM_FLASH *plan, drom_us now);

/** Samples the contacts if it is time, and posts at most one change, and the repeats of a held button, as far
 * as the queue has room; the rest follows with the next call. Returns the wait in µs until the next call.
 * Main only; takes 5 µs per contact. */
drom_wait drom_contacts_pass(const drom_contacts_plan DROM_FLASH *plan, const drom_port DROM_FLASH *port,
                             drom_keys *keys, drom_events *events, drom_us now);

#endif
