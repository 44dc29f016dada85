/* From frames to key events: which key of which handset, and what the hand did with it.
 *
 * Repeat frames with and without a code, and toggle bits, come out alike. One lost frame doesn't break a
 * hold. */
#ifndef DROMIKOS_KEYS_H
#define DROMIKOS_KEYS_H

#include "air.h"
#include "receive.h"

/** What the hand did. Bits, so that a rule can name several. */
typedef enum drom_gesture {
    DROM_PRESS = 1,   /**< the first frame of a press, at once */
    DROM_REPEAT = 2,  /**< each further tick while it is held */
    DROM_HOLD = 4,    /**< held past a row of the plan's hold times; reported by the first frame after it */
    DROM_RELEASE = 8, /**< unheard for two periods and a frame, or another press came */
    DROM_TAP = 16,    /**< released after less than tap_ms, and not the first or second half of a double */
    DROM_DOUBLE =
        32, /**< pressed within double_ms after a tap, and tapped again; only for keys in `doubles` */
} drom_gesture;

#define DROM_ANY_GESTURE (DROM_PRESS | DROM_REPEAT | DROM_HOLD | DROM_RELEASE | DROM_TAP | DROM_DOUBLE)

typedef struct drom_key_event {
    drom_us held_us; /**< from the start of the press's first frame to the start of its newest; it stays at
                        DROM_LONGEST_US */
    uint8_t handset; /**< row of the plan's handsets */
    uint8_t key;     /**< row of that handset's codes */
    uint8_t gesture; /**< one drom_gesture */
    uint8_t hold;    /**< with DROM_HOLD, the row of the hold times that was passed */
} drom_key_event;

/** A handset: the code of each key. The row is the key's number. */
typedef struct drom_handset {
    DROM_TABLE(drom_code) codes;
    DROM_TABLE(uint8_t)
    by_code; /**< the same rows, ascending by command, address, protocol: for finding one of many
                in a few looks. None: each is looked at */
    bool needs_second_frame; /**< a press counts only when a second frame has said the same: for protocols
                                that have nothing to check a frame by */
} drom_handset;

/** A key, by its rows. */
typedef struct drom_key_ref {
    uint8_t handset;
    uint8_t key;
} drom_key_ref;

enum {
    DROM_KEY_UP,
    DROM_KEY_UNSURE, /**< one frame came, and a second is needed */
    DROM_KEY_DOWN,
};

/** A press, wherever it comes from. */
typedef struct drom_press {
    drom_us pressed_at;
    drom_us still_at; /**< when it was last known to be down */
    uint8_t key;
    uint8_t next_hold; /**< the next row of the hold times */
    bool is_down;
} drom_press;

/** The key of a handset that is, or was last, down, by its frames. */
typedef struct drom_hold {
    drom_press press;
    drom_rhythm rhythm;
    drom_deadline release;
    const drom_protocol DROM_FLASH *protocol;
    uint8_t key;
    bool toggle : 1;
    uint8_t state : 2; /**< DROM_KEY_UP and so on */
} drom_hold;

/** A handset's repeats, where the plan sets their times. */
typedef struct drom_ticking {
    drom_deadline next;
    uint16_t every_ms;
} drom_ticking;

/** A handset's tap that may yet become a double. */
typedef struct drom_tapped {
    drom_deadline until;
    uint8_t key;
    bool is_second; /**< the press that is going on came soon after a tap of the same key */
} drom_tapped;

/** What a plan says to the keys. Times of 0 are the usual ones. */
typedef struct drom_keys_plan {
    DROM_TABLE(drom_handset) handsets;
    DROM_TABLE(uint16_t) hold_ms; /**< the times after which a key counts as held; 1 or more, ascending */
    DROM_TABLE(drom_key_ref)
    doubles;                  /**< the keys that know a double; their taps are reported only when none came */
    drom_hold *holds;         /**< as many as handsets */
    drom_tapped *taps;        /**< likewise, where there are doubles; else null */
    drom_ticking *ticks;      /**< likewise, where repeat_after_ms isn't 0; else null */
    uint16_t tap_ms;          /**< a tap is shorter; 0: 500 */
    uint16_t double_ms;       /**< from the end of a tap to the next press of a double; 0: 350 */
    uint16_t repeat_after_ms; /**< from the press to the first repeat; 0: repeats are the handset's frames */
    uint16_t repeat_every_ms; /**< between repeats, at first */
    uint16_t repeat_fastest_ms; /**< they speed up by an eighth each, to this; 0: they don't */
    uint8_t gestures;           /**< those that are reported; 0: all */
} drom_keys_plan;

/** Where key events go. Called within drom_keys_frame() and drom_keys_advance(). */
typedef void drom_key_sink(void *context, const drom_key_event *event);

typedef struct drom_keys {
    const drom_keys_plan DROM_FLASH *plan;
    drom_key_sink *sink;
    void *context;
    uint8_t repeat_owner; /**< the handset that sent the last whole frame */
} drom_keys;

/** No handset. */
#define DROM_NO_HOLD 255

/** Starts with every key up. Main only. */
void drom_keys_init(drom_keys *keys, const drom_keys_plan DROM_FLASH *plan, drom_key_sink *sink,
                    void *context);

/** Takes a frame. Sends up to four events; what more hold times have passed comes with the next one. Main
 * only. */
void drom_keys_frame(drom_keys *keys, const drom_frame *frame);

/** Sends what of a handset is due: up to four releases, ticks and taps. True when another handset has some,
 * too. Main only. */
bool drom_keys_advance(drom_keys *keys, drom_us now);

/** What the keys that are down let expect; of several the one that speaks first. `is_quiet`: a frame that was
 * to begin by now hasn't. Main only. */
void drom_keys_expect(const drom_keys *keys, drom_us now, bool is_quiet, drom_expected *expected);

/** Nothing could be heard while we transmitted, which is just over: a key that is down and whose repeat was
 * due stays so until one that is to begin after that should have come. Main only. */
void drom_keys_mute(drom_keys *keys, const drom_air *air);

/** The wait in µs until the next of them; DROM_LONG when no key is down. */
drom_wait drom_keys_wait(const drom_keys *keys, drom_us now);

/** A key of a handset whose keys are contacts is down, or up, and wasn't just now where it `has_changed`;
 * while it is down, call it every few ms. Of two keys of a handset the newer one counts. Main only. */
void drom_keys_touch(drom_keys *keys, uint8_t handset, uint8_t key, bool is_down, bool has_changed,
                     drom_us now);

#endif
