/* A program at a terminal, with a hand that types, beside a serial line. */
#ifndef DROMIKOS_TESTS_TERMINAL_H
#define DROMIKOS_TESTS_TERMINAL_H

#include <stdbool.h>
#include <stddef.h>
#include <sys/types.h>

/* Our end of a line, whose other end has a name. It passes bytes as they are. */
typedef struct terminal_line {
    int near;
    int far; /* kept open, so that the line stays as it was set up */
    char path[64];
} terminal_line;

/* False where there are no pseudo-terminals. */
bool terminal_open(terminal_line *line);

/* Sends `count` bytes; false when the other end has closed. */
bool terminal_send(const terminal_line *line, const char *bytes, size_t count);

/* Waits until the other end has read all of it, for 10 s at most, since it may have gone; and hangs up. */
void terminal_close(terminal_line *line);

/* Reads from a terminal of its own; what it says to people is kept. */
typedef struct terminal_program {
    pid_t pid;
    terminal_line keys;
    int shown;
    char words[16384]; /* what it said, on standard error */
    size_t at;         /* up to here it has been looked through */
} terminal_program;

/* Runs a program whose standard output goes to a file. */
void terminal_start(terminal_program *started, const char *out, char *const *words);

/* True when it has said something new that ends with this. */
bool terminal_has_said(terminal_program *from, const char *words);

/* Waits for that, for a minute at most. */
bool terminal_wait(terminal_program *from, const char *words);

/* Types a line. */
void terminal_type(const terminal_program *at, const char *line);

/* Its exit code, or -1. With `kill` it is ended. */
int terminal_end(terminal_program *ended, bool is_killed);

#endif
