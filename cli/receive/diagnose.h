/* Says why nothing was recognised, and what to try. */
#ifndef DROMIKOS_CLI_DIAGNOSE_H
#define DROMIKOS_CLI_DIAGNOSE_H

#include "cli/receive/reception.h"

/* No protocol has such a long mark: the line is stuck. */
enum { DIAGNOSE_STUCK_US = 100000 };

/* Returns a sentence or two about a line on which no frame was recognised. To be freed. */
char *diagnose(const line_facts *facts, const char *path);

#endif
