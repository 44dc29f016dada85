/* What a plan's rules mean, said once more and as plainly as can be: with lists that grow, no steps, and no
 * thought for a chip. The room of the rules is held against it. */
#ifndef DROMIKOS_TESTS_REFERENCE_H
#define DROMIKOS_TESTS_REFERENCE_H

#include "dromikos/internal/rules.h"

#include <glib.h>

/* What it asks of an output, which is called by the number of it. Times are in ms. */
typedef struct reference_world {
    void *context;
    void (*order)(void *context, uint8_t output, uint8_t verb, uint32_t value);
    bool (*is_on)(void *context, uint8_t output);
    bool (*is_busy)(void *context, uint8_t output);
} reference_world;

/* The key of a handset that is down, or was last. */
typedef struct reference_hand {
    int key;
    int mode;
    bool is_down;
} reference_hand;

typedef struct reference {
    const drom_rules_plan *plan;
    reference_world world;
    uint8_t undo; /* the verb that undoes what is held */
    gint64 now;
    int mode;
    int back_to;
    bool has_end; /* the mode */
    gint64 left;  /* ms of its time */
    gint64 left_at;
    reference_hand hands[8];
    int values[8];
    int sum;
    gint64 timers[8]; /* when they end; less than 0: they stand */
    bool is_closed[8];
    GArray *held;    /* runs whose newest order is held, the newest run last */
    GArray *waiting; /* runs that wait */
    GArray *queued;  /* runs that begin when the rule that they are of has ended */
    GArray *events;  /* of drom_event, the oldest first */
    unsigned dropped;
    unsigned resumed; /* the sequence that went on last: its number, from 1 on */
    bool has_resumed; /* since the newest event */
} reference;

reference *reference_new(const drom_rules_plan *plan, uint8_t undo, reference_world world);
void reference_free(reference *unwanted);

/* It is now so late; these have happened, one after the other. */
void reference_live(reference *ref, gint64 now_ms, const drom_event *events, unsigned count);

#endif
