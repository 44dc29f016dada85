/* The meaning of a plan's rules, implemented a second time and as plainly as possible: with lists that grow,
 * without steps, without regard to a chip. The core's rules are compared with it. */
#ifndef DROMIKOS_TESTS_REFERENCE_H
#define DROMIKOS_TESTS_REFERENCE_H

#include "dromikos/internal/rules.h"

#include <glib.h>

/* Its questions to an output, which is given by its number. Times are in ms. */
typedef struct reference_world {
    void *context;
    void (*order)(void *context, uint8_t output, uint8_t verb, uint32_t value);
    bool (*is_on)(void *context, uint8_t output);
    bool (*is_busy)(void *context, uint8_t output);
} reference_world;

/* A handset's key that is down, or was last. */
typedef struct reference_press {
    int key;
    int mode;
    bool is_down;
} reference_press;

typedef struct reference {
    const drom_rules_plan *plan;
    reference_world world;
    uint8_t undo; /* the verb that undoes a held order */
    gint64 now;
    int mode;
    int back_to;
    bool has_end; /* the mode */
    gint64 left;  /* ms of its time */
    gint64 left_at;
    reference_press last_presses[8];
    int values[8];
    int sum;
    gint64 timers[8]; /* their ends; less than 0: they don't run */
    bool is_closed[8];
    GArray *held;    /* runs whose newest order is held, the newest run last */
    GArray *waiting; /* runs that wait */
    GArray *queued;  /* runs that begin when the run of their rule has ended */
    GArray *events;  /* of drom_event, the oldest first */
    unsigned dropped;
    unsigned resumed; /* the sequence that went on last: its number, from 1 on */
    bool has_resumed; /* since the newest event */
} reference;

reference *reference_new(const drom_rules_plan *plan, uint8_t undo, reference_world world);
void reference_free(reference *unwanted);

/* Handles these events in their order; the time is now this. */
void reference_live(reference *ref, gint64 now_ms, const drom_event *events, unsigned count);

#endif
