/* A plan as two C files: the tables that the engine runs, and the names of their rows. */
#ifndef DROMIKOS_PLAN_BAKE_H
#define DROMIKOS_PLAN_BAKE_H

#include "plan.h"

/* The C source that defines `NAME_plan`. `name` is a C identifier. NULL, and `wrong` says why, when the plan
 * has something that no chip can do. To be freed. */
char *plan_bake_source(const plan *loaded, const char *name, char **wrong);

/* The header that declares it. To be freed. */
char *plan_bake_header(const plan *loaded, const char *name);

#endif
