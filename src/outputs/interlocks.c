/* Each order that would switch an output on is kept, and given as soon as no other of its interlock is driven
 * and the pause since then is over: at once, most often. */
#include "interlocks.h"

static const drom_output DROM_FLASH *output_at(const drom_outputs_plan DROM_FLASH *plan, uint8_t row)
{
    return &plan->outputs.rows[row];
}

/* The row of the interlock in which an output is; as many as there are: none. */
static uint8_t interlock_of(const drom_outputs_plan DROM_FLASH *plan, uint8_t row)
{
    uint8_t found = plan->interlocks.count;
    for (uint8_t i = 0; i < plan->interlocks.count; i++) {
        const drom_interlock DROM_FLASH *const interlock = &plan->interlocks.rows[i];
        for (uint8_t j = 0; j < interlock->outputs.count; j++) {
            found = interlock->outputs.rows[j] == row ? i : found;
        }
    }
    return found;
}

void drom_interlocks_note(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row)
{
    const uint8_t found = interlock_of(plan, row);
    if (found == plan->interlocks.count) {
        return;
    }
    const drom_output DROM_FLASH *const output = output_at(plan, row);
    if (output->kind->is_driven(output->state)) {
        drom_interlock_state *const state = plan->interlocks.rows[found].state;
        state->driven = row;
        drom_deadline_arm(&state->pause, timing->now, plan->interlocks.rows[found].pause_ms * UINT32_C(1000));
    }
}

/* Is one of them driven, but for this one? */
static bool is_other_driven(const drom_outputs_plan DROM_FLASH *plan,
                            const drom_interlock DROM_FLASH *interlock, uint8_t but)
{
    bool is_so = false;
    for (uint8_t i = 0; i < interlock->outputs.count; i++) {
        const uint8_t row = interlock->outputs.rows[i];
        const drom_output DROM_FLASH *const output = output_at(plan, row);
        is_so = is_so || (row != but && output->kind->is_driven(output->state));
    }
    return is_so;
}

static bool is_free(const drom_outputs_plan DROM_FLASH *plan, const drom_interlock DROM_FLASH *interlock)
{
    const drom_interlock_state *const state = interlock->state;
    return (!state->pause.is_armed || state->driven == state->row) &&
           !is_other_driven(plan, interlock, state->row);
}

/* Gives the order that waits, if it needn't any longer. */
static void grant(const drom_outputs_plan DROM_FLASH *plan, const drom_interlock DROM_FLASH *interlock,
                  drom_timing *timing)
{
    drom_interlock_state *const state = interlock->state;
    if (state->is_wished && is_free(plan, interlock)) {
        const drom_output DROM_FLASH *const output = output_at(plan, state->row);
        state->is_wished = false;
        output->kind->act(output->settings, output->state, timing, state->verb, state->value);
    }
}

bool drom_interlocks_hold_back(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row,
                               uint8_t verb, uint32_t value)
{
    const uint8_t found = interlock_of(plan, row);
    if (found == plan->interlocks.count) {
        return false;
    }
    const drom_interlock DROM_FLASH *const interlock = &plan->interlocks.rows[found];
    drom_interlock_state *const state = interlock->state;
    const drom_output DROM_FLASH *const wanted = output_at(plan, row);
    const bool is_again = state->is_wished && state->row == row;
    if (!wanted->kind->would_be_on(wanted->state, verb, value, is_again)) {
        state->is_wished = state->is_wished && !is_again;
        return is_again; /* it never came on, and needn't go off */
    }
    state->is_wished = true;
    state->row = row;
    state->verb = verb;
    state->value = value;
    for (uint8_t i = 0; i < interlock->outputs.count; i++) {
        const uint8_t other = interlock->outputs.rows[i];
        const drom_output DROM_FLASH *const output = output_at(plan, other);
        if (other != row) {
            drom_interlocks_note(plan, timing, other);
            output->kind->act(output->settings, output->state, timing, output->kind->undo, 0);
        }
    }
    grant(plan, interlock, timing);
    return true;
}

drom_wait drom_interlocks_poll(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    drom_wait wait = DROM_LONG;
    for (uint8_t i = 0; i < plan->interlocks.count; i++) {
        const drom_interlock DROM_FLASH *const interlock = &plan->interlocks.rows[i];
        (void)drom_deadline_passed(&interlock->state->pause, timing->now);
        grant(plan, interlock, timing);
        if (!is_other_driven(plan, interlock, DROM_NO_OUTPUT)) { /* else it begins anew, with the next poll */
            wait = drom_shorter(wait, drom_deadline_wait(&interlock->state->pause, timing->now));
        }
    }
    return wait;
}

void drom_interlocks_rest(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing)
{
    for (uint8_t i = 0; i < plan->interlocks.count; i++) {
        const drom_interlock DROM_FLASH *const interlock = &plan->interlocks.rows[i];
        *interlock->state = (drom_interlock_state){.driven = DROM_NO_OUTPUT};
        drom_deadline_arm(&interlock->state->pause, timing->now, interlock->pause_ms * UINT32_C(1000));
    }
}
