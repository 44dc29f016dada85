/* What a verb needs not be told within a maker's folder: its only plan, its script, and the only serial line
 * of the computer. */
#ifndef DROMIKOS_CLI_HERE_H
#define DROMIKOS_CLI_HERE_H

#include <glib.h>
#include <stdbool.h>

/* Returns the only plan in the current folder, to be freed; NULL if there is none, or several. */
char *plan_here(void);

/* Returns the words of a verb, ending with NULL, in which a missing plan is the only one in the folder. With
 * `has_inputs` a first word that is neither a plan nor a file belongs to the plan's inputs, and a plan
 * without inputs gets the script of its name, if that has rows. NULL if no plan can be meant: this has been
 * reported. */
GPtrArray *words_with_plan(const char *verb, int argc, char **argv, bool has_inputs);

/* Returns the computer's only serial line, to be freed. NULL if there is none or several, which has been
 * reported. The lines are /dev/ttyUSB* and /dev/ttyACM*, or those of the variable DROMIKOS_LINES, which has
 * patterns separated by blanks. */
char *line_here(const char *verb);

/* Explains on standard error why a serial line can't be used: who may, or which program has it. */
void explain_line(const char *verb, const char *path, int failure);

/* Writes "next: ..." on standard output, if that is a terminal. */
void put_next(const char *format, ...) G_GNUC_PRINTF(1, 2);

#endif
