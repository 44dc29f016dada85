/* CSV tables (RFC 4180) with a line of column names. */
#ifndef DROMIKOS_PLAN_CSV_TABLE_H
#define DROMIKOS_PLAN_CSV_TABLE_H

#include "plan/text/report.h"

#include <stdint.h>

enum { CSV_MAX_COLUMNS = 8 };

typedef struct cell {
    char *text; /* without blanks around it */
    place where;
} cell;

/* A kind of table. Its columns may be in any order, with others between them. */
typedef struct csv_kind {
    const char *const *columns; /* required columns, ending with NULL; at most CSV_MAX_COLUMNS */
    int optional;     /* number of these, at the end, that may be missing: their cells are then empty */
    const char *head; /* the usual first line */
    void (*take_row)(void *context, const cell *const *cells); /* the cells in the order of `columns` */
} csv_kind;

/* Reads a UTF-8 file, with or without a byte-order mark, with any line ends, with commas or semicolons.
 * Faults go to `faults`, under the file's name. Skips blank lines. False if there was no text. */
bool csv_table_read(const char *path, const csv_kind *kind, report *faults, void *context);

/* Parses a whole number, decimal or with 0x, from 0 to max. Reports errors. */
bool cell_number(const cell *from, const char *what, uint32_t max, report *faults, uint32_t *value);

/* Reads a file (- is standard input) of at most 1 MiB, without its byte-order mark. The text ends with a NUL,
 * has none inside, and is to be freed. NULL on an error, which has been reported. The file becomes the newest
 * of `faults`. */
char *read_text_file(const char *path, gsize *length, report *faults);

/* Returns a text as a quoted cell of a CSV file. To be freed. */
char *csv_quoted(const char *text);

#endif
