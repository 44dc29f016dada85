/* How long each key takes to act, from the press to the gesture of a rule. */
#ifndef DROMIKOS_PLAN_KEY_DELAYS_H
#define DROMIKOS_PLAN_KEY_DELAYS_H

#include "plan/model/plan.h"

typedef struct key_delay {
    unsigned handset;
    unsigned key;
    uint8_t gesture;      /* DROM_PRESS, DROM_RELEASE, DROM_TAP or DROM_DOUBLE */
    uint32_t after_us;    /* counted from the press; else from the last release */
    bool waits_for_other; /* because the key also has `tapped twice` */
} key_delay;

/* Tries each of these gestures that a rule uses, on an ideal bench. Returns an array of key_delay, to be
 * unreferenced. The plan's outputs move meanwhile. */
GArray *plan_key_delays(const plan *loaded);

#endif
