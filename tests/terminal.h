/* A program on a terminal, with a test that types, beside a serial line. */
#ifndef DROMIKOS_TESTS_TERMINAL_H
#define DROMIKOS_TESTS_TERMINAL_H

#include <stdbool.h>
#include <stddef.h>
#include <sys/types.h>

/* The test's end of a line, whose other end has a name. Bytes pass unchanged. */
typedef struct terminal_line {
    int near;
    int far; /* stays open, so that the line keeps its settings */
    char path[64];
} terminal_line;

/* Opens a line; false if there are no pseudo-terminals. */
bool terminal_open(terminal_line *line);

/* Sends `count` bytes; false when the other end has closed. */
bool terminal_send(const terminal_line *line, const char *bytes, size_t count);

/* Waits up to 10 s until the other end has read everything, as it may have closed; then hangs up. */
void terminal_close(terminal_line *line);

/* Runs a program on a terminal of its own; its messages to people are kept. */
typedef struct terminal_program {
    pid_t pid;
    terminal_line keys;
    int shown;
    char words[16384]; /* its messages, on standard error */
    size_t at;         /* up to here the test has read them */
} terminal_program;

/* Runs a program whose standard output goes to a file. */
void terminal_start(terminal_program *started, const char *out, char *const *words);

/* True if a new message ends with this text. */
bool terminal_has_said(terminal_program *from, const char *words);

/* Waits up to a minute for that. */
bool terminal_wait(terminal_program *from, const char *words);

/* Types a line. */
void terminal_type(const terminal_program *at, const char *line);

/* Returns the exit code, or -1. With `kill`, ends the program first. */
int terminal_end(terminal_program *ended, bool is_killed);

#endif
