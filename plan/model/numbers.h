/* The number of an action: a number, the digit of the rule's key, a value, or an event. */
#ifndef DROMIKOS_PLAN_NUMBERS_H
#define DROMIKOS_PLAN_NUMBERS_H

#include "plan/model/build.h"

/* Finds verb, value and flags of an action, and reports errors. An action with a digit is checked with each
 * digit of its rule's keys. */
void number_take(plan *made, const rule_line *rule, action_words *action);

/* Returns the action for a key with this digit; -1: no digit. */
action_words number_for_digit(plan *made, const action_words *given, int digit);

/* A TIME as the whole value, 1 to `most` ms, which is 30 min or 24 h. */
uint32_t order_time(const plan *made, action_words *action, const phrase_value *given, uint32_t most);

#endif
