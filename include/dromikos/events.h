/* Frames, key events and events: what a running engine reports. */
#ifndef DROMIKOS_EVENTS_H
#define DROMIKOS_EVENTS_H

#include "config.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Numbers of protocols. */
enum {
    DROM_NO_PROTOCOL,
#define DROM_PROTOCOL(name, row, number) DROM_##name = (number),
#include "protocols.def.h"
    DROM_OWN_PROTOCOL = 128, /**< first number for protocols of your own, up to 254 */
    DROM_UNKNOWN = 255,      /**< a burst of no known protocol */
};

/** The code of a key. Two codes are the same key if all three members are equal. */
typedef struct drom_code {
    uint8_t protocol; /**< its number */
    uint32_t address;
    uint16_t command;
} drom_code;

/** True if two codes are equal. */
static inline bool drom_code_equal(const drom_code *a, const drom_code *b)
{
    return a->command == b->command && a->address == b->address && a->protocol == b->protocol;
}

/** A mark or a space between two edges, or a silence that has not ended. */
typedef struct drom_interval {
    drom_us at;            /**< its start */
    uint16_t us;           /**< its length; 65535: that or longer */
    uint16_t before_us;    /**< length of the interval before, likewise */
    uint16_t tolerance_us; /**< additional error of both lengths, as interrupts were masked */
    bool is_mark;
} drom_interval;

typedef enum drom_frame_kind {
    DROM_FRAME_WHOLE,
    DROM_FRAME_REPEAT,     /**< a ditto: repeats the last frame and has no code */
    DROM_FRAME_HEADERLESS, /**< has a code, but counts only after a whole frame (jvc without its leader) */
    DROM_FRAME_BOUNDARY,   /**< begins or ends a press and has no code (nrc17) */
} drom_frame_kind;

typedef struct drom_protocol drom_protocol; /* protocols.h */

/** A decoded frame. */
typedef struct drom_frame {
    const drom_protocol DROM_FLASH *protocol;
    drom_code code;     /**< of a repeat or boundary frame, only the protocol is set */
    drom_us at;         /**< start of the first mark */
    drom_us lasted_us;  /**< from `at` to the last informative edge */
    uint16_t intervals; /**< marks and spaces of an unknown burst; else 0 */
    drom_frame_kind kind;
    uint8_t toggle;      /**< 0 or 1, if the protocol has a toggle bit */
    uint8_t margin;      /**< of the worst bit; see drom_frame_margin() */
    uint8_t best_margin; /**< of a perfect bit */
} drom_frame;

#if DROM_WITH_OBSERVER
/** Returns the distance of the frame's worst bit from a different value, in %: 100 is perfect. 0 for an
 * unknown burst. */
static inline uint8_t drom_frame_margin(const drom_frame *frame)
{
    if (frame->margin >= frame->best_margin) {
        return frame->best_margin > 0 ? 100 : 0;
    }
    return (uint8_t)(frame->margin * 100u / frame->best_margin);
}
#endif

/** What was done with a key. Bits, so that a rule can name several. */
typedef enum drom_gesture {
    DROM_PRESS = 1,  /**< the first frame of a press, at once */
    DROM_REPEAT = 2, /**< each repeat while the key is held */
    DROM_HOLD =
        4, /**< held for longer than a row of the plan's hold times; with the first frame after that */
    DROM_RELEASE = 8, /**< no frame for two periods and a frame's length, or another key was pressed */
    DROM_TAP = 16,    /**< released within `tap_ms`, and not part of a double */
    DROM_DOUBLE = 32, /**< pressed within `double_ms` after a tap, and tapped again; for keys in `doubles` */
} drom_gesture;

#define DROM_ANY_GESTURE (DROM_PRESS | DROM_REPEAT | DROM_HOLD | DROM_RELEASE | DROM_TAP | DROM_DOUBLE)

typedef struct drom_key_event {
    drom_us held_us; /**< from the start of the press's first frame to the start of its newest; at most
                        DROM_LONGEST_US */
    uint8_t handset; /**< row of the plan's handsets */
    uint8_t key;     /**< row of the handset's codes */
    uint8_t gesture; /**< one drom_gesture */
    uint8_t hold;    /**< with DROM_HOLD: row of the hold times */
} drom_key_event;

/** The source of an event. It determines what the event's `row` and `key` are. */
typedef enum drom_source {
    DROM_SOURCE_KEY,    /**< row: handset, key: its key, gesture and hold; value: time held, in ms */
    DROM_SOURCE_LOST,   /**< row: a handset that can no longer be received; its keys count as released */
    DROM_SOURCE_START,  /**< the engine runs, and every output is in its rest state */
    DROM_SOURCE_MODE,   /**< row: mode, key: DROM_BEGINS or DROM_ENDS */
    DROM_SOURCE_VALUE,  /**< row: a value that has changed */
    DROM_SOURCE_SWITCH, /**< row: switch, key: DROM_OPENS or DROM_CLOSES */
    DROM_SOURCE_POSTED, /**< row: event of your own code; value: as posted */
    DROM_SOURCE_TIMER,  /**< row: a timer that has ended */
    DROM_SOURCE_SCENE,  /**< row: a scene that an action has begun */
    DROM_SOURCE_HEARD, /**< a frame of any code: drom_engine_frame(). Only if rules use it; precedes the key's
                          event */
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

typedef struct drom_action drom_action; /* plan.h */

/** Functions that the engine calls as it works: for a terminal or a log. Each may be null; none may call the
 * engine. */
typedef struct drom_observer {
    void *context;
    void (*frame)(void *context, const drom_frame *frame);
    void (*key)(void *context, const drom_key_event *event);
    void (*event)(void *context, const drom_event *event);    /**< not of keys; before its rules fire */
    void (*rule)(void *context, uint8_t row);                 /**< has fired, or its held order is undone */
    void (*action)(void *context, const drom_action *action); /**< before it begins */
    void (*wait_ended)(void *context, uint8_t rule_row); /**< by its time limit: the output is still busy */
} drom_observer;

#ifdef __cplusplus
}
#endif

#endif
