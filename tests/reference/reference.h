/* What a plan's rules mean, said once more and as plainly as can be: with lists that grow, no steps, and no
 * thought for a chip. The room of the rules is held against it. */
#ifndef DROMIKOS_TESTS_REFERENCE_H
#define DROMIKOS_TESTS_REFERENCE_H

#include "dromikos/rules.h"

#include <glib.h>

typedef struct reference reference;

/* What it asks of an output. Times are in ms. */
typedef struct reference_world {
    void *context;
    void (*order)(void *context, uint8_t output, uint8_t verb, uint32_t value);
    bool (*is_on)(void *context, uint8_t output);
    bool (*is_busy)(void *context, uint8_t output);
} reference_world;

/* `undo` is the verb that undoes what is held. */
reference *reference_new(const drom_rules_plan *plan, uint8_t undo, reference_world world);
void reference_free(reference *unwanted);

/* It is now so late; these have happened, one after the other. */
void reference_live(reference *of, gint64 now_ms, const drom_event *events, unsigned count);

unsigned reference_mode(const reference *of);
int reference_value(const reference *of, unsigned value);
unsigned reference_dropped(const reference *of);

#endif
