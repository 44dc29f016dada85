/* What was done by hand, as a script; and what it came to, as what is expected. */
#ifndef DROMIKOS_CLI_RECORDING_H
#define DROMIKOS_CLI_RECORDING_H

#include "rehearsal.h"

typedef struct recording recording;

recording *recording_new(void);
void recording_free(recording *unwanted);

/* Looks at what is so, now that all is still; what is so twice running, and wasn't the last time, is
 * expected. */
void recording_look(recording *in, const rehearsal *run);

/* What was done, and how many are expected, as a script in CSV. To be freed. */
char *recording_text(const recording *script, const rehearsal *run, const GArray *done, unsigned *expected);

#endif
