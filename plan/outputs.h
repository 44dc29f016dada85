/* The kinds of outputs as the plan language knows them: which clauses they take, the orders they take, and
 * the settings that come of it. Private to plan/. */
#ifndef DROMIKOS_PLAN_OUTPUTS_H
#define DROMIKOS_PLAN_OUTPUTS_H

#include "build.h"

/* "relay", "stepper" */
const char *output_kind_name(enum output_kind kind);

/* Reports what is missing or out of range in an output's line. */
void output_check(plan *made, guint index);

/* Reports colours that are none. */
void palette_check(plan *made, const palette_line *palette);

/* Looks up what an action is in the engine's words, and notes it there. Reports when the output can't do
 * that.
 */
void output_check_action(plan *made, action_words *action, const output_line *output, guint index);

/* Settings and state of an output, from a line without faults. */
drom_output output_row(plan *made, guint index);

/* Which of red (0), green (1) and blue (2) comes first, second and third in a word such as "grb"; false when
 * it is none of the six orders. */
bool pixel_order(const char *text, uint8_t *order);

/* The colour that a word means; false when it means none. */
bool colour_by_name(const char *text, uint32_t *colour);

/* The name of a colour, or 0xrrggbb. To be freed. */
char *colour_text(uint32_t colour);

/* The names of the effects, ending with NULL, in the order of their numbers. */
extern const char *const effect_names[];

#endif
