/* A plan's outputs, each through the functions of its kind; and the one order in which their cues come. */
#include "dromikos/outputs.h"

/* What a poll may work out ahead. */
enum { MOST_CUES_A_POLL = 2 };

void drom_outputs_rest(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output output = plan->outputs.rows[i];
        output.kind->rest(&output, timing);
    }
}

void drom_outputs_act(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, const drom_action *action)
{
    const drom_output output = plan->outputs.rows[action->output];
    output.kind->act(&output, timing, action->verb, action->value);
}

/* The wait until the next cue of any output, and whose it is. */
static drom_us find_cue(const drom_outputs_plan DROM_FLASH *plan, const drom_timing *timing, drom_output *whose)
{
    drom_us soonest = DROM_NEVER;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output output = plan->outputs.rows[i];
        drom_us at;
        if (output.kind->next_cue != NULL && output.kind->next_cue(&output, &at)) {
            const drom_us wait = drom_until(timing->now, at);
            if (wait < soonest) {
                soonest = wait;
                *whose = output;
            }
        }
    }
    return soonest;
}

/* Makes cues, in the order of their times. The wait until it is time for the next. */
static drom_us make_cues(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    drom_output whose;
    for (uint8_t i = 0; i < MOST_CUES_A_POLL; i++) {
        const drom_us wait = find_cue(plan, timing, &whose);
        if (wait >= DROM_CUE_HORIZON_US) {
            return wait == DROM_NEVER ? DROM_NEVER : wait - (DROM_CUE_HORIZON_US - 1);
        }
        if (drom_cues_are_full(&timing->cues)) {
            return drom_until(timing->now, timing->cues.last_at) / 2;
        }
        drom_us at = timing->now + wait;
        if (!drom_cues_are_empty(&timing->cues) && !drom_is_due(at, timing->cues.last_at)) {
            at = timing->cues.last_at;
        }
        drom_cues_put(&timing->cues, at, whose.kind->take_cue(&whose, timing));
        timing->port->arm_alarm(timing->port->context, &timing->cues);
    }
    return 0;
}

drom_us drom_outputs_poll(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    drom_us wait = DROM_NEVER;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output output = plan->outputs.rows[i];
        if (output.kind->poll != NULL) {
            wait = drom_sooner(wait, output.kind->poll(&output, timing));
        }
    }
    return drom_sooner(wait, make_cues(plan, timing));
}

bool drom_outputs_refresh(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    drom_output whose;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output output = plan->outputs.rows[i];
        const drom_us us = output.kind->wants != NULL ? output.kind->wants(&output, timing) : 0;
        if (us > 0 && drom_air_allows_refresh(timing, us) && find_cue(plan, timing, &whose) > us) {
            output.kind->refresh(&output, timing);
            return true;
        }
    }
    return false;
}
