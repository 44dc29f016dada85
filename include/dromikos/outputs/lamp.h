/* The lamp: any brightness, at once or by a fade, in steps that look even; with three pins in any colour. */
#ifndef DROMIKOS_OUTPUTS_LAMP_H
#define DROMIKOS_OUTPUTS_LAMP_H

#include "../config.h"

typedef enum drom_lamp_verb {
    DROM_LAMP_OFF,
    DROM_LAMP_ON, /**< at the last brightness; at first full */
    DROM_LAMP_TOGGLE,
    DROM_LAMP_BRIGHTER, /**< by `value` of DROM_FULL_LEVEL */
    DROM_LAMP_DIMMER,   /**< by `value` of DROM_FULL_LEVEL */
    DROM_LAMP_FADE,     /**< DROM_FADE(level, ms) */
    DROM_LAMP_LET_GO,   /**< ends DIM at the current brightness; else OFF */
    DROM_LAMP_DIM,      /**< DROM_DIM(way, ms) */
    DROM_LAMP_BLINK,    /**< at the last brightness and dark, for `value` ms each: 1 to DROM_LONGEST_MS */
    DROM_LAMP_COLOUR,   /**< 0xrrggbb, not 0, of a lamp in colour; switches on at the last brightness */
} drom_lamp_verb;

/** The value of DROM_LAMP_FADE: to a level, 0 to DROM_FULL_LEVEL, within 0 to 1,800,000 ms. */
#define DROM_FADE(level, ms) ((uint32_t)(level) | (uint32_t)(ms) << 8)

/** The value of DROM_LAMP_DIM: towards full or towards the darkest light, until DROM_LAMP_LET_GO. `ms`: from
 * one end to the other, 1 to 1,800,000. */
#define DROM_DIM(way, ms) ((uint32_t)(way) | (uint32_t)(ms) << 8)
enum {
    DROM_DIM_ON, /**< opposite to the last time; up from dark, down from full */
    DROM_DIM_UP,
    DROM_DIM_DOWN,
};

#ifndef __cplusplus

#include "../output.h"

typedef struct drom_lamp_settings {
    uint8_t pin;        /**< of a lamp in colour: the pin of red */
    bool is_active_low; /**< low is lit */
    bool has_colour;
    uint8_t green_pin; /**< if has_colour */
    uint8_t blue_pin;
} drom_lamp_settings;

typedef struct drom_lamp_state {
    drom_deadline next; /**< step of a fade, or change of a blinking lamp */
    uint32_t step_us;   /**< between steps */
    uint32_t colour;    /**< 0xrrggbb, at full level */
    uint8_t level;      /**< perceived: 0 dark, DROM_FULL_LEVEL full */
    uint8_t target;
    uint8_t last; /**< level for ON */
    bool blinks;
    bool dims;    /**< until LET_GO */
    bool went_up; /**< the last time it dimmed */
} drom_lamp_state;

extern const drom_output_kind DROM_FLASH drom_lamp;

/** A row of the outputs. `settings_of` is a drom_lamp_settings in flash, `state_of` a drom_lamp_state. */
#define DROM_LAMP(settings_of, state_of) DROM_OUTPUT_OF(lamp, settings_of, state_of)

#endif
#endif
