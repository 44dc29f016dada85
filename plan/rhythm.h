/* What can be seen of a rhythm before anything is known of its coding: where frames begin and end, into which
 * groups their lengths fall, what comes before the bits, and how often. Private to plan/. */
#ifndef DROMIKOS_PLAN_RHYTHM_H
#define DROMIKOS_PLAN_RHYTHM_H

#include "infer.h"

enum {
    RHYTHM_MIN_MARKS = 5, /* of a whole frame */
    RHYTHM_MAX_GROUPS = 6,
    RHYTHM_PRESS_GAP_US = 180000, /* between two presses */
};

/* A frame: from its first mark to its last. Indices into the rhythm, whose even ones are marks. */
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

/* On the way. */
typedef struct guess {
    const double *us;
    guint count;
    GArray *frames; /* of span: all of them */
    guint marks;    /* of the usual whole frame, its leader left out */
    bool has_leader;
    group mark_groups[RHYTHM_MAX_GROUPS];
    group space_groups[RHYTHM_MAX_GROUPS];
    unsigned mark_kinds;
    unsigned space_kinds;
    own_figures figures;
} guess;

/* A mean to the nearest 5 µs, since no handset is more exact. */
uint32_t rhythm_round(double us);

/* Marks of a frame, the leader's too. */
guint rhythm_marks(const span *frame);

/* True where the first mark or space is longer than those of bits. Needs groups. */
bool rhythm_has_leader(const guess *at, const span *frame);

/* Cuts the rhythm into frames and sorts their lengths. False when there is nothing that two frames have in
 * common. */
bool rhythm_sort(guess *at);

/* Fills in leader, ditto and period. The number of dittos. */
unsigned rhythm_measure(guess *at);

#endif
