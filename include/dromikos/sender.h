/* The sender: another handset's keys, by an infrared LED on a pin with a carrier.
 *
 * It never transmits over a frame, neither one that is being received nor its own: a frame goes out when the
 * air is free for all of it, which may be in the gaps between a held key's repeats. */
#ifndef DROMIKOS_SENDER_H
#define DROMIKOS_SENDER_H

#include "encode.h"
#include "outputs.h"

typedef enum drom_sender_verb {
    DROM_SENDER_SEND, /**< the key's press, with so many frames: DROM_SEND(key, frames); what is held is let
                         go */
    DROM_SENDER_HOLD, /**< the key, until it is let go; at least one frame */
    DROM_SENDER_LET_GO,
} drom_sender_verb;

/** The value of DROM_SENDER_SEND. `key`: row of the sender's keys; `frames`: 1 to 255, or 0 for as many as
 * one press has. */
#define DROM_SEND(key, frames) ((uint32_t)(key) | (uint32_t)(frames) << 8)

/** A key to send. */
typedef struct drom_sender_key {
    const drom_waveform DROM_FLASH *waveform;
    uint32_t address;
    uint16_t command;
    uint8_t frame_ms; /**< how long a frame of it lasts, at most; 0: as long as the protocol's longest */
} drom_sender_key;

typedef struct drom_sender_settings {
    DROM_TABLE(drom_sender_key) keys;
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
        uint8_t key;
        uint8_t frames; /**< 0: for as long as it is held */
    } queue[DROM_SENDER_QUEUE];
    uint8_t waiting;     /**< in the queue; the first is the one that is being sent */
    uint8_t frames;      /**< of this press that have begun */
    bool is_sending : 1; /**< a frame */
    bool is_apart : 1;   /**< which a machine of its own sends */
    bool has_begun : 1;  /**< a press, whose next frame is due at next_at */
    bool is_opened : 1;  /**< the boundary frame before the press has gone out */
    bool is_closing : 1; /**< the one after it is going out */
    bool toggle : 1;
    bool is_held : 1;
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
