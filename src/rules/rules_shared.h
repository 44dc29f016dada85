/* What the files of rules/ share. */
#ifndef DROMIKOS_RULES_SHARED_H
#define DROMIKOS_RULES_SHARED_H

#include "../../include/dromikos/internal/outputs.h"
#include "../../include/dromikos/internal/queue.h"
#include "../../include/dromikos/internal/rules.h"

#include "../bound.h"

/* Finds the rules of the event, and evaluates their conditions. */
void drom_rules_answer(drom_rules *rules);

/* Returns the row of the first rule that isn't before this key; or the number of rules. */
uint8_t drom_rules_find(const drom_rules *rules, uint8_t source, uint8_t row, uint8_t key);

/* Registers the newest order of a run as held. */
void drom_rules_hold(drom_rules *rules, const drom_run *run, uint8_t output);

/* Removes all held orders to this output. */
void drom_rules_forget_held(drom_rules *rules, uint8_t output);

/* Marks the held orders of a handset's key as over; DROM_ANY_OTHER_KEY: of all its keys. */
void drom_rules_let_go(drom_rules *rules, uint8_t handset, uint8_t key);

/* Marks the held orders of a mode's rules as over. */
void drom_rules_leave(drom_rules *rules, uint8_t mode);

/* Undoes held orders that are over, for one output per call; false if there is none. */
bool drom_rules_undo(drom_rules *rules);

/* Gives an output its order, with its current number; `number` is the event's. */
void drom_rules_order(drom_rules *rules, const drom_action *action, int16_t number);

#endif
