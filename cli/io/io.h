/* What the verbs share: exit codes, options, and how times and codes are written. */
#ifndef DROMIKOS_CLI_IO_H
#define DROMIKOS_CLI_IO_H

#include "chart/row.h"

#include "dromikos/dromikos.h"

#include <glib.h>
#include <jansson.h>
#include <stdio.h>

enum exit_code {
    EXIT_DONE = 0,
    EXIT_NO = 1,    /* the answer is no: a plan with errors, nothing recognised */
    EXIT_WRONG = 2, /* the command was wrong */
    EXIT_FILE = 3,  /* a file could not be read or written */
};

/* Parses a verb's options and says on standard error what is wrong with them. `arguments` is how the verb is
 * called, `about` is printed above its options by --help. Expects `min` to `max` further words, left in
 * `argv` from 1 on. False when the verb must end, with `code` as exit code: the command was wrong, or --help
 * was asked. */
bool take_options(const char *arguments, const char *about, const GOptionEntry *entries, int min, int max,
                  int *argc, char **argv, int *code);

/* --format: text or jsonl. */
typedef enum output_format { FORMAT_TEXT, FORMAT_JSONL } output_format;
bool take_format(const char *verb, const char *text, output_format *format);

/* Parses one of two words, of which the first means true; reports errors. */
bool take_either(const char *verb, const char *option, const char *text, const char *yes, const char *no,
                 bool *is_yes);

/* Writes a message on standard error, as "dromikos VERB: ...". */
void complain(const char *verb, const char *format, ...) G_GNUC_PRINTF(2, 3);

/* Writes a text on standard output, or on standard error, without control characters for the terminal. */
void put_text(const char *format, ...) G_GNUC_PRINTF(1, 2);
void put_note(const char *format, ...) G_GNUC_PRINTF(1, 2);

/* Opens a file for reading, "-" being standard input. NULL on an error, which has been reported. */
FILE *open_input(const char *verb, const char *path);
void close_input(FILE *file);

/* False once standard output can't be written. */
bool output_is_good(void);

/* Flushes standard output. Returns `code`, or EXIT_FILE if not all could be written, which has been reported.
 */
int finish(const char *verb, int code);

/* Writes text in bold on a terminal, unless NO_COLOR is set. */
typedef enum tone { TONE_PLAIN, TONE_STRONG, TONE_FAINT } tone;
void put_toned(tone how, const char *text);

/* Rows of a table that begin with a time. Rows that may repeat are written once, and then counted, also
 * alternating ones, until another comes: a key that is held for seconds would fill the page otherwise. */
typedef struct row_writer {
    GPtrArray *repeating; /* of char *: repeatable rows since the last other row */
    uint64_t last_us;     /* time of the row that was written */
    uint64_t more_until_us;
    unsigned more; /* rows that were counted and not reported yet */
} row_writer;

void put_row(row_writer *rows, uint64_t at_us, const char *text, tone how, bool may_repeat);

/* Reports the remaining counts, and frees the rows' memory. */
void end_rows(row_writer *rows);

/* Returns "nec 4 (0x04) 69 (0x45)". To be freed. */
char *code_text(const drom_protocol *protocol, const drom_code *code);

/* Writes a row as an object of the JSON Lines. Rows for drawing have no JSON. Names may be NULL: no sheet has
 * the key. */
void put_row_json(const timeline_row *row);

/* Writes an object on a line of its own, and frees it. */
void put_json(json_t *object);

#endif
