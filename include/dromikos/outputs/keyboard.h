/* A keyboard over USB: chords, held keys, texts and media keys. Sends the reports of the USB HID boot
 * keyboard (8 bytes: modifiers, 0, six keys) and of consumer controls (2 bytes: one usage, lower byte first).
 * Usages are those of the USB HID Usage Tables 1.3, pages 0x07 and 0x0C. */
#ifndef DROMIKOS_OUTPUTS_KEYBOARD_H
#define DROMIKOS_OUTPUTS_KEYBOARD_H

#include "../config.h"

typedef enum drom_keyboard_verb {
    DROM_KEYBOARD_LET_GO, /**< releases the held key, or cancels a queued HOLD */
    DROM_KEYBOARD_TAP,    /**< presses and releases row `value` of the strokes */
    DROM_KEYBOARD_HOLD,   /**< presses row `value` of the strokes, until another order */
    DROM_KEYBOARD_TYPE,   /**< types row `value` of the texts */
} drom_keyboard_verb;

#ifndef __cplusplus

#include "../output.h"

/** A key with its modifiers. */
typedef struct drom_stroke {
    uint16_t usage;    /**< of the keyboard page, up to 255; or DROM_MEDIA(usage); 0: modifiers only */
    uint8_t modifiers; /**< bits of the report: 1 left control, 2 left shift, 4 left alt, 8 left GUI; 16 to
                          128 the same on the right */
} drom_stroke;

DROM_DEFINE_TABLE(drom_stroke_table, drom_stroke);

/** A usage of the consumer page, up to 0x7fff. It has no modifiers. */
#define DROM_MEDIA(usage) ((uint16_t)(0x8000u | (usage)))

typedef struct drom_keyboard_text {
    drom_stroke_table strokes; /**< in the computer's layout */
} drom_keyboard_text;

DROM_DEFINE_TABLE(drom_text_table, drom_keyboard_text);

typedef struct drom_keyboard_settings {
    drom_stroke_table strokes;
    drom_text_table texts;
} drom_keyboard_settings;

typedef struct drom_keyboard_order {
    uint8_t verb;
    uint8_t row;
} drom_keyboard_order;

/** Orders in the queue, with the current one. */
enum { DROM_KEYBOARD_ORDERS = 4 };

typedef struct drom_keyboard_state {
    drom_deadline next;    /**< of the next report */
    drom_deadline give_up; /**< when it detaches, if a key is still down */
    uint16_t dropped;      /**< orders dropped because the queue was full or no computer was connected */
    drom_keyboard_order orders[DROM_KEYBOARD_ORDERS];
    uint8_t count;
    uint8_t at;    /**< stroke of a text */
    uint8_t empty; /**< empty reports to send before anything else: one of each kind */
    bool is_down;  /**< a key is down, as far as the computer knows */
    bool is_media; /**< that key is a media key */
} drom_keyboard_state;

extern const drom_output_kind DROM_FLASH drom_keyboard;

/** A row of the outputs. `settings_of` is a drom_keyboard_settings in flash, `state_of` a
 * drom_keyboard_state. The plan needs a guard time, with or without guarded pins. */
#define DROM_KEYBOARD(settings_of, state_of) DROM_OUTPUT_OF(keyboard, settings_of, state_of)

#endif
#endif
