/* A program on a terminal of a given size, whose screen the test reads. */
#ifndef DROMIKOS_TESTS_SHOWN_H
#define DROMIKOS_TESTS_SHOWN_H

#include <glib.h>
#include <stdbool.h>
#include <sys/types.h>
#include <termios.h>
#include <vterm.h>

typedef struct shown {
    pid_t pid;
    int line; /* our end */
    VTerm *terminal;
    int rows;
    int columns;
    struct termios before; /* the terminal's settings at the program's start */
    struct termios after;  /* and at its end */
    GString *bytes;        /* all output */
} shown;

/* Starts a program; `environment` is NAME=VALUE, ending with NULL. */
void shown_start(shown *at, int rows, int columns, char *const *environment, char *const *words);

/* Types a text; keys without a letter are written as the terminal sends them. */
void shown_type(shown *at, const char *keys);
#define KEY_IS_RIGHT "\x1bOC"
#define KEY_IS_UP "\x1bOA"
#define KEY_IS_DOWN "\x1bOB"
#define KEY_IS_LEFT "\x1bOD"
#define KEY_IS_HOME "\x1bOH"
#define KEY_IS_END "\x1bOF"
#define KEY_IS_PAGE_DOWN "\x1b[6~"
#define KEY_IS_PAGE_UP "\x1b[5~"
#define KEY_IS_ESCAPE "\x1b"

/* Changes the terminal's size. */
void shown_resize(shown *at, int rows, int columns);

/* Returns the text of a row without blanks at its end; or of all rows. To be freed. */
char *shown_row(shown *at, int row);
char *shown_all(shown *at);

/* Returns the colour of the letter at a place, 0xrrggbb; and of its background. */
uint32_t shown_colour(shown *at, int row, int column);
uint32_t shown_ground(shown *at, int row, int column);

/* Waits up to a minute for a row with this text. Returns the row, -1 if there is none. */
int shown_wait(shown *at, const char *text);

/* Waits up to a minute for these bytes; false if the program doesn't write them. */
bool shown_wait_bytes(shown *at, const char *bytes);

/* Waits up to a minute for the end. Returns the exit code, or minus the number of the signal. */
int shown_end(shown *at);

void shown_free(shown *at);

#endif
