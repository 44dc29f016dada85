/* The strip: a row of addressable pixels with an effect that goes on for ever, or a picture that stays.
 *
 * Pixels are worked out a few at a time, into the strip's own bytes, and go out when they are all done. */
#ifndef DROMIKOS_STRIP_H
#define DROMIKOS_STRIP_H

#include "outputs.h"

/** A strip that is off counts as dark, as a lamp does: BRIGHTER comes up from there, DIMMER leaves it off.
 * What brightness and palette say is kept until it is on; a brightness of 0 is off. */
typedef enum drom_strip_verb {
    DROM_STRIP_OFF, /**< all dark; the picture is kept */
    DROM_STRIP_ON,  /**< what was shown last */
    DROM_STRIP_TOGGLE,
    DROM_STRIP_FILL, /**< every pixel with a colour, 0xrrggbb; switches it on */
    DROM_STRIP_SHOW, /**< the first `value` pixels with the newest colour, the others dark; switches it on */
    DROM_STRIP_BRIGHTNESS, /**< `value` of DROM_FULL, for all that is shown */
    DROM_STRIP_BRIGHTER,   /**< by `value` of DROM_FULL; switches it on */
    DROM_STRIP_DIMMER,     /**< by `value` of DROM_FULL */
    DROM_STRIP_PALETTE,    /**< effects take their colours from row `value` of the palettes */
    DROM_STRIP_COLOUR, /**< FILL with the next colour of the palette (1), or the one before (0), in a ring;
                          at first, and with a new palette, the next one is the first */
    DROM_STRIP_EFFECT, /**< begins row `value` of the effects; switches it on */
} drom_strip_verb;

/** The most colours of a palette. */
enum { DROM_STRIP_COLOURS = 16 };

/** A list of colours, 0xrrggbb. */
typedef struct drom_strip_palette {
    DROM_TABLE(uint32_t) colours; /**< 1 to DROM_STRIP_COLOURS */
} drom_strip_palette;

/** What an effect paints with. */
typedef struct drom_strip_scene {
    const uint32_t DROM_FLASH *colours; /**< of the palette */
    uint8_t colour_count;
    uint16_t frame; /**< counts on every 16 ms, and wraps */
} drom_strip_scene;

/** An effect: the colours of some pixels, from number `from` on, at a moment. At most 10 µs each. */
typedef void drom_strip_effect(const drom_strip_scene *scene, uint16_t from, uint8_t count,
                               uint32_t *colours);
typedef drom_strip_effect *drom_strip_effect_ref;

drom_strip_effect drom_strip_chase;   /**< the colours, in bands of four pixels, run along */
drom_strip_effect drom_strip_blend;   /**< the whole strip goes from colour to colour */
drom_strip_effect drom_strip_breathe; /**< the first colour swells and fades */
drom_strip_effect drom_strip_sparkle; /**< pixels light up here and there */

/** The most pixels of a strip. */
enum { DROM_STRIP_PIXELS = 1000 };

typedef struct drom_strip_settings {
    uint8_t *bytes; /**< three a pixel */
    uint16_t count; /**< pixels, 1 to DROM_STRIP_PIXELS */
    uint8_t pin;
    uint8_t order[3]; /**< which of red (0), green (1) and blue (2) is sent first, second, third */
    uint8_t every_ms; /**< minimum pause after a refresh; 0: none, though nothing has changed */
    uint16_t max_ma;  /**< a picture that would take more, of 20 mA a colour and 1 mA a dark pixel, is shown
                          as much darker; more than `count`; 0: there is no limit */
    DROM_TABLE(drom_strip_effect_ref) effects;
    DROM_TABLE(drom_strip_palette) palettes; /**< the first is the one at the start */
} drom_strip_settings;

/** What is to be shown. */
typedef struct drom_strip_picture {
    uint32_t colour; /**< of FILL and SHOW */
    uint16_t lit;    /**< by SHOW */
    uint8_t brightness;
    uint8_t palette;
    uint8_t colours; /**< of the palette that COLOUR has gone past */
    uint8_t effect;  /**< 1 more than its row; 0: none */
    bool is_on;
} drom_strip_picture;

typedef struct drom_part_state drom_part_state; /* part.h */

typedef struct drom_strip_state {
    drom_deadline next; /**< until then it latches, and rests */
    drom_strip_picture picture;
    drom_part_state *parts; /**< in a list, newest first; null: there are none */
    uint32_t sum;           /**< of all bytes of the picture */
    uint16_t frame;         /**< of the effect, for which the pixels are worked out */
    uint16_t rendered;      /**< pixels of this refresh that are worked out; */
    uint16_t limited;       /**< and those that are as dark as the current has it; all: it can go out */
    bool is_stale : 1;      /**< the pixels need working out again */
    bool is_sent : 1;       /**< the strip shows them, or will when they are out */
    bool is_going_out : 1;  /**< a machine of its own is sending them */
    uint8_t begun_anew : 5; /**< how often its pixels were, before it showed them */
} drom_strip_state;

extern const drom_output_kind DROM_FLASH drom_strip;

/** A row of the outputs table. `settings_of` is a drom_strip_settings in flash, `state_of` a
 * drom_strip_state. */
#define DROM_STRIP(settings_of, state_of)                                                                    \
    {                                                                                                        \
        .kind = &drom_strip, .settings = 1 ? &(settings_of) : (const drom_strip_settings DROM_FLASH *)NULL,  \
        .state = 1 ? &(state_of) : (drom_strip_state *)NULL                                                  \
    }

#endif
