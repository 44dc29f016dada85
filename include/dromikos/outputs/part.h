/* The part of a strip: some of its pixels, with a picture of their own. Its verbs are the strip's. */
#ifndef DROMIKOS_OUTPUTS_PART_H
#define DROMIKOS_OUTPUTS_PART_H

#include "../config.h"

/** The most parts of a strip: each poll of the strip looks at each of them. */
enum { DROM_STRIP_PARTS = 16 };

#ifndef __cplusplus

#include "strip.h"

/** Pixels of a strip, which is an output of the plan as well. The part accepts the orders of a strip. With
 * its first order it gets a picture of its own, a copy of the strip's. Strip orders also apply to its parts,
 * except FILL, SHOW, COLOUR and EFFECT, which overwrite them. Parts don't overlap. */
typedef struct drom_part_settings {
    const drom_strip_settings DROM_FLASH *strip;
    drom_strip_state *state; /**< the strip's */
    uint16_t first;          /**< the first pixel; 0 is the strip's first */
    uint16_t count;          /**< 1 or more */
} drom_part_settings;

struct drom_part_state {
    const drom_part_settings DROM_FLASH *settings;
    drom_part_state *next; /**< of the strip's parts */
    drom_strip_picture picture;
    bool is_apart; /**< it has a picture of its own */
};

extern const drom_output_kind DROM_FLASH drom_part;

/** A row of the outputs, after its strip's. `settings_of` is a drom_part_settings in flash, `state_of` a
 * drom_part_state. */
#define DROM_PART(settings_of, state_of) DROM_OUTPUT_OF(part, settings_of, state_of)

#endif
#endif
