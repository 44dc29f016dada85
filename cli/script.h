/* A script: CSV with at_ms, handset, key, held_ms, and expect, which may be missing. A row is a press, or
 * says what is expected at a time. */
#ifndef DROMIKOS_CLI_SCRIPT_H
#define DROMIKOS_CLI_SCRIPT_H

#include "expect.h"
#include "plan.h"

/* In the place of a handset: `key` is a switch, which opens or closes. */
enum { SCRIPT_A_SWITCH = 255 };

typedef struct script_press {
    uint32_t at_ms;
    uint32_t held_ms;
    unsigned handset;
    unsigned key;
    bool closes; /* a switch does */
    int line;    /* of the script */
} script_press;

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
