/* A recording: what was done by hand, as a script, with the results as expectations. */
#ifndef DROMIKOS_CLI_RECORDING_H
#define DROMIKOS_CLI_RECORDING_H

#include "cli/rehearse/rehearsal.h"

typedef struct recording recording;

recording *recording_new(void);
void recording_free(recording *unwanted);

/* Reads the state, when everything is still; a state that is equal twice, and different from the last
 * expectation, becomes one. */
void recording_look(recording *in, const rehearsal *run);

/* Returns the script in CSV, and the number of expectations. To be freed. */
char *recording_text(const recording *script, const rehearsal *run, const GArray *done, unsigned *expected);

#endif
