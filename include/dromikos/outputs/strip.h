/* The strip: addressable pixels with an effect or a picture.
 *
 * Pixels are computed a few at a time, into the strip's own bytes, and are sent when all are done. */
#ifndef DROMIKOS_OUTPUTS_STRIP_H
#define DROMIKOS_OUTPUTS_STRIP_H

#include "../config.h"

/** A strip that is off counts as dark: BRIGHTER starts from there, DIMMER leaves it off. Brightness and
 * palette are kept until it is on; a brightness of 0 is off. */
typedef enum drom_strip_verb {
    DROM_STRIP_OFF, /**< dark; the picture is kept */
    DROM_STRIP_ON,  /**< the last picture */
    DROM_STRIP_TOGGLE,
    DROM_STRIP_FILL,       /**< all pixels in a colour, 0xrrggbb; switches on */
    DROM_STRIP_SHOW,       /**< the first `value` pixels in the newest colour, the others dark; switches on */
    DROM_STRIP_BRIGHTNESS, /**< `value` of DROM_FULL_LEVEL, of the whole picture */
    DROM_STRIP_BRIGHTER,   /**< by `value` of DROM_FULL_LEVEL; switches on */
    DROM_STRIP_DIMMER,     /**< by `value` of DROM_FULL_LEVEL */
    DROM_STRIP_PALETTE,    /**< sets row `value` of the palettes, for effects and COLOUR */
    DROM_STRIP_COLOUR, /**< FILL with the next colour of the palette (1) or the previous one (0), cyclic; at
                          first, and with a new palette, the next colour is the first */
    DROM_STRIP_EFFECT, /**< begins row `value` of the effects; switches on */
} drom_strip_verb;

#ifndef __cplusplus

#include "../output.h"

/** The most colours of a palette. */
enum { DROM_STRIP_COLOURS = 16 };

typedef struct drom_strip_palette {
    drom_colour_table colours; /**< 1 to DROM_STRIP_COLOURS */
} drom_strip_palette;

DROM_DEFINE_TABLE(drom_palette_table, drom_strip_palette);

/** The input of an effect. */
typedef struct drom_strip_scene {
    const uint32_t DROM_FLASH *colours; /**< of the palette */
    uint8_t colour_count;
    uint16_t frame; /**< increments every 16 ms, and wraps */
} drom_strip_scene;

/** An effect: computes the colours of `count` pixels, beginning with pixel `from`. At most 10 µs each. */
typedef void drom_strip_effect(const drom_strip_scene *scene, uint16_t from, uint8_t count,
                               uint32_t *colours);
typedef drom_strip_effect *drom_strip_effect_ref;

DROM_DEFINE_TABLE(drom_effect_table, drom_strip_effect_ref);

drom_strip_effect drom_strip_chase; /**< bands of four pixels in the palette's colours move along the strip */
drom_strip_effect drom_strip_blend; /**< the whole strip changes gradually from colour to colour */
drom_strip_effect drom_strip_breathe; /**< the first colour gets brighter and darker */
drom_strip_effect drom_strip_sparkle; /**< single pixels light up */

/** The most pixels of a strip. */
enum { DROM_STRIP_PIXELS = 1000 };

typedef struct drom_strip_settings {
    uint8_t *bytes; /**< three per pixel */
    uint16_t count; /**< pixels, 1 to DROM_STRIP_PIXELS */
    uint8_t pin;
    uint8_t order[3]; /**< which of red (0), green (1) and blue (2) is sent first, second and third */
    uint8_t
        every_ms; /**< minimum pause after a refresh; 0: refreshes without pause, even an unchanged picture */
    uint16_t max_ma; /**< pictures that need more, at 20 mA per colour and 1 mA per dark pixel, are darkened;
                        more than `count`; 0: no limit */
    drom_effect_table effects;
    drom_palette_table palettes; /**< the first is active at start */
} drom_strip_settings;

/** What is to be shown. */
typedef struct drom_strip_picture {
    uint32_t colour; /**< of FILL and SHOW */
    uint16_t lit;    /**< pixels of SHOW */
    uint8_t brightness;
    uint8_t palette;
    uint8_t colours; /**< colours of the palette that COLOUR has passed */
    uint8_t effect;  /**< its row + 1; 0: none */
    bool is_on;
} drom_strip_picture;

typedef struct drom_part_state drom_part_state; /* part.h */

typedef struct drom_strip_state {
    drom_deadline next; /**< end of the latch time and of the pause */
    drom_strip_picture picture;
    drom_part_state *parts; /**< a list, newest first; null: none */
    uint32_t sum;           /**< of all bytes of the picture */
    uint16_t frame;         /**< of the effect, for which pixels are computed */
    uint16_t rendered;      /**< pixels of this refresh that are computed */
    uint16_t limited;       /**< pixels that are darkened to the limit; all: ready to send */
    bool is_stale : 1;      /**< the pixels must be computed again */
    bool is_sent : 1;       /**< the strip shows the pixels, or will when hardware has sent them */
    bool is_going_out : 1;  /**< hardware is sending the pixels */
    uint8_t begun_anew : 5; /**< restarts of the computation before the strip was refreshed */
} drom_strip_state;

extern const drom_output_kind DROM_FLASH drom_strip;

/** A row of the outputs. `settings_of` is a drom_strip_settings in flash, `state_of` a drom_strip_state. */
#define DROM_STRIP(settings_of, state_of) DROM_OUTPUT_OF(strip, settings_of, state_of)

#endif
#endif
