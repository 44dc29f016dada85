/* How long each key takes to answer, from the finger to the gesture that a rule is about. */
#ifndef DROMIKOS_PLAN_ANSWERS_H
#define DROMIKOS_PLAN_ANSWERS_H

#include "plan.h"

typedef struct plan_answer {
    unsigned handset;
    unsigned key;
    uint8_t gesture;      /* DROM_PRESS, DROM_RELEASE, DROM_TAP or DROM_DOUBLE */
    uint32_t after_us;    /* the finger went down, of a press; else went up, for the last time */
    bool waits_for_other; /* since the key also has tapped twice */
} plan_answer;

/* Of each gesture of these that some rule is about, tried on an ideal bench: an array of plan_answer, to be
 * unreferenced. The plan's outputs move meanwhile. */
GArray *plan_answers(const plan *loaded);

#endif
