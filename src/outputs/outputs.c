/* A plan's outputs, each through the functions of its kind; and the one order in which their cues come. */
#include "dromikos/outputs.h"

#include "../one.h"

/* After a refresh it takes main so long, at most, to make the next cue: two polls that hear, and one that
 * makes it. */
enum { MAIN_US = 1500 };

void drom_outputs_rest(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output DROM_FLASH *const output = &plan->outputs.rows[i];
        output->kind->rest(output->settings, output->state, timing);
    }
}

void drom_outputs_act(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing,
                      const drom_action *action)
{
    const drom_output DROM_FLASH *const output = &plan->outputs.rows[action->output];
    output->kind->act(output->settings, output->state, timing, action->verb, action->value);
}

/* Looks for the soonest cue, where that may be another one by now. */
DROM_APART static void find_cue(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    if (timing->cue_from != DROM_ANY_OUTPUT) {
        return;
    }
    timing->cue_from = DROM_NO_OUTPUT;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output DROM_FLASH *const output = &plan->outputs.rows[i];
        drom_us at;
        if (output->kind->next_cue != NULL && output->kind->next_cue(output->state, &at) &&
            (timing->cue_from == DROM_NO_OUTPUT || drom_is_due(timing->cue_at, at))) {
            timing->cue_at = at;
            timing->cue_from = i;
        }
    }
}

/* The wait until a cue is due that isn't made yet. */
static drom_wait cue_wait(const drom_timing *timing)
{
    return timing->cue_from == DROM_NO_OUTPUT ? DROM_LONG : drom_until(timing->now, timing->cue_at);
}

/* Makes a cue, if it is time for one. The wait until it is time for the next. */
DROM_APART static drom_wait make_cue(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    if (!DROM_NEEDS(DROM_NEEDS_STEPS | DROM_NEEDS_CARRIER)) {
        return DROM_LONG;
    }
    find_cue(plan, timing);
    const drom_wait wait = cue_wait(timing);
    if (wait >= DROM_CUE_HORIZON_US) {
        return wait == DROM_LONG ? DROM_LONG : wait - (DROM_CUE_HORIZON_US - 1);
    }
    if (drom_cues_are_full(&timing->cues)) {
        return drom_until(timing->now, timing->cues.last_at) / 2;
    }
    const drom_output DROM_FLASH *const output = &plan->outputs.rows[timing->cue_from];
    drom_us at = timing->now + wait;
    if (!drom_cues_are_empty(&timing->cues) && !drom_is_due(at, timing->cues.last_at)) {
        at = timing->cues.last_at;
    }
    timing->cue_from = DROM_ANY_OUTPUT;
    drom_cues_put(&timing->cues, at, output->kind->take_cue(output->settings, output->state, timing, at));
    DROM_PORT_OF(timing)->arm_alarm(DROM_PORT_OF(timing)->context, &timing->cues);
    return 0;
}

drom_wait drom_outputs_poll(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    drom_wait wait = 0;
    drom_wait its_wait = DROM_LONG;
    if (timing->turn < plan->outputs.count) {
        const drom_output DROM_FLASH *const output = &plan->outputs.rows[timing->turn];
        if (output->kind->poll != NULL) {
            its_wait = output->kind->poll(output->settings, output->state, timing);
            timing->round_wait = drom_sooner(timing->round_wait, its_wait);
        }
        timing->turn++;
    }
    if (timing->turn >= plan->outputs.count) {
        wait = timing->round_wait;
        timing->turn = 0;
        timing->round_wait = DROM_LONG;
    }
    if (its_wait == 0) { /* it has only begun, which was enough for one poll */
        return 0;
    }
    return drom_sooner(wait, make_cue(plan, timing));
}

drom_wait drom_outputs_want(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t *row)
{
    for (uint8_t i = 0; DROM_NEEDS(DROM_NEEDS_PIXELS) && i < plan->outputs.count; i++) {
        const drom_output DROM_FLASH *const output = &plan->outputs.rows[i];
        const drom_wait us =
            output->kind->wants != NULL ? output->kind->wants(output->settings, output->state) : 0;
        if (us > 0) {
            find_cue(plan, timing);
            *row = i;
            return cue_wait(timing) > us + MAIN_US ? us : 0;
        }
    }
    return 0;
}
