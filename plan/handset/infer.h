/* Works out the protocol of an unknown handset from a few presses of several keys. */
#ifndef DROMIKOS_PLAN_INFER_H
#define DROMIKOS_PLAN_INFER_H

#include "plan/handset/declared.h"

/* Alternating marks and spaces, beginning with a mark; silence of any length separates bursts. */
typedef struct rhythm {
    GArray *us; /* of double */
} rhythm;

/* The result. */
typedef struct inference {
    declared_protocol own;
    bool is_found;   /* `own` is valid */
    char *why_not;   /* the reason if it isn't */
    unsigned frames; /* with the shape of a whole frame */
    unsigned read;   /* number of those that the found protocol reads */
    unsigned repeat_frames;
    unsigned margin; /* margin of the worst frame, in % */
    GArray *presses; /* of drom_code: the code of each press, in order */
    GString *notes;  /* further facts, a line each */
} inference;

/* Finds modulation, leader, bit coding, length, repeats, toggle bit and fixed bits. `name`: up to 11 letters.
 */
inference *infer_protocol(const rhythm *measured, const char *name);

void inference_free(inference *unwanted);

#endif
