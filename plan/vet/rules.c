/* Orders of rules that can't work, or not as they read. */
#include "plan/vet/checks.h"

#include "plan/model/build.h"
#include "plan/model/plan.h"

enum { WAITS_MS = 60000 /* if the plan states no time */ };

/* Returns the newest order to an output before an action; NULL: none. */
static const drom_action *order_before(const drom_action *actions, uint8_t at, uint8_t output)
{
    for (uint8_t i = at; i > 0; i--) {
        if (actions[i - 1].target == DROM_TO_OUTPUT && actions[i - 1].row == output) {
            return &actions[i - 1];
        }
    }
    return NULL;
}

static void vet_wait_for(const vetting *job, guint rule, const drom_action *actions, uint8_t at)
{
    const uint8_t output = actions[at].row;
    const output_kind *const kind = plan_output_kind(job->plan, output);
    const drom_action *const order = order_before(actions, at, output);
    if (order == NULL || kind->vet.never_ends == NULL || !kind->vet.never_ends(job->plan, order) ||
        actions[at].value != WAITS_MS) {
        return;
    }
    g_autofree char *text = plan_action_text(job->plan, order);
    g_autofree char *what = g_strdup_printf("line %d waits for what never ends by itself: %s",
                                            plan_rule_line(job->plan, rule), text);
    vet_add(job->result->times, VET_TIGHT, plan_output_name(job->plan, output), what, 0, 0, "",
            g_strdup("it goes on after a minute; say how long: FOR TIME behind the order, or wait for it AT "
                     "MOST TIME"));
}

/* An order with the smallest number of its value. An event's may be any. */
static drom_action least_of(const plan *loaded, const drom_action *action)
{
    drom_action least = *action;
    if ((action->flags & DROM_OF_VALUE) != 0) {
        const uint8_t row = drom_rules_row_of_number(action);
        least.value = drom_rules_with_number(action, plan_tables(loaded)->rules.values.rows[row].min);
    } else if ((action->flags & DROM_OF_EVENT) != 0) {
        least.value = drom_rules_with_number(action, 0);
    }
    return least;
}

static void vet_actions(const vetting *job, guint rule, const drom_action *actions, uint8_t count)
{
    for (uint8_t i = 0; i < count; i++) {
        const drom_action least = least_of(job->plan, &actions[i]);
        const drom_action *const action = &least;
        if (action->target == DROM_TO_WAIT_FOR && action->verb == DROM_UNTIL_IDLE) {
            vet_wait_for(job, rule, actions, i);
        } else if (action->target == DROM_TO_OUTPUT && action->row < plan_output_count(job->plan) &&
                   plan_output_kind(job->plan, action->row)->vet.order != NULL) {
            plan_output_kind(job->plan, action->row)->vet.order(job, action, plan_rule_line(job->plan, rule));
        }
    }
}

/* A short press of some protocols has one whole frame; further ones are sent while the key is held. */
static void vet_confirmed(const vetting *job)
{
    const plan *const loaded = job->plan;
    for (guint i = 0; i < plan_handset_count(loaded); i++) {
        const drom_handset *const handset = &plan_tables(loaded)->keys.handsets.rows[i];
        for (uint8_t key = 0; key < handset->codes.count && handset->needs_second_frame; key++) {
            const drom_waveform *const waveform = plan_waveform(loaded, handset->codes.rows[key].protocol);
            if (waveform == NULL || waveform->min_frames > 1) {
                continue;
            }
            const double period_ms = waveform->protocol->period_us / 1000.0;
            g_autofree char *what = g_strdup_printf("a short press of %s is one frame, which isn't confirmed",
                                                    waveform->protocol->id);
            vet_add(job->result->times, VET_TIGHT, plan_handset_name(loaded, i), what, 0, 0, "",
                    g_strdup_printf("hold its keys until they repeat%s%.0f%s, or leave 'confirmed' out",
                                    period_ms > 0 ? ", after " : "", MAX(period_ms, 0),
                                    period_ms > 0 ? " ms" : ""));
            break;
        }
    }
}

void vet_rules(const vetting *job)
{
    const drom_rules_plan *const rules = &plan_tables(job->plan)->rules;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        vet_actions(job, i, rules->rules.rows[i].actions.rows, rules->rules.rows[i].actions.count);
        vet_actions(job, i, rules->rules.rows[i].otherwise.rows, rules->rules.rows[i].otherwise.count);
    }
    vet_confirmed(job);
}
