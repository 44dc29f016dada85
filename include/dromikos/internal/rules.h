/* From events to actions. docs/meaning.md says what each part means. */
#ifndef DROMIKOS_INTERNAL_RULES_H
#define DROMIKOS_INTERNAL_RULES_H

#include "../plan.h"

/** Returns an action's `value` with this number placed in it, as its form says. */
uint32_t drom_rules_with_number(const drom_action *action, int16_t number);

/** Returns the row of the value whose number an action uses. */
uint8_t drom_rules_row_of_number(const drom_action *action);

/** Returns the features that the rules use: bits of DROM_USES(). */
uint32_t drom_rules_uses(const drom_rules_plan DROM_FLASH *plan);

/** True if a rule is about any received frame. Such rules are last. */
bool drom_rules_hear(const drom_rules_plan DROM_FLASH *plan);

/** Starts in the first mode, with nothing held and nothing running. Main only. */
void drom_rules_init(drom_rules *rules);

/** True if nothing of the newest event is left to do. Main only. */
bool drom_rules_are_done(const drom_rules *rules);

/** True if rules have fired and none of their actions is done yet. Main only. */
bool drom_rules_have_fired(const drom_rules *rules);

/** Takes an event, once the one before is done, and evaluates all conditions of its rules. Does no action
 * yet. Main only. */
void drom_rules_take(drom_rules *rules, const drom_event *event);

/** Does one action of a fired rule, or of a sequence whose wait is over. False if there was none, or if an
 * event must be taken before the next sequence. Main only. */
bool drom_rules_act(drom_rules *rules);

/** Posts the ends of timers; and of the mode, if nothing is left to do and no event is queued. Returns the
 * wait in µs until the next call. Main only. */
drom_wait drom_rules_pass(drom_rules *rules);

/** Returns the observer; null: none. */
static inline const drom_observer *drom_observer_of(const drom_rules *rules)
{
    return DROM_WITH_OBSERVER ? rules->observer : NULL;
}

#endif
