/* The candle: a light that flickers. */
#ifndef DROMIKOS_OUTPUTS_CANDLE_H
#define DROMIKOS_OUTPUTS_CANDLE_H

#include "../config.h"

typedef enum drom_candle_verb {
    DROM_CANDLE_OUT,
    DROM_CANDLE_BURN, /**< flickers by `value` of 255 */
} drom_candle_verb;

#ifndef __cplusplus

#include "../output.h"

typedef struct drom_candle_settings {
    uint16_t every_ms; /**< between two changes; 20 to 1000 */
    uint8_t pin;
} drom_candle_settings;

typedef struct drom_candle_state {
    drom_deadline next;
    uint16_t random;
    uint8_t draught; /**< how much it flickers; 255 is from dark to full */
    bool burns;
} drom_candle_state;

extern const drom_output_kind DROM_FLASH drom_candle;

/** A row of the outputs. */
#define DROM_CANDLE(settings_of, state_of) DROM_OUTPUT_OF(candle, settings_of, state_of)

#endif
#endif
