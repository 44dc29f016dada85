/* A plan as C: the tables that the engine runs, the names of their rows, and the configuration of the
 * library. */
#ifndef DROMIKOS_PLAN_BAKE_H
#define DROMIKOS_PLAN_BAKE_H

#include "plan/model/plan.h"

/* Returns the C source that defines `NAME_plan`. `name` is a C identifier. To be freed. */
char *plan_bake_source(const plan *loaded, const char *name);

/* Returns the header that declares it. To be freed. */
char *plan_bake_header(const plan *loaded, const char *name);

/* Returns the drom_config.h of a program with this plan only. To be freed. */
char *plan_bake_config(const plan *loaded, const char *name);

/* Returns the name of a feature, by its number: "PIXELS". */
const char *bake_feature(unsigned number);

/* Returns a text as it may stand in a C comment. To be freed. */
char *bake_comment(const char *text);

/* Returns the text with each letter beyond ASCII, outside of comments and strings, as "_u00fc_": not all
 * compilers accept them in names. Frees `out`; the text is to be freed. */
char *bake_in_ascii(GString *out);

#endif
