/* Tables in CSV (RFC 4180) with a line of column names, as spreadsheets write them. */
#ifndef DROMIKOS_PLAN_CSV_TABLE_H
#define DROMIKOS_PLAN_CSV_TABLE_H

#include "report.h"

#include <stdint.h>

enum { CSV_MAX_COLUMNS = 8 };

typedef struct cell {
    char *text; /* without blanks around it */
    place where;
} cell;

/* A kind of table. Its columns may stand in any order, and others may stand between them. */
typedef struct csv_kind {
    const char *const *columns; /* those that it must have, ending with NULL; CSV_MAX_COLUMNS at most */
    int optional;               /* how many of them, at the end, may be missing: their cells are empty then */
    const char *head;           /* the first line as it is usually written */
    void (*take_row)(void *context, const cell *const *cells); /* the cells in the order of `columns` */
} csv_kind;

/* Reads the file at `path`, UTF-8, with or without a byte-order mark, any line ends, with commas or
 * semicolons. Faults go to `faults`, under the file's name. Blank lines are passed over. False when there was
 * no text to read. */
bool csv_table_read(const char *path, const csv_kind *kind, report *faults, void *context);

/* A whole number, decimal or with 0x, from 0 to max. Reports what is wrong with it otherwise. */
bool cell_number(const cell *from, const char *what, uint32_t max, report *faults, uint32_t *value);

/* Reads a file (- is standard input) of at most 1 MiB, without its byte-order mark. The text is followed by a
 * NUL, has none inside, and is to be freed. When that can't be done, NULL, and it has been reported. In both
 * cases the file is now the newest. */
char *read_text_file(const char *path, gsize *length, report *faults);

/* A text as a cell of a CSV file, in quotes. To be freed. */
char *csv_quoted(const char *text);

#endif
