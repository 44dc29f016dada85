/* How an unknown handset speaks, from a few presses of several keys. */
#ifndef DROMIKOS_PLAN_INFER_H
#define DROMIKOS_PLAN_INFER_H

#include "own.h"

/* Marks and spaces in turn, the first a mark; a silence of any length between bursts. */
typedef struct rhythm {
    GArray *us; /* of double */
} rhythm;

/* What was found. */
typedef struct inference {
    own_protocol own;
    bool is_found;   /* `own` is filled in */
    char *why_not;   /* for people, when it isn't */
    unsigned frames; /* that have the shape of a whole frame */
    unsigned read;   /* of those, how many the found protocol reads */
    unsigned repeat_frames;
    unsigned margin; /* of the worst frame, in % */
    GArray *presses; /* of drom_code: the code of each press, in turn */
    GString *notes;  /* what else is known of it, a line each */
} inference;

/* Finds modulation, leader, bit coding, length, repeat form, toggle and fixed bits. Name: up to 11 letters.
 */
inference *infer_protocol(const rhythm *measured, const char *name);

void inference_free(inference *unwanted);

#endif
