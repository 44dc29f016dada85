/* A function of your own, ordered like an output. */
#ifndef DROMIKOS_OUTPUTS_CALL_H
#define DROMIKOS_OUTPUTS_CALL_H

#include "../config.h"

typedef enum drom_call_verb {
    DROM_CALL_CALL, /**< calls the function with the low 16 bits of `value` */
} drom_call_verb;

#ifndef __cplusplus

#include "../output.h"

/** Runs in main, within drom_engine_poll(), which takes that much longer. It may post events; it must not
 * poll, stop, start or order the engine. */
typedef void drom_called(int16_t value);

typedef struct drom_call_settings {
    drom_called *function;
} drom_call_settings;

typedef struct drom_call_state {
    int16_t value; /**< of the newest call */
    bool was_called;
} drom_call_state;

extern const drom_output_kind DROM_FLASH drom_call;

/** A row of the outputs. `settings_of` is a drom_call_settings in flash, `state_of` a drom_call_state. */
#define DROM_CALL(settings_of, state_of) DROM_OUTPUT_OF(call, settings_of, state_of)

#endif
#endif
