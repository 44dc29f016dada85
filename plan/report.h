/* What is wrong with a file, for people: every fault at its place, all of them in one go. */
#ifndef DROMIKOS_PLAN_REPORT_H
#define DROMIKOS_PLAN_REPORT_H

#include <glib.h>
#include <stdbool.h>
#include <stdio.h>

/* Where something stands. Lines and columns count from 1, columns in bytes; line 0 is the file as a whole. */
typedef struct place {
    int line;
    int column;
    int length; /* of what the caret underlines */
    int file;   /* as report_named() gave it; 0: the newest that was named */
} place;

typedef struct report report;

report *report_new(void);
void report_free(report *faults);

/* Names a file whose faults are reported from now on. `text` (may be NULL) is what is in it. Both are copied.
 */
void report_file(report *faults, const char *name, const char *text);

/* The number of that file; and back to it, where others have been named since. */
int report_named(const report *faults);
void report_return(report *faults, int file);

void report_error(report *faults, place where, const char *format, ...) G_GNUC_PRINTF(3, 4);
void report_warning(report *faults, place where, const char *format, ...) G_GNUC_PRINTF(3, 4);

/* Reports that the newest file can't be read at all. Counts as an error. */
void report_unreadable(report *faults, const char *why);
bool report_has_unreadable(const report *faults);

/* Adds what `other` has reported, under the names of its own files, and frees it. */
void report_append(report *faults, report *other);

/* How many errors have been reported; warnings don't count. */
unsigned report_errors(const report *faults);

/* Writes all of it, sorted by place within each file, and after 20 of a file only how many more there are. */
void report_print(const report *faults, FILE *out);

/* The candidate that is spelt most like `word`, NULL when none is near. `candidates` ends with NULL. */
const char *nearest_word(const char *word, const char *const *candidates);

/* "; did you mean 'X'?" for the nearest candidate, else an empty text. To be freed. */
char *did_you_mean(const char *word, const char *const *candidates);

#endif
