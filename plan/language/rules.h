/* A rule that is being read. Private to plan/language/. */
#ifndef DROMIKOS_PLAN_RULES_H
#define DROMIKOS_PLAN_RULES_H

#include "plan/language/statements.h"

rule_line rule_new(void);
void rule_free(rule_line *rule);

/* Returns the place from a statement's first word to its ':', on the first one's line. */
place rule_place(const plan_source *source, const statement *whole);

/* Each takes a segment of the rule's head; false on an error, which has been reported. */
bool rule_take_again(plan_source *source, rule_line *rule, const segment *given);
bool rule_take_conditions(plan_source *source, rule_line *rule, const segment *given);
bool rule_take_mode(plan_source *source, rule_line *rule, const segment *given);

#endif
