/* How far a long piece of work is, on a terminal alone. */
#ifndef DROMIKOS_CLI_PROGRESS_H
#define DROMIKOS_CLI_PROGRESS_H

#include <stdbool.h>

/* True four times a second, and never within the first: it is time to report progress. */
bool progress_is_due(void);

/* Shows a line, in the place of the one before. */
void progress_show(const char *text);

/* Takes it away. */
void progress_hide(void);

#endif
