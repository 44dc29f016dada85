/* The input of a rehearsal's bench. */
#ifndef DROMIKOS_CLI_INPUTS_H
#define DROMIKOS_CLI_INPUTS_H

#include "cli/rehearse/rehearsal.h"

/* A script or a capture, presses in words, or each key that a rule names: `inputs` are those words, ending
 * with NULL. Returns an exit code; errors are reported. */
int inputs_take(rehearsal *run, char **inputs, const char *signal, bool is_idle_low);

#endif
