/* A script of presses: CSV with at_ms, handset, key, held_ms. */
#ifndef DROMIKOS_CLI_SCRIPT_H
#define DROMIKOS_CLI_SCRIPT_H

#include "plan.h"

typedef struct script_press {
    uint32_t at_ms;
    uint32_t held_ms;
    unsigned handset;
    unsigned key;
    int line; /* of the script */
} script_press;

/* Reads a script whose handsets and keys are those of `with`: an array of script_press by their times, to be
 * unreferenced. Faults go to `faults`; NULL when there was an error among them. */
GArray *script_read(const char *path, const plan *with, report *faults);

#endif
