/* The part of a strip: some of its pixels, with a picture of their own. */
#ifndef DROMIKOS_PART_H
#define DROMIKOS_PART_H

#include "strip.h"

/** The most parts of a strip: each is looked at in each poll of it. */
enum { DROM_STRIP_PARTS = 16 };

/** Some pixels of a strip, which is an output of the plan, too: the part takes the orders of a strip. From
 * its first order on it has a picture of its own, which begins as the strip's; an order to the strip is one
 * to its parts as well, but for FILL, SHOW, COLOUR and EFFECT, which go over them. Parts don't overlap. */
typedef struct drom_part_settings {
    const drom_strip_settings DROM_FLASH *strip;
    drom_strip_state *state; /**< the strip's */
    uint16_t first;          /**< pixel, from 0 on */
    uint16_t count;          /**< 1 or more */
} drom_part_settings;

struct drom_part_state {
    const drom_part_settings DROM_FLASH *settings;
    drom_part_state *next; /**< of the strip's parts */
    drom_strip_picture picture;
    bool is_apart; /**< it has a picture of its own */
};

extern const drom_output_kind DROM_FLASH drom_part;

/** A row of the outputs table, after its strip's. `settings_of` is a drom_part_settings in flash,
 * `state_of` a drom_part_state. */
#define DROM_PART(settings_of, state_of)                                                                     \
    {                                                                                                        \
        .kind = &drom_part, .settings = 1 ? &(settings_of) : (const drom_part_settings DROM_FLASH *)NULL,    \
        .state = 1 ? &(state_of) : (drom_part_state *)NULL                                                   \
    }

#endif
