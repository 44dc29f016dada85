/* What statements share: how a segment of one is matched with phrases, and what may follow it. Private to
 * plan/. */
#ifndef DROMIKOS_PLAN_STATEMENTS_H
#define DROMIKOS_PLAN_STATEMENTS_H

#include "source.h"

/* "':'", after which a list comes. */
extern const char *const statement_then_list[];

const segment *statement_segment(const GArray *segments, guint at);
const token *statement_token(const plan_source *source, guint at);

/* Reports a token where only those could have stood. */
void statement_unexpected(plan_source *source, guint at, const char *const *expected);

/* The phrase of a segment, -1 and reported where it is none of them. `separator` is what must stand before
 * it, where something does; `then` what may follow. */
int statement_match(plan_source *source, const segment *given, const char *const *phrases,
                    const char *separator, const char *const *then, phrase_value *values);

/* 'at start' and 'when'. */
void statement_take_at(plan_source *source, const GArray *segments, const GArray *after);
void statement_take_when(plan_source *source, const GArray *segments, const GArray *after);

#endif
