/* Events: what rules are about. One bounded queue, with many sources. */
#ifndef DROMIKOS_EVENTS_H
#define DROMIKOS_EVENTS_H

#include "base.h"

/** Where an event comes from. What `row` and `key` of the event are depends on it. */
typedef enum drom_source {
    DROM_SOURCE_KEY,   /**< row: handset, key: its key, gesture and hold; value: how long it is held, in ms */
    DROM_SOURCE_LOST,  /**< row: handset that can't be heard any more, so that its keys count as let go */
    DROM_SOURCE_START, /**< the engine runs, and every output is in its rest state */
    DROM_SOURCE_MODE,  /**< row: mode, key: DROM_BEGINS or DROM_ENDS */
    DROM_SOURCE_VALUE, /**< row: value, which has changed */
    DROM_SOURCE_SWITCH, /**< row: switch, key: DROM_OPENS or DROM_CLOSES */
    DROM_SOURCE_LINK,   /**< row: link, key: text; value: the number that came with it */
    DROM_SOURCE_POSTED, /**< row: event of the maker's own code; value: what that gave */
    DROM_SOURCE_TIMER,  /**< row: timer, whose time is over */
    DROM_SOURCE_SCENE,  /**< row: scene, which an action has begun */
    DROM_SOURCE_HEARD,  /**< a frame has come, of a known code or not: drom_engine_frame(). Posted where there
                           are rules about it, before what the frame means for a key */
    DROM_SOURCES
} drom_source;

enum { DROM_OPENS, DROM_CLOSES };
enum { DROM_ENDS, DROM_BEGINS };

typedef struct drom_event {
    uint8_t source; /**< one drom_source */
    uint8_t row;
    uint8_t key;
    uint8_t gesture; /**< of a key: one drom_gesture */
    uint8_t hold;    /**< with DROM_HOLD: row of the hold times */
    int16_t value;
} drom_event;

/** Places of the queue, and those of them that only keys and contacts may fill: one frame, or one contact,
 * gives up to so many events. So a key finds a place whatever else is posted. */
enum { DROM_EVENTS = 13, DROM_EVENTS_SPARE = 5 };

/** Events that wait, in the order in which they came. */
typedef struct drom_events {
    drom_event rows[DROM_EVENTS];
    uint16_t dropped; /**< for want of a place; stays at 65535 */
    uint8_t count;
} drom_events;

/** What one source has posted, from an interrupt or another thread, and the engine hasn't taken yet. One
 * producer, one consumer, no lock. */
enum { DROM_POSTS = 4 };
typedef struct drom_posts {
    struct {
        int16_t value;
        uint8_t row;
    } rows[DROM_POSTS];
    uint8_t head; /**< written by the producer alone; free-running */
    uint8_t tail; /**< written by the consumer alone; free-running */
} drom_posts;

/** What a plan says to the events. */
typedef struct drom_events_plan {
    DROM_MEMORY(drom_posts) posts; /**< one for each source that drom_engine_post_from() is called by */
} drom_events_plan;

/** Adds what was posted; false where there is no room. The source. */
bool drom_posts_put(drom_posts *posts, uint8_t row, int16_t value);

/** Takes what waits longest, as an event; false where nothing waits. Main only. */
bool drom_posts_take(drom_posts *posts, drom_event *event);

/** True when something waits. Main only. */
static inline bool drom_posts_wait(const drom_posts *posts)
{
    return posts->tail != __atomic_load_n(&posts->head, __ATOMIC_ACQUIRE);
}

/** Lets go of all that waits. Main only. */
void drom_posts_clear(drom_posts *posts);

/** Adds an event behind all that wait. Events of keys, contacts and frames may fill the queue, all others
 * leave DROM_EVENTS_SPARE places free. Where an event finds no place, a waiting repeat is dropped for it;
 * else the event itself is, and the answer is false. `dropped` counts both. A change of a value that waits
 * already isn't added again, which counts as added. Main only. */
bool drom_events_post(drom_events *events, const drom_event *event);

/** Takes the event that waits longest; false when none waits. Main only. */
bool drom_events_take(drom_events *events, drom_event *event);

/** True when an event of that source waits. Main only. */
bool drom_events_have(const drom_events *events, uint8_t source);

/** True when a place is free that any event may have, so that keys find theirs, too. */
static inline bool drom_events_have_room(const drom_events *events)
{
    return events->count < DROM_EVENTS - DROM_EVENTS_SPARE;
}

#endif
