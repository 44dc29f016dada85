/* The sender: keys of another handset, by an infrared LED on a pin with a carrier.
 *
 * A press is a series: the frames that its protocol sends per press, each at its time. The series begins when
 * the medium is free for the protocol's minimum number of frames; if a held key leaves no such gap, over that
 * key's repeats, but never over another frame. A frame that can't be sent at its time ends the series, as a
 * later one would be a new press. */
#ifndef DROMIKOS_OUTPUTS_SENDER_H
#define DROMIKOS_OUTPUTS_SENDER_H

#include "../config.h"

typedef enum drom_sender_verb {
    DROM_SENDER_SEND, /**< one press with a number of frames: DROM_SEND(key, frames); or DROM_SEND_PRESSES.
                         Releases a held key */
    DROM_SENDER_HOLD, /**< holds the key until LET_GO, for at least one press. `value`: its row, or with
                         DROM_SENDER_PASSES_ON */
    DROM_SENDER_LET_GO,
} drom_sender_verb;

/** The value of DROM_SENDER_SEND. `key`: row of the sender's keys; `frames`: 1 to 255, or 0 for the
 * protocol's minimum. */
#define DROM_SEND(key, frames) ((uint32_t)(key) | (uint32_t)(frames) << 8)

/** The same for 1 to 255 presses of the minimum length. */
#define DROM_SEND_PRESSES(key, presses) ((uint32_t)(key) | DROM_SENDER_PRESSES | (uint32_t)(presses) << 8)

/** Added to the row in DROM_SENDER_HOLD: passes a handset's key on. It ends when that key is no longer known
 * to be down, and covers at most one of its repeats before receiving it again. */
#define DROM_SENDER_PASSES_ON UINT32_C(0x8000)

/** Rows of a sender's keys are below this bit, which says that the number counts presses. */
enum { DROM_SENDER_PRESSES = 0x80 };

#ifndef __cplusplus

#include "../encode.h"
#include "../output.h"

/** A key to send. */
typedef struct drom_sender_key {
    const drom_waveform DROM_FLASH *waveform;
    uint32_t address;
    uint16_t command;
    uint8_t press_ms;  /**< duration of the shortest press; 0: as long as the protocol's longest frame */
    uint8_t repeat_ms; /**< duration of each further frame; 0: likewise */
    uint8_t each_10ms; /**< while held, separate presses: pause in 10 ms after the time at which another frame
                          would have been due; 0: one press */
} drom_sender_key;

DROM_DEFINE_TABLE(drom_sender_key_table, drom_sender_key);

typedef struct drom_sender_settings {
    drom_sender_key_table keys; /**< at most 128 */
    uint8_t pin;
    bool is_shielded; /**< our receiver doesn't receive this LED, so that both can work at the same time */
} drom_sender_settings;

/** Orders in the queue. Further ones are dropped, and those equal to the newest. */
enum { DROM_SENDER_QUEUE = 4 };

typedef struct drom_sender_state {
    drom_encoder encoder;
    drom_us next_at;  /**< the next edge, or the next frame */
    drom_us frame_at; /**< first edge of the newest frame */
    uint32_t toggles; /**< the port's bits that switch the carrier */
    struct {
        uint8_t key;   /**< with DROM_SENDER_PRESSES if `count` is of presses */
        uint8_t count; /**< frames or presses; 0: as long as the key is held */
    } queue[DROM_SENDER_QUEUE];
    uint8_t waiting;     /**< orders in the queue; the first is the current one */
    uint8_t frames;      /**< of this press that have begun */
    uint8_t ended;       /**< key of the last press that ended */
    uint16_t late_us;    /**< lateness of the next frame */
    bool is_sending : 1; /**< a frame */
    bool is_apart : 1;   /**< sent by hardware */
    bool is_due : 1;     /**< the next frame of a press is near: its first edge is a timed edge */
    bool has_begun : 1;  /**< a press, whose next frame is due at next_at */
    bool is_pausing : 1; /**< the next press of the key comes after next_at */
    bool is_opened : 1;  /**< the boundary frame before the press is sent */
    bool is_closing : 1; /**< the boundary frame after the press is being sent */
    bool toggle : 1;
    bool is_held : 1;
    bool is_more : 1;      /**< the queued press is another one of the held key */
    bool is_passed_on : 1; /**< the held key is a handset's that our receiver receives */
} drom_sender_state;

extern const drom_output_kind DROM_FLASH drom_sender;

/** A row of the outputs. `settings_of` is a drom_sender_settings in flash, `state_of` a drom_sender_state. */
#define DROM_SENDER(settings_of, state_of) DROM_OUTPUT_OF(sender, settings_of, state_of)

#endif
#endif
