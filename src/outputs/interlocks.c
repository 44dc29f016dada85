/* Each output takes its orders itself, and is barred from driving its load while another output of its
 * interlock is driven, or the pause since then isn't over. So orders given meanwhile change what the output
 * will do. */
#include "../compiler.h"

#include "interlocks.h"

#include "../bound.h"

static const drom_output DROM_FLASH *output_at(const drom_outputs_plan DROM_FLASH *plan, uint8_t row)
{
    return &plan->outputs.rows[row];
}

/* Returns the row of the interlock that contains an output; the number of interlocks if there is none. */
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

bool drom_interlocks_drive(const drom_outputs_plan DROM_FLASH *plan, uint8_t row)
{
    const drom_output DROM_FLASH *const output = output_at(plan, row);
    return interlock_of(plan, row) < plan->interlocks.count && output->kind->is_driven(output->state);
}

static void begin_pause(const drom_interlock DROM_FLASH *interlock, const drom_timing *timing, uint8_t driven)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    interlock->state->driven = driven;
    drom_deadline_arm(&interlock->state->pause, port->clock->now(port->context),
                      interlock->pause_ms * UINT32_C(1000));
}

void drom_interlocks_note(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing, uint8_t row)
{
    begin_pause(&plan->interlocks.rows[interlock_of(plan, row)], timing, row);
}

/* True if an output of the interlock, other than this one, is driven. */
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

static bool is_free(const drom_outputs_plan DROM_FLASH *plan, const drom_interlock DROM_FLASH *interlock,
                    uint8_t row)
{
    const drom_interlock_state *const state = interlock->state;
    return (!state->pause.is_armed || state->driven == row) && !is_other_driven(plan, interlock, row);
}

/* True if the output is to be on and isn't driven. */
static bool is_waiting(const drom_output DROM_FLASH *output)
{
    return output->kind->is_on(output->state) && !output->kind->is_driven(output->state);
}

bool drom_outputs_keep_back(const drom_outputs_plan DROM_FLASH *plan, uint8_t row)
{
    const uint8_t found = interlock_of(plan, row);
    return found < plan->interlocks.count && is_waiting(output_at(plan, row)) &&
           !is_free(plan, &plan->interlocks.rows[found], row);
}

/* Orders an output directly, without its interlock. */
static void act(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row, uint8_t verb,
                uint32_t value)
{
    const drom_output DROM_FLASH *const output = output_at(plan, row);
    const bool was_driven = output->kind->is_driven(output->state);
    output->kind->act(output->settings, output->state, timing, verb, value);
    if (was_driven) {
        drom_interlocks_note(plan, timing, row);
    }
}

void drom_interlocks_act(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row,
                         uint8_t verb, uint32_t value)
{
    const drom_output DROM_FLASH *const wanted = output_at(plan, row);
    const uint8_t found = interlock_of(plan, row);
    if (found == plan->interlocks.count) {
        wanted->kind->act(wanted->settings, wanted->state, timing, verb, value);
        return;
    }
    const drom_interlock DROM_FLASH *const interlock = &plan->interlocks.rows[found];
    (void)wanted->kind->bar(wanted->state, !is_free(plan, interlock, row));
    act(plan, timing, row, verb, value);
    for (uint8_t i = 0; i < interlock->outputs.count && wanted->kind->is_on(wanted->state); i++) {
        const uint8_t other = interlock->outputs.rows[i];
        const drom_output DROM_FLASH *const output = output_at(plan, other);
        if (other != row && output->kind->is_on(output->state)) {
            act(plan, timing, other, output->kind->undo, 0);
        }
    }
}

drom_wait drom_interlocks_poll(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing)
{
    drom_wait wait = DROM_LONG;
    for (uint8_t i = 0; i < plan->interlocks.count; i++) {
        const drom_interlock DROM_FLASH *const interlock = &plan->interlocks.rows[i];
        (void)drom_deadline_passed(&interlock->state->pause, timing->now);
        for (uint8_t j = 0; j < interlock->outputs.count; j++) {
            const drom_output DROM_FLASH *const output = output_at(plan, interlock->outputs.rows[j]);
            if (is_waiting(output) && is_free(plan, interlock, interlock->outputs.rows[j]) &&
                output->kind->bar(output->state, false)) {
                wait = 0; /* it continues with its own poll */
            }
        }
        if (!is_other_driven(plan, interlock, DROM_NONE)) { /* else tried again with the next poll */
            wait = drom_shorter(wait, drom_deadline_wait(&interlock->state->pause, timing->now));
        }
    }
    return wait;
}

void drom_interlocks_before_rest(const drom_outputs_plan DROM_FLASH *plan, uint8_t row, bool is_start)
{
    const drom_output DROM_FLASH *const output = output_at(plan, row);
    if (output->kind->bar != NULL) {
        const bool is_interlocked = interlock_of(plan, row) < plan->interlocks.count;
        (void)output->kind->bar(output->state,
                                is_interlocked && (is_start || !output->kind->is_driven(output->state)));
    }
}

void drom_interlocks_after_rest(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing)
{
    for (uint8_t i = 0; i < plan->interlocks.count; i++) {
        const drom_interlock DROM_FLASH *const interlock = &plan->interlocks.rows[i];
        uint8_t driven = DROM_NONE;
        for (uint8_t j = 0; j < interlock->outputs.count; j++) {
            const uint8_t row = interlock->outputs.rows[j];
            driven = drom_interlocks_drive(plan, row) ? row : driven;
        }
        begin_pause(interlock, timing, driven);
    }
}
