/* How far a long piece of work is, on a terminal alone. */
#ifndef DROMIKOS_CLI_PROGRESS_H
#define DROMIKOS_CLI_PROGRESS_H

#include <stdbool.h>

/* True four times a second, and never within the first: it is time to report progress. */
bool progress_is_due(void);

/* Shows a line, in the place of the one before. */
void progress_show(const char *text);

/* The same of a share that is done, 0 to 1, and so how long it still takes: "listening: 40 %, 3 s to go". */
void progress_share(const char *what, double done);

/* Takes it away. */
void progress_hide(void);

/* From now on Ctrl-C asks for an end with what there is so far; a second one ends at once. */
void progress_may_stop(void);
bool progress_is_stopped(void);

#endif
