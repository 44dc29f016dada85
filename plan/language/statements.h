/* What statements share: matching a segment with phrases, and what may follow it. Private to plan/. */
#ifndef DROMIKOS_PLAN_STATEMENTS_H
#define DROMIKOS_PLAN_STATEMENTS_H

#include "plan/language/source.h"

/* What may follow a segment: "':'", before a list; another clause; nothing. */
extern const char *const statement_then_list[];
extern const char *const statement_then_action[];
extern const char *const statement_then_clause[];
extern const char *const statement_then_nothing[];

const segment *statement_segment(const GArray *segments, guint at);
const token *statement_token(const plan_source *source, guint at);

/* Reports a token where only these could have stood. */
void statement_unexpected(plan_source *source, guint at, const char *const *expected);

/* Returns the phrase of a segment; reports an error and returns -1 if there is none. `separator` must precede
 * it, if given; `then` is what may follow. */
int statement_match(plan_source *source, const segment *given, const char *const *phrases,
                    const char *separator, const char *const *then, phrase_value *values);

/* The same for a statement of one segment. */
int statement_match_only(plan_source *source, const GArray *segments, const char *const *phrases,
                         phrase_value *values);

/* Statements that name something. */
void names_take_mode(plan_source *source, const statement *whole);
void names_take_value(plan_source *source, const statement *whole);
void names_take_timer(plan_source *source, const statement *whole);
void names_take_event(plan_source *source, const statement *whole);
void names_take_switch(plan_source *source, const statement *whole);
void names_take_buttons(plan_source *source, const statement *whole);
void names_take_group(plan_source *source, const statement *whole);
void names_take_only(plan_source *source, const statement *whole);

/* 'protocol'. */
void figures_take_protocol(plan_source *source, const statement *whole);

/* 'at start', 'every', 'scene', 'translate' and 'when'. */
void rules_take_at(plan_source *source, const statement *whole);
void rules_take_every(plan_source *source, const statement *whole);
void rules_take_scene(plan_source *source, const statement *whole);
void rules_take_translate(plan_source *source, const statement *whole);
void rules_take_when(plan_source *source, const statement *whole);

/* Handles a list of actions. Their subjects are resolved when all names are known. */
void actions_take(plan_source *source, GArray *actions, const GArray *after);

#endif
