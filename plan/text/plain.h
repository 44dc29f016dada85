/* Texts for people. */
#ifndef DROMIKOS_PLAN_PLAIN_H
#define DROMIKOS_PLAN_PLAIN_H

#include <glib.h>
#include <stdbool.h>

/* Returns a text that can be shown: invalid UTF-8 and control characters are replaced by a sign of one
 * column; line ends and tabs stay. To be freed. */
char *plain_text(const char *text);

/* Returns the first sign of a text, as shown; and its length in bytes. */
gunichar plain_sign(const char *at, gssize *bytes);

#endif
