/* Errors of files, for people: all of a file together, each at its place. */
#ifndef DROMIKOS_PLAN_REPORT_H
#define DROMIKOS_PLAN_REPORT_H

#include <glib.h>
#include <stdbool.h>
#include <stdio.h>

/* A place in a file. Lines and columns count from 1, columns in bytes; line 0 is the whole file. */
typedef struct place {
    int line;
    int column;
    int length; /* length of the underlined text */
    int file;   /* from report_named(); 0: the newest */
} place;

typedef struct report report;

report *report_new(void);
void report_free(report *faults);

/* Names the file of the following faults. `text` (may be NULL) is its content. Both are copied. */
void report_file(report *faults, const char *name, const char *text);

/* Returns the number of the newest file; and makes that file the newest again. */
int report_named(const report *faults);
void report_return(report *faults, int file);

void report_error(report *faults, place where, const char *format, ...) G_GNUC_PRINTF(3, 4);
void report_warning(report *faults, place where, const char *format, ...) G_GNUC_PRINTF(3, 4);

/* Reports that the newest file can't be read. Counts as an error. */
void report_unreadable(report *faults, const char *why);
bool report_has_unreadable(const report *faults);

/* Adds the faults of `other`, with its file names, and frees it. */
void report_append(report *faults, report *other);

/* Returns the number of errors, without warnings. */
unsigned report_errors(const report *faults);

/* Writes all faults, sorted by place within each file; after 20 of a file only the number of the others. */
void report_print(const report *faults, FILE *out);

/* Returns the candidate with the most similar spelling, NULL if none is similar. `candidates` ends with NULL.
 */
const char *nearest_word(const char *word, const char *const *candidates);

/* Returns "; did you mean 'X'?" for the nearest candidate, else an empty text. To be freed. */
char *did_you_mean(const char *word, const char *const *candidates);

#endif
