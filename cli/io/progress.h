/* Progress of long work, on a terminal only. */
#ifndef DROMIKOS_CLI_PROGRESS_H
#define DROMIKOS_CLI_PROGRESS_H

#include <stdbool.h>

/* True four times a second, and never within the first second: it is time to report progress. */
bool progress_is_due(void);

/* Shows a line, instead of the last one. */
void progress_show(const char *text);

/* The same for a share that is done, 0 to 1, and the time left: "listening: 40 %, 3 s to go". */
void progress_share(const char *what, double done);

/* Removes it. */
void progress_hide(void);

/* From now on Ctrl-C requests an end with partial results; a second one ends at once. */
void progress_may_stop(void);
bool progress_is_stopped(void);

#endif
