/* Why nothing was recognised, and what to try. */
#ifndef DROMIKOS_CLI_DIAGNOSE_H
#define DROMIKOS_CLI_DIAGNOSE_H

#include "hearing.h"

/* No protocol's mark is this long: the line is stuck. */
enum { DIAGNOSE_STUCK_US = 100000 };

/* A sentence or two for people, about a line on which no frame was recognised. To be freed. */
char *diagnose(const line_facts *facts, const char *path);

#endif
