/* From a rehearsal's rows to lanes. Private to rehearsed.c, which makes the lanes, and reading.c. */
#ifndef DROMIKOS_CHART_READING_H
#define DROMIKOS_CHART_READING_H

#include "chart/rehearsed.h"

/* Each row of a rehearsal goes to one lane, or is counted. */
typedef struct reading {
    const plan *plan;
    rehearsed *made;
    lane *finger;
    lane *air;
    lane *gesture;
    lane *rule;
    lane *missed;
    lane *outside; /* events of own code, the power, cables */
    lane *polls;   /* of the board's chip; NULL: an ideal chip */
    lane *masked;  /* NULL: interrupts were never masked */
    double max_poll_us;
    double max_masked; /* as a share of the time */
    uint64_t ruled_us; /* a rule has fired at that time */
    unsigned presses;
    unsigned met;
    unsigned expected;
    char *first_missed;
    GHashTable *ordered; /* by lane: the newest order, until a burst has its name */
} reading;

/* Returns the lane of an event, and its state; NULL: it doesn't last. To be freed. */
char *reading_state_of(const char *event, char **state);

/* Adds a row to its lane. */
void reading_take(reading *in, const timeline_row *read);

#endif
