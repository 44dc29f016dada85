/* A plan's outputs, each by the functions of its kind; and their timed edges in one order. */
#include "../compiler.h"

#include "../../include/dromikos/internal/outputs.h"

#include "../bound.h"
#include "interlocks.h"

/* Longest time from a refresh until main makes the next timed edge: two polls that receive, and one that
 * makes the edge. */
enum { MAIN_US = 1500 };

/* How many outputs a poll serves, unless one has much to do; and how many timed edges it makes, if few are
 * queued: only those could be late for a burst or a step. */
enum { OUTPUTS_A_POLL = 4, EDGES_A_POLL = 3, FEW_EDGES_US = 3700 };

/* After this many polls for edges alone, the outputs are polled in any case. */
enum { MAX_EDGE_POLLS = 4 };

void drom_outputs_take_edges_back(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    uint32_t toggles;
    while (drom_timed_edges_take_back(&timing->timed_edges, &toggles)) {
        for (uint8_t i = 0; i < plan->outputs.count; i++) {
            const drom_output DROM_FLASH *const output = &plan->outputs.rows[i];
            if (output->kind->untake_edge != NULL) {
                output->kind->untake_edge(output->settings, output->state, timing, toggles);
            }
        }
    }
}

static void begin_round(drom_timing *timing)
{
    timing->turn = 0;
    timing->round_wait = DROM_LONG;
}

void drom_outputs_rest(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, bool is_start)
{
    timing->edges_from = DROM_ANY_OUTPUT;
    timing->open_pulses = 0;
    begin_round(timing);
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output DROM_FLASH *const output = &plan->outputs.rows[i];
        if (DROM_WITH_INTERLOCKS) {
            drom_interlocks_before_rest(plan, i, is_start);
        }
        output->kind->rest(output->settings, output->state, timing);
    }
    if (DROM_WITH_INTERLOCKS) {
        drom_interlocks_after_rest(plan, timing);
    }
}

bool drom_outputs_come_to_rest(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, drom_wait *wait)
{
    bool is_coming = false;
    *wait = DROM_LONG;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output DROM_FLASH *const output = &plan->outputs.rows[i];
        if (output->kind->is_at_rest != NULL && !output->kind->is_at_rest(output->state)) {
            is_coming = true;
            const drom_wait next = output->kind->poll(output->settings, output->state, timing);
            *wait = output->kind->is_at_rest(output->state) ? 0 : drom_shorter(*wait, next);
        }
    }
    if (DROM_WITH_INTERLOCKS) {
        *wait = drom_shorter(*wait, drom_interlocks_poll(plan, timing));
    }
    return is_coming;
}

void drom_outputs_act(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row,
                      uint8_t verb, uint32_t value)
{
    if (DROM_WITH_INTERLOCKS) {
        drom_interlocks_act(plan, timing, row, verb, value);
    } else {
        const drom_output DROM_FLASH *const output = &plan->outputs.rows[row];
        output->kind->act(output->settings, output->state, timing, verb, value);
    }
    /* The output's answer in this round is no longer valid; the others keep their turn. */
    timing->round_wait = 0;
}

/* Finds the soonest timed edge, if it may have changed. */
DROM_NOINLINE static void find_edge(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    if (timing->edges_from != DROM_ANY_OUTPUT) {
        return;
    }
    timing->edges_from = DROM_NONE;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output DROM_FLASH *const output = &plan->outputs.rows[i];
        drom_us at;
        if (output->kind->next_edge != NULL && output->kind->next_edge(output->state, &at) &&
            (timing->edges_from == DROM_NONE || drom_is_due(timing->edge_at, at))) {
            timing->edge_at = at;
            timing->edges_from = i;
        }
    }
}

/* Returns the wait until the next timed edge that isn't queued is due. */
static drom_wait edge_wait(const drom_timing *timing)
{
    return timing->edges_from == DROM_NONE ? DROM_LONG : drom_until(timing->now, timing->edge_at);
}

