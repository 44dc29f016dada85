/* Orders that last while a key is held. Of the held orders to an output the newest counts. When it is
 * released, the newest remaining order counts again; if none remains, the output gets the verb that undoes
 * its kind's. */
#include "../compiler.h"

#include "rules_shared.h"

static drom_action action_of(const drom_rules *rules, const drom_held *held)
{
    const drom_rule DROM_FLASH *const rule = &drom_rules_plan_of(rules)->rules.rows[held->rule];
    return (held->is_otherwise ? rule->otherwise.rows : rule->actions.rows)[held->action];
}

static void remove_held(drom_rules *rules, uint8_t number)
{
    drom_held *const held = drom_rules_plan_of(rules)->held.rows;
    rules->held_count--;
    for (uint8_t i = number; i < rules->held_count; i++) {
        held[i] = held[i + 1];
    }
}

void drom_rules_hold(drom_rules *rules, const drom_run *run, uint8_t output)
{
    const uint8_t action = (uint8_t)(run->done - 1);
    drom_held *const held = drom_rules_plan_of(rules)->held.rows;
    for (uint8_t i = 0; i < rules->held_count; i++) {
        if (held[i].rule == run->rule && held[i].action == action &&
            held[i].is_otherwise == run->is_otherwise) {
            remove_held(rules, i);
            break;
        }
    }
    if (rules->held_count < drom_rules_plan_of(rules)->held.count) { /* always: there is a place for each */
        held[rules->held_count++] = (drom_held){.rule = run->rule,
                                                .action = action,
                                                .output = output,
                                                .key = run->owner.key,
                                                .is_otherwise = run->is_otherwise};
    }
}

void drom_rules_forget_held(drom_rules *rules, uint8_t output)
{
    for (uint8_t i = rules->held_count; i-- > 0;) {
        if (drom_rules_plan_of(rules)->held.rows[i].output == output) {
            remove_held(rules, i);
        }
    }
}

void drom_rules_let_go(drom_rules *rules, uint8_t handset, uint8_t key)
{
    for (uint8_t i = 0; i < rules->held_count; i++) {
        drom_held *const held = &drom_rules_plan_of(rules)->held.rows[i];
        if (drom_rules_plan_of(rules)->rules.rows[held->rule].row == handset &&
            (held->key == key || key == DROM_ANY_OTHER_KEY)) {
            held->is_over = true;
            rules->has_over = true;
        }
    }
}

void drom_rules_leave(drom_rules *rules, uint8_t mode)
{
    for (uint8_t i = 0; i < rules->held_count; i++) {
        drom_held *const held = &drom_rules_plan_of(rules)->held.rows[i];
        if (drom_rules_plan_of(rules)->rules.rows[held->rule].mode == mode + 1) {
            held->is_over = true;
            rules->has_over = true;
        }
    }
}

/* The newest order to an output that is held, or was until now. */
static const drom_held *newest(const drom_rules *rules, uint8_t output)
{
    const drom_held *const held = drom_rules_plan_of(rules)->held.rows;
    const drom_held *found = NULL;
    for (uint8_t i = 0; i < rules->held_count; i++) {
        found = held[i].output == output ? &held[i] : found;
    }
    return found;
}

bool drom_rules_undo(drom_rules *rules)
{
    if (!DROM_WITH_HOLDS || !rules->has_over) {
        return false;
    }
    drom_held *const held = drom_rules_plan_of(rules)->held.rows;
    uint8_t i = 0;
    while (i < rules->held_count) {
        if (!held[i].is_over) {
            i++;
            continue;
        }
        const drom_held over = held[i];
        const bool is_newest = newest(rules, over.output) == &held[i];
        remove_held(rules, i);
        if (!is_newest) {
            continue; /* a newer order counts, or will be undone */
        }
        const drom_held *const left = newest(rules, over.output);
        const drom_observer *const observer = drom_observer_of(rules);
        if (observer != NULL && observer->rule != NULL) {
            observer->rule(observer->context, left != NULL ? left->rule : over.rule);
        }
        const drom_action undone =
            DROM_ORDER(over.output, drom_rules_outputs(rules)->outputs.rows[over.output].kind->undo, 0);
        const drom_action action = left != NULL ? action_of(rules, left) : undone;
        drom_rules_order(rules, &action, 0);
        return true;
    }
    rules->has_over = false;
    return false;
}
