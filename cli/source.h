/* Where a line comes from: a capture, standard input, or a serial line. */
#ifndef DROMIKOS_CLI_SOURCE_H
#define DROMIKOS_CLI_SOURCE_H

#include "capture.h"

typedef struct line_source {
    FILE *file;
    capture *from;
} line_source;

/* Opens a source; a serial line is set to `baud`, 8N1. EXIT_DONE, or the exit code, and it has been told. */
int source_open(line_source *opened, const char *verb, const char *path, const char *signal, bool is_idle_low,
                int baud);
void source_close(line_source *closed);

/* True for a speed that a serial line can have. */
bool source_has_baud(int baud);

#endif
