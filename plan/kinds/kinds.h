/* What files of kinds share. For plan/kinds/, and the baker. */
#ifndef DROMIKOS_PLAN_KINDS_H
#define DROMIKOS_PLAN_KINDS_H

#include "plan/language/kind.h"
#include "plan/model/numbers.h"

#include "sim.h"

/* Converts percent to a level, and back. */
uint32_t level_of(double percent);
unsigned percent_of(uint32_t level);

/* Values of orders that several kinds have. */
uint32_t order_level(plan *made, action_words *action, const kind_order *order);
uint32_t order_ms(plan *made, action_words *action, const kind_order *order);

/* A TIME above the low 8 bits, up to 30 min. */
uint32_t order_time_above(const plan *made, action_words *action, const phrase_value *given);

/* For outputs that are never busy. */
activity always_idle(const drom_output *output);

/* For each output of the kind. */
bool always(const output_line *line);

/* "true", "false" */
const char *c_bool(bool is_so);

#endif
