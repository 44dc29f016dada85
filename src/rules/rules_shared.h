/* What the files of this room share. */
#ifndef DROMIKOS_RULES_SHARED_H
#define DROMIKOS_RULES_SHARED_H

#include "../../include/dromikos/internal/outputs.h"
#include "../../include/dromikos/internal/queue.h"
#include "../../include/dromikos/internal/rules.h"

#include "../bound.h"

/* Finds the rules that the event is about, and whether their conditions hold. */
void drom_rules_answer(drom_rules *rules);

/* The row of the first rule that isn't before this, or the number of rules. */
uint8_t drom_rules_find(const drom_rules *rules, uint8_t source, uint8_t row, uint8_t key);

/* Notes that the newest order of a run is held by an output. */
void drom_rules_hold(drom_rules *rules, const drom_run *run, uint8_t output);

/* No order to this output is held from now on. */
void drom_rules_forget_held(drom_rules *rules, uint8_t output);

/* What a handset holds is over; DROM_ANY_OTHER_KEY: whatever key it is owed to. */
void drom_rules_let_go(drom_rules *rules, uint8_t handset, uint8_t key);

/* What rules of a mode hold is over. */
void drom_rules_leave(drom_rules *rules, uint8_t mode);

/* Undoes what is over, one output at a time; false: nothing is. */
bool drom_rules_undo(drom_rules *rules);

/* Gives an output its order, with the number that it is to have now; `number` is the event's. */
void drom_rules_order(drom_rules *rules, const drom_action *action, int16_t number);

#endif
