/* A computer's keyboard, over USB: chords, keys that are held, texts, and media keys. What is sent are the
 * reports of the USB HID boot keyboard (8 bytes: modifiers, 0, six keys) and of consumer controls (2 bytes:
 * one usage, the lower byte first); the usages are those of the USB HID Usage Tables 1.3, pages 0x07 and
 * 0x0C. */
#ifndef DROMIKOS_KEYBOARD_H
#define DROMIKOS_KEYBOARD_H

#include "outputs.h"

typedef enum drom_keyboard_verb {
    DROM_KEYBOARD_LET_GO, /**< of what is held, or was to be */
    DROM_KEYBOARD_TAP,    /**< presses and lets go; `value` is a row of the strokes */
    DROM_KEYBOARD_HOLD,   /**< presses, until another order; likewise */
    DROM_KEYBOARD_TYPE,   /**< `value` is a row of the texts */
} drom_keyboard_verb;

/** A key with its modifiers. */
typedef struct drom_stroke {
    uint16_t usage;    /**< of the keyboard page, up to 255; or DROM_MEDIA(usage); 0: the modifiers alone */
    uint8_t modifiers; /**< bits, as in the report: 1 left control, 2 left shift, 4 left alt, 8 left GUI,
                          and 16 to 128 the same on the right */
} drom_stroke;

/** A usage of the consumer page, up to 0x7fff. It has no modifiers. */
#define DROM_MEDIA(usage) ((uint16_t)(0x8000u | (usage)))

typedef struct drom_keyboard_text {
    DROM_TABLE(drom_stroke) strokes; /**< in the computer's layout */
} drom_keyboard_text;

typedef struct drom_keyboard_settings {
    DROM_TABLE(drom_stroke) strokes;
    DROM_TABLE(drom_keyboard_text) texts;
} drom_keyboard_settings;

typedef struct drom_keyboard_order {
    uint8_t verb;
    uint8_t row;
} drom_keyboard_order;

/** So many orders wait, the one that is being done included. */
enum { DROM_KEYBOARD_ORDERS = 4 };

typedef struct drom_keyboard_state {
    drom_deadline next;    /**< when it goes on */
    drom_deadline give_up; /**< it leaves the bus then, if a key is still down */
    uint16_t dropped;      /**< orders for which there was no place, or no computer that listens */
    drom_keyboard_order orders[DROM_KEYBOARD_ORDERS];
    uint8_t count;
    uint8_t at;    /**< stroke of a text */
    uint8_t empty; /**< so many empty reports are due: one of each kind, before anything else */
    bool is_down;  /**< a key is, as far as the computer knows */
    bool is_media; /**< and it is a media key */
} drom_keyboard_state;

extern const drom_output_kind DROM_FLASH drom_keyboard;

/** A row of the outputs table. `settings_of` is a drom_keyboard_settings in flash, `state_of` a
 * drom_keyboard_state. A plan with one has a guard, whose time is given; pins need not be guarded. */
#define DROM_KEYBOARD(settings_of, state_of)                                                                 \
    {                                                                                                        \
        .kind = &drom_keyboard,                                                                              \
        .settings = 1 ? &(settings_of) : (const drom_keyboard_settings DROM_FLASH *)NULL,                    \
        .state = 1 ? &(state_of) : (drom_keyboard_state *)NULL                                               \
    }

#endif
