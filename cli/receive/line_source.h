/* The source of a line: a capture, standard input, or a serial line. */
#ifndef DROMIKOS_CLI_LINE_SOURCE_H
#define DROMIKOS_CLI_LINE_SOURCE_H

#include "capture/capture.h"

#include <sys/types.h>

enum { USUAL_BAUD = 115200 };

typedef struct line_source {
    FILE *file;
    capture *from;
    const char *verb;
    const char *path;
    int baud;
    bool is_serial;
    bool has_warned;
    unsigned edges;
    off_t bytes; /* of a file; 0: no file */
} line_source;

/* Opens a source; a serial line is set to `baud`, 8N1, and locked until it is closed. Returns EXIT_DONE, or
 * the exit code of an error, which has been reported. */
int line_open(line_source *opened, const char *verb, const char *path, const char *signal, bool is_idle_low,
              int baud);
void line_close(line_source *closed);

/* Returns the next edge, until Ctrl-C, which is an end like that of the capture; shows the progress of a file
 * that takes longer than a second. */
capture_read line_next(line_source *from, capture_edge *edge, GError **error);

/* Says once that a serial line's data is garbage. After each read. */
void line_check(line_source *at);

/* Discards what a serial line has received and wasn't read. */
void line_discard(line_source *source);

/* True for a speed that a serial line can have; else reports which those are. */
bool line_takes_baud(const char *verb, int baud);

#endif
