/* What a rehearsal's bench is to hear. */
#ifndef DROMIKOS_CLI_INPUTS_H
#define DROMIKOS_CLI_INPUTS_H

#include "rehearsal.h"

/* A script or a capture, presses in words, or every key that a rule names: `inputs` are those words, ending
 * with NULL. An exit code; what is wrong is reported. */
int inputs_take(rehearsal *run, char **inputs, const char *signal, bool is_idle_low);

#endif
