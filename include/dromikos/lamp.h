/* The lamp: any brightness, at once or little by little, in steps that look even; on three pins in any
 * colour. */
#ifndef DROMIKOS_LAMP_H
#define DROMIKOS_LAMP_H

#include "outputs.h"

typedef enum drom_lamp_verb {
    DROM_LAMP_OFF,
    DROM_LAMP_ON, /**< as bright as it was last; at first, fully */
    DROM_LAMP_TOGGLE,
    DROM_LAMP_BRIGHTER, /**< by `value` of DROM_FULL */
    DROM_LAMP_DIMMER,   /**< by `value` of DROM_FULL */
    DROM_LAMP_FADE,     /**< DROM_FADE(level, ms) */
    DROM_LAMP_LET_GO,   /**< stays as bright as it is where it dims; else OFF */
    DROM_LAMP_DIM,      /**< DROM_DIM(way, ms) */
    DROM_LAMP_BLINK,    /**< as bright as it was last, and dark, for `value` ms each: 1 to DROM_LONGEST_MS */
    DROM_LAMP_COLOUR,   /**< 0xrrggbb, but 0, of a lamp in colour; switches it on, as bright as it was last */
} drom_lamp_verb;

/** The value of DROM_LAMP_FADE: to a level, 0 to DROM_FULL, within 0 to 1,800,000 ms. */
#define DROM_FADE(level, ms) ((uint32_t)(level) | (uint32_t)(ms) << 8)

/** The value of DROM_LAMP_DIM: up to full, or down to the darkest light, from one end to the other within 1
 * to 1,800,000 ms; until DROM_LAMP_LET_GO. */
#define DROM_DIM(way, ms) ((uint32_t)(way) | (uint32_t)(ms) << 8)
enum {
    DROM_DIM_ON, /**< the other way than last; up from the dark, down from full */
    DROM_DIM_UP,
    DROM_DIM_DOWN,
};

typedef struct drom_lamp_settings {
    uint8_t pin;        /**< of a lamp in colour: red's */
    bool is_active_low; /**< lit when low */
    bool has_colour;
    uint8_t green_pin; /**< where it has colour */
    uint8_t blue_pin;
} drom_lamp_settings;

typedef struct drom_lamp_state {
    drom_deadline next; /**< step of a fade, or change of what blinks */
    uint32_t step_us;   /**< between them */
    uint32_t colour;    /**< 0xrrggbb, at full level */
    uint8_t level;      /**< as it looks: 0 dark, DROM_FULL full */
    uint8_t target;
    uint8_t last; /**< what ON goes back to */
    bool blinks;
    bool dims;    /**< until it is let go */
    bool went_up; /**< when it dimmed last */
} drom_lamp_state;

extern const drom_output_kind DROM_FLASH drom_lamp;

/** A row of the outputs table. `settings_of` is a drom_lamp_settings in flash, `state_of` a drom_lamp_state.
 */
#define DROM_LAMP(settings_of, state_of)                                                                     \
    {                                                                                                        \
        .kind = &drom_lamp, .settings = 1 ? &(settings_of) : (const drom_lamp_settings DROM_FLASH *)NULL,    \
        .state = 1 ? &(state_of) : (drom_lamp_state *)NULL                                                   \
    }

#endif
