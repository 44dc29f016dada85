/* The sender: another handset's keys, by an infrared LED on a pin with a carrier.
 *
 * A press that is sent is a series: the frames that its protocol makes of one press, each at its time. It
 * begins when the air is free for as many as a press has at least; where a key that is down leaves no such
 * gap, over that key's repeats, but never over another frame. What can't go out at its time ends the series
 * for good, since the rest of it would be another press. */
#ifndef DROMIKOS_SENDER_H
#define DROMIKOS_SENDER_H

#include "encode.h"
#include "outputs.h"

typedef enum drom_sender_verb {
    DROM_SENDER_SEND, /**< the key's press, with so many frames: DROM_SEND(key, frames); what is held is let
                         go */
    DROM_SENDER_HOLD, /**< the key, until it is let go; at least one press. `value` is its row, with
                         DROM_SENDER_PASSES_ON */
    DROM_SENDER_LET_GO,
} drom_sender_verb;

/** The value of DROM_SENDER_SEND. `key`: row of the sender's keys; `frames`: 1 to 255, or 0 for as many as
 * one press has. */
#define DROM_SEND(key, frames) ((uint32_t)(key) | (uint32_t)(frames) << 8)

/** The same for 1 to 255 presses, each with as many frames as one has. */
#define DROM_SEND_PRESSES(key, presses) ((uint32_t)(key) | DROM_SENDER_PRESSES | (uint32_t)(presses) << 8)

/** Added to the row in DROM_SENDER_HOLD: it passes a handset's key on. Then it goes on only while that is
 * known to be down, and covers no more than one of its repeats before it hears it again. */
#define DROM_SENDER_PASSES_ON UINT32_C(0x8000)

/** Rows of a sender's keys are below this, which says that their number is of presses. */
enum { DROM_SENDER_PRESSES = 0x80 };

/** A key to send. */
typedef struct drom_sender_key {
    const drom_waveform DROM_FLASH *waveform;
    uint32_t address;
    uint16_t command;
    uint8_t press_ms;  /**< how long the frames of a press last, as few as it has at least; 0: as long as the
                          protocol's longest frame */
    uint8_t repeat_ms; /**< and how long each further one, likewise */
    uint8_t each_10ms; /**< held, it is sent in presses: so long after another frame of one would have been
                          due, in 10 ms, the next; 0: in one */
} drom_sender_key;

typedef struct drom_sender_settings {
    DROM_TABLE(drom_sender_key) keys; /**< at most 128 */
    uint8_t pin;
    bool is_shielded; /**< our receiver doesn't see this LED, so that both may go on at once */
} drom_sender_settings;

/** How many sends can wait for the air. A further one is dropped, and so is one like the newest that waits.
 */
enum { DROM_SENDER_QUEUE = 4 };

typedef struct drom_sender_state {
    drom_encoder encoder;
    drom_us next_at;  /**< the next edge, or the next frame */
    drom_us frame_at; /**< first edge of this frame, or of the one before */
    uint32_t toggles; /**< turns the carrier on or off */
    struct {
        uint8_t key;   /**< with DROM_SENDER_PRESSES where it is sent in presses */
        uint8_t count; /**< of them, or of frames; 0: for as long as it is held */
    } queue[DROM_SENDER_QUEUE];
    uint8_t waiting;     /**< in the queue; the first is the one that is being sent */
    uint8_t frames;      /**< of this press that have begun */
    uint8_t ended;       /**< the key whose press ended last */
    uint16_t late_us;    /**< the next frame of a press, by now */
    bool is_sending : 1; /**< a frame */
    bool is_apart : 1;   /**< which a machine of its own sends */
    bool is_due : 1; /**< the next frame of a press comes soon: its first edge is a timed edge like others */
    bool has_begun : 1;  /**< a press, whose next frame is due at next_at */
    bool is_pausing : 1; /**< the next press of that key comes after next_at */
    bool is_opened : 1;  /**< the boundary frame before the press has gone out */
    bool is_closing : 1; /**< the one after it is going out */
    bool toggle : 1;
    bool is_held : 1;
    bool is_more : 1;      /**< the press that waits is another one of the key that is held */
    bool is_passed_on : 1; /**< what is held, from a handset that our receiver hears */
} drom_sender_state;

extern const drom_output_kind DROM_FLASH drom_sender;

/** A row of the outputs table. `settings_of` is a drom_sender_settings in flash, `state_of` a
 * drom_sender_state. */
#define DROM_SENDER(settings_of, state_of)                                                                   \
    {                                                                                                        \
        .kind = &drom_sender,                                                                                \
        .settings = 1 ? &(settings_of) : (const drom_sender_settings DROM_FLASH *)NULL,                      \
        .state = 1 ? &(state_of) : (drom_sender_state *)NULL                                                 \
    }

#endif