/* Queues a timed edge, if it is time. Returns the wait until the next. */
DROM_NOINLINE static drom_wait make_edge(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    if (!DROM_WITH_TIMED_EDGES) {
        return DROM_LONG;
    }
    find_edge(plan, timing);
    const drom_wait wait = edge_wait(timing);
    const drom_wait horizon =
        (drom_wait)((timing->hurries > 0 ? DROM_TIMED_EDGE_HURRY_US : DROM_TIMED_EDGE_HORIZON_US) +
                    (timing->open_pulses > 0 ? DROM_PULSE_US : 0));
    if (wait >= horizon) {
        return wait == DROM_LONG ? DROM_LONG : wait - (horizon - 1);
    }
    if (drom_timed_edges_are_full(&timing->timed_edges)) {
        return drom_until(timing->now, timing->timed_edges.last_at) / 2;
    }
    const drom_output DROM_FLASH *const output = &plan->outputs.rows[timing->edges_from];
    drom_us at = timing->now + wait;
    if (!drom_timed_edges_are_empty(&timing->timed_edges) && !drom_is_due(at, timing->timed_edges.last_at)) {
        at = timing->timed_edges.last_at;
    }
    timing->edges_from = DROM_ANY_OUTPUT;
    drom_timed_edges_put(&timing->timed_edges, at,
                         output->kind->take_edge(output->settings, output->state, timing, at));
    drom_port_of(timing)->edges->arm(drom_port_of(timing)->context, &timing->timed_edges);
    return 0;
}

/* Queues up to `most` timed edges, and more if a pulse needs its second one. Returns the wait until the next.
 */
static drom_wait make_edges(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t count)
{
    drom_wait wait = 0;
    for (uint8_t i = 0; (i < count || (timing->open_pulses > 0 && i < DROM_TIMED_EDGES)) && wait == 0; i++) {
        wait = make_edge(plan, timing);
    }
    return wait;
}

/* True if a timed edge that isn't queued is due within `us`. */
static bool is_edge_within(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, drom_wait us)
{
    if (!DROM_WITH_TIMED_EDGES) {
        return false;
    }
    find_edge(plan, timing);
    return edge_wait(timing) < us && !drom_timed_edges_are_full(&timing->timed_edges);
}

bool drom_outputs_are_pressed(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    return is_edge_within(plan, timing, DROM_TIMED_EDGE_HURRY_US);
}

/* Polls the next output. */
static drom_wait poll_next(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    const uint8_t row = timing->turn++;
    const drom_output DROM_FLASH *const output = &plan->outputs.rows[row];
    const bool was_driven = DROM_WITH_INTERLOCKS && drom_interlocks_drive(plan, row);
    const drom_wait wait =
        output->kind->poll != NULL ? output->kind->poll(output->settings, output->state, timing) : DROM_LONG;
    if (was_driven) {
        drom_interlocks_note(plan, timing, row);
    }
    timing->round_wait = drom_shorter(timing->round_wait, wait);
    return wait;
}

drom_wait drom_outputs_poll(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing)
{
    drom_wait wait = 0;
    const drom_wait few_us = timing->hurries > 0 ? DROM_TIMED_EDGE_HURRY_US : FEW_EDGES_US;
    if (timing->edge_polls < MAX_EDGE_POLLS && is_edge_within(plan, timing, few_us)) {
        timing->edge_polls++;
        (void)make_edges(plan, timing, EDGES_A_POLL);
        return 0;
    }
    timing->edge_polls = 0;
    for (uint8_t i = 0; i < OUTPUTS_A_POLL && timing->turn < plan->outputs.count; i++) {
        if (poll_next(plan, timing) == 0) { /* it has only begun, which was enough for one poll */
            return 0;
        }
    }
    if (timing->turn >= plan->outputs.count) {
        wait = timing->round_wait;
        if (DROM_WITH_INTERLOCKS) {
            wait = drom_shorter(wait, drom_interlocks_poll(plan, timing));
        }
        timing->hurries = (uint8_t)(timing->hurries - (timing->hurries > 0));
        begin_round(timing);
    }
    return drom_shorter(wait, make_edges(plan, timing, 1));
}

drom_wait drom_outputs_want(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t *row)
{
    *row = DROM_NONE;
    uint8_t next = timing->refresh_turn;
    for (uint8_t left = DROM_WITH_PIXELS ? plan->outputs.count : 0; left > 0; left--) {
        next = next < plan->outputs.count ? next : 0;
        const drom_output DROM_FLASH *const output = &plan->outputs.rows[next];
        const drom_wait us =
            output->kind->wants != NULL ? output->kind->wants(output->settings, output->state, timing) : 0;
        if (us > 0) {
            find_edge(plan, timing);
            *row = next;
        }
        if (us > 0 && us != DROM_LONG && edge_wait(timing) > us + MAIN_US) {
            return us;
        }
        next++;
    }
    return 0;
}

void drom_outputs_refresh(const drom_outputs_plan DROM_FLASH *plan, drom_timing *timing, uint8_t row)
{
    const drom_output DROM_FLASH *const output = &plan->outputs.rows[row];
    timing->refresh_turn = (uint8_t)(row + 1);
    output->kind->refresh(output->settings, output->state, timing);
}
