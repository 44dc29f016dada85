/* The library's sources, which lie in the tool, and those of them that a program needs. */
#ifndef DROMIKOS_CLI_SHIPPED_H
#define DROMIKOS_CLI_SHIPPED_H

#include <glib.h>

/* Returns the text of a source by its name from the project's root, "src/engine/poll.c"; NULL if it isn't
 * shipped. */
const char *shipped_text(const char *file);

/* Returns the names of the headers, and of those .c and .cpp files that define what `texts`, a list ending
 * with NULL, mention, directly or through others. `port` is the folder of a port, "ports/avr". To be freed
 * with g_ptr_array_unref(). */
GPtrArray *shipped_needed(const char *const *texts, const char *port);

#endif
