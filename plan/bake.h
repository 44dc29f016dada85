/* A plan as C: the tables that the engine runs, the names of their rows, and how the library is compiled for
 * them. */
#ifndef DROMIKOS_PLAN_BAKE_H
#define DROMIKOS_PLAN_BAKE_H

#include "plan.h"

/* The C source that defines `NAME_plan`. `name` is a C identifier. To be freed. */
char *plan_bake_source(const plan *loaded, const char *name);

/* The header that declares it. To be freed. */
char *plan_bake_header(const plan *loaded, const char *name);

/* The drom_config.h of a program that has this plan and no other. To be freed. */
char *plan_bake_config(const plan *loaded, const char *name);

/* Returns the name of a feature, by its number: "PIXELS". */
const char *bake_feature(unsigned number);

/* A text as a comment in C may have it. To be freed. */
char *bake_comment(const char *text);

/* The same text with each letter beyond ASCII, outside of comments and strings, as "_u00fc_": not all
 * compilers take them in names. `out` is freed; the text is to be freed. */
char *bake_in_ascii(GString *out);

#endif
