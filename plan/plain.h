/* Texts for people. */
#ifndef DROMIKOS_PLAN_PLAIN_H
#define DROMIKOS_PLAN_PLAIN_H

#include <glib.h>
#include <stdbool.h>

/* A text as it is shown, whatever bytes it comes from: what is no UTF-8, and control characters, are replaced
 * by a sign of one column; line ends and tabs stay. To be freed. */
char *plain_text(const char *text);

/* The first sign of a text, as it is shown; and how many bytes it has there. */
gunichar plain_sign(const char *at, gssize *bytes);

#endif
