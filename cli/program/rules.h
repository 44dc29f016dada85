/* Rules that the tool adds to a maker's plan: a handset, and a line for each of its keys. */
#ifndef DROMIKOS_CLI_RULES_H
#define DROMIKOS_CLI_RULES_H

#include <stdbool.h>

/* Returns the name of the handset that a sheet's file is for: a name of the plan language. To be freed. */
char *handset_of(const char *sheet_file);

/* Appends to a plan, unless it has them: the handset, whose sheet lies beside the plan, and a commented rule
 * for each key that the plan doesn't mention; the first rule of a plan without rules is none. False on an
 * error, which has been reported. */
bool rules_add(const char *verb, const char *plan_path, const char *handset);

#endif
