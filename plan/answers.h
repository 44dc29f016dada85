/* How long each key takes to act, from the press to the gesture of a rule. */
#ifndef DROMIKOS_PLAN_ANSWERS_H
#define DROMIKOS_PLAN_ANSWERS_H

#include "plan.h"

typedef struct plan_answer {
    unsigned handset;
    unsigned key;
    uint8_t gesture;      /* DROM_PRESS, DROM_RELEASE, DROM_TAP or DROM_DOUBLE */
    uint32_t after_us;    /* counted from the press; else from the last release */
    bool waits_for_other; /* because the key also has `tapped twice` */
} plan_answer;

/* Tries each of these gestures that a rule uses, on an ideal bench. Returns an array of plan_answer, to be
 * unreferenced. The plan's outputs move meanwhile. */
GArray *plan_answers(const plan *loaded);

#endif
