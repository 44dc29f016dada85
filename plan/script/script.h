/* A script: CSV with at_ms, handset, key, held_ms, and optionally expect. A row is a press, another event, or
 * an expectation. */
#ifndef DROMIKOS_PLAN_SCRIPT_H
#define DROMIKOS_PLAN_SCRIPT_H

#include "plan/model/plan.h"
#include "plan/script/expect.h"

/* In place of a handset: what `key` is. */
enum {
    SCRIPT_NO_KEY = 252,
    SCRIPT_A_CABLE = SCRIPT_NO_KEY, /* the keyboard of this output: it is plugged in, or unplugged */
    SCRIPT_POWER,                   /* is cut for `held_ms` */
    SCRIPT_AN_EVENT,                /* of own code, with `number` */
    SCRIPT_A_SWITCH                 /* opens or closes */
};

typedef struct script_press {
    uint32_t at_ms;
    uint32_t held_ms;
    unsigned handset;
    unsigned key;
    int number;
    bool closes; /* the switch closes; the cable is plugged in */
    int line;    /* of the script */
} script_press;

/* Returns such a row in words, NULL for a key or a switch: "power is cut for 2000 ms". To be freed. */
char *script_text(const plan *with, const script_press *row);

typedef struct script_expectation {
    uint32_t at_ms;
    char *text;
    expectation *expected;
    int line; /* of the script */
} script_expectation;

/* An array of script_expectation, to be unreferenced. */
GArray *script_expectations_new(void);

/* Reads a script with the handsets and keys of `with`: an array of script_press by their times, to be
 * unreferenced; expectations go to `expected`, likewise, unless that is NULL. Faults go to `faults`; NULL if
 * there was an error. */
GArray *script_read(const char *path, const plan *with, GArray *expected, report *faults);

#endif
