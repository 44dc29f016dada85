/* From frames to key events: which key of which handset, and what the hand did with it.
 *
 * Dittos and whole-frame repeats come out alike. One lost frame doesn't break a hold. */
#ifndef DROMIKOS_KEYS_H
#define DROMIKOS_KEYS_H

#include "receive.h"

/** What the hand did. Bits, so that a rule can name several. */
typedef enum drom_gesture {
    DROM_PRESS = 1,   /**< the first frame of a press, at once */
    DROM_REPEAT = 2,  /**< each further frame while it is held */
    DROM_HOLD = 4,    /**< held past a row of the plan's hold times; told by the first frame after it */
    DROM_RELEASE = 8, /**< unheard for the protocol's release time, or another press came */
} drom_gesture;

#define DROM_ANY_GESTURE (DROM_PRESS | DROM_REPEAT | DROM_HOLD | DROM_RELEASE)

typedef struct drom_key_event {
    drom_us held_us; /**< from the start of the press's first frame to the start of its newest */
    uint8_t handset; /**< row of the plan's handsets */
    uint8_t key;     /**< row of that handset's codes */
    uint8_t gesture; /**< one drom_gesture */
    uint8_t hold;    /**< with DROM_HOLD, the row of the hold times that was passed */
} drom_key_event;

/** A handset: the code of each key. The row is the key's number. */
typedef struct drom_handset {
    DROM_TABLE(drom_code) codes;
} drom_handset;

/** The key of a handset that is, or was last, down. */
typedef struct drom_hold {
    drom_us pressed_at;
    drom_us heard_at;
    drom_deadline release;
    const drom_protocol DROM_FLASH *protocol;
    uint8_t key;
    uint8_t next_hold; /**< the next row of the hold times */
    bool is_down;
} drom_hold;

/** What a plan says to the keys. */
typedef struct drom_keys_plan {
    DROM_TABLE(drom_handset) handsets;
    DROM_TABLE(uint16_t) hold_ms; /**< the times after which a key counts as held; 1 or more, ascending */
    drom_hold *holds;             /**< as many as handsets */
} drom_keys_plan;

/** Where key events go. Called within drom_keys_frame() and drom_keys_advance(). */
typedef void drom_key_sink(void *context, const drom_key_event *event);

typedef struct drom_keys {
    const drom_keys_plan DROM_FLASH *plan;
    drom_key_sink *sink;
    void *context;
    uint8_t ditto_owner; /**< the handset that sent the last whole frame */
} drom_keys;

/** No handset. */
#define DROM_NOBODY 255

/** Starts with every key up. Main only. */
void drom_keys_init(drom_keys *keys, const drom_keys_plan DROM_FLASH *plan, drom_key_sink *sink,
                    void *context);

/** Takes a frame. Sends up to two events and one for each hold time that has passed. Main only. */
void drom_keys_frame(drom_keys *keys, const drom_frame *frame);

/** Releases the keys that haven't been heard for their protocol's release time. Main only. */
void drom_keys_advance(drom_keys *keys, drom_us now);

/** The wait in µs until the next release; DROM_NEVER when no key is down. */
drom_us drom_keys_wait(const drom_keys *keys, drom_us now);

#endif
