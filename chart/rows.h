/* The fields of a rehearsal's rows. */
#ifndef DROMIKOS_CHART_ROWS_H
#define DROMIKOS_CHART_ROWS_H

#include <glib.h>
#include <jansson.h>
#include <string.h>

/* "" if it has no such text. */
static inline const char *row_text(const json_t *row, const char *member)
{
    const char *const text = json_string_value(json_object_get(row, member));
    return text != NULL ? text : "";
}

static inline uint64_t row_us(const json_t *row, const char *member)
{
    return (uint64_t)json_integer_value(json_object_get(row, member));
}

static inline bool row_is(const json_t *row, const char *kind)
{
    return strcmp(row_text(row, "kind"), kind) == 0;
}

#endif
