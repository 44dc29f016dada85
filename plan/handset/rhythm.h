/* What a rhythm shows before its coding is known: where frames begin and end, the groups of their lengths,
 * what precedes the bits, and how often. Private to plan/. */
#ifndef DROMIKOS_PLAN_RHYTHM_H
#define DROMIKOS_PLAN_RHYTHM_H

#include "plan/handset/infer.h"

enum {
    RHYTHM_MIN_MARKS = 5, /* of a whole frame */
    RHYTHM_MAX_GROUPS = 6,
    RHYTHM_PRESS_GAP_US = 180000, /* between two presses */
};

/* A frame, from its first mark to its last. Indices into the rhythm; even ones are marks. */
typedef struct span {
    guint first;
    guint last;
    double at_us;
    double until_us;
} span;

typedef struct group {
    double mean;
    unsigned count;
} group;

/* The state of the analysis. */
typedef struct guess {
    const double *us;
    guint count;
    GArray *frames; /* of span: all of them */
    guint marks;    /* of the usual whole frame, without its leader */
    bool has_leader;
    group mark_groups[RHYTHM_MAX_GROUPS];
    group space_groups[RHYTHM_MAX_GROUPS];
    unsigned mark_kinds;
    unsigned space_kinds;
    declared_figures figures;
} guess;

/* Rounds a mean to 5 µs, as no handset is more exact. */
uint32_t rhythm_round(double us);

/* The number of marks of a frame, with the leader's. */
guint rhythm_marks(const span *frame);

/* True if the first mark or space is longer than those of bits. Needs groups. */
bool rhythm_has_leader(const guess *at, const span *frame);

/* Divides the rhythm into frames and sorts their lengths. False if no two frames have anything in common. */
bool rhythm_sort(guess *at);

/* Fills in leader, ditto and period. Returns the number of dittos. */
unsigned rhythm_measure(guess *at);

#endif
