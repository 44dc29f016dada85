/* A script: CSV with at_ms, handset, key, held_ms, and expect, which may be missing. A row is a press, or
 * says what is expected at a time. */
#ifndef DROMIKOS_CLI_SCRIPT_H
#define DROMIKOS_CLI_SCRIPT_H

#include "expect.h"
#include "plan.h"

/* In the place of a handset: what else `key` is. */
enum {
    SCRIPT_NO_KEY = 252,
    SCRIPT_A_CABLE = SCRIPT_NO_KEY, /* of the keyboard that is this output: it is plugged in, or pulled */
    SCRIPT_POWER,                   /* is cut for `held_ms` */
    SCRIPT_AN_EVENT,                /* of the maker's own code, with `number` */
    SCRIPT_A_SWITCH                 /* opens or closes */
};

typedef struct script_press {
    uint32_t at_ms;
    uint32_t held_ms;
    unsigned handset;
    unsigned key;
    int number;
    bool closes; /* a switch does; a cable is plugged in */
    int line;    /* of the script */
} script_press;

/* Such a row in words, NULL where it is a key's or a switch's: "power is cut for 2000 ms". To be freed. */
char *script_text(const plan *with, const script_press *row);

typedef struct script_expectation {
    uint32_t at_ms;
    char *text;
    expectation *expected;
    int line; /* of the script */
} script_expectation;

/* An array of script_expectation, to be unreferenced. */
GArray *script_expectations_new(void);

/* Reads a script whose handsets and keys are those of `with`: an array of script_press by their times, to be
 * unreferenced; what is expected goes to `expected`, likewise, unless that is NULL. Faults go to `faults`;
 * NULL when there was an error among them. */
GArray *script_read(const char *path, const plan *with, GArray *expected, report *faults);

#endif
