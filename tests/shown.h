/* A program on a terminal of a size, whose screen is read as a person would. */
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
    struct termios before; /* as the terminal was set up for the program */
    struct termios after;  /* and as it was left */
    GString *bytes;        /* all that was written */
} shown;

/* Starts it; `environment` is NAME=VALUE, ending with NULL. */
void shown_start(shown *at, int rows, int columns, char *const *environment, char *const *words);

/* Types; a key that has no letter as the terminal sends it. */
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

/* Another size. */
void shown_resize(shown *at, int rows, int columns);

/* The text of a row, without blanks at its end; of all rows. To be freed. */
char *shown_row(shown *at, int row);
char *shown_all(shown *at);

/* The colour of what stands at a place, 0xrrggbb; and of its ground. */
uint32_t shown_colour(shown *at, int row, int column);
uint32_t shown_ground(shown *at, int row, int column);

/* Waits until a row has this text, for a minute at most; which row; -1: none came to have it. */
int shown_wait(shown *at, const char *text);

/* Waits until the program has written these bytes, for a minute at most; false if it has not. */
bool shown_wait_bytes(shown *at, const char *bytes);

/* Waits for the end, for a minute at most: the exit code, or minus the signal's number. */
int shown_end(shown *at);

void shown_free(shown *at);

#endif
