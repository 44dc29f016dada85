/* A stepper always has a target: running is a very far target, stopping the nearest one at which it can
 * brake.
 *
 * With constant acceleration the interval after n steps is the first one times sqrt(n + 1) - sqrt(n). A table
 * has the first few; from there c' = c - 2c / (4n + 1) is close enough (and back c' = c + 2c / (4n - 1)). The
 * remainder of the division is kept for the next one, or the ramp of a fast motor would never end: its
 * intervals change by less than a µs per step. n is the number of steps in which it could stop. */
#include "../compiler.h"

#include "../../include/dromikos/outputs/stepper.h"

#include "../bound.h"

/* The rotor needs time to settle after the coils were switched on, and after the last step. */
#define SETTLE_US UINT32_C(100000)
enum { MIN_STEP_US = 200 };
#define MAX_FIRST_US UINT32_C(10000000)
enum { LOOK_US = 5000, HOME_US = 25000 /* after a step the switch has settled, and was sampled */ };

static drom_reason check_settings(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item)
{
    const drom_stepper_settings DROM_FLASH *const stepper = settings;
    for (*item = 0; *item < 4; ++*item) {
        if (stepper->pins[*item] >= facts->pins) {
            return DROM_REASON_PIN;
        }
    }
    *item = 0;
    const drom_stepper_settings copy =
        *stepper; /* a copy: avr-gcc 5.4 fails on null tests of flash pointers */
    if (copy.home_max < 0 || copy.home_max > DROM_STEPPER_FARTHEST) {
        return DROM_REASON_SETTINGS;
    }
    if (copy.home == NULL && copy.home_max > 0) {
        return DROM_REASON_NULL;
    }
    return stepper->fastest_us >= MIN_STEP_US && stepper->first_us >= stepper->fastest_us &&
                   stepper->first_us <= MAX_FIRST_US
               ? DROM_REASON_NONE
               : DROM_REASON_SETTINGS;
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    const int32_t steps = (int32_t)value;
    return verb == DROM_STEPPER_STOP ||
           (verb == DROM_STEPPER_HOME &&
            ((const drom_stepper_settings DROM_FLASH *)settings)->home_max > 0) ||
           (verb == DROM_STEPPER_RUN && value <= 1) ||
           (verb <= DROM_STEPPER_GO && steps >= -DROM_STEPPER_FARTHEST && steps <= DROM_STEPPER_FARTHEST);
}

/* The first of the two pins that are on, at a position. */
static uint8_t coil(int32_t position)
{
    return (uint8_t)((uint32_t)position % 4);
}

DROM_NOINLINE static void switch_coils(const drom_stepper_settings DROM_FLASH *settings,
                                       drom_stepper_state *state, const drom_timing *timing, bool is_on)
{
    const uint8_t first = coil(state->position);
    for (uint8_t i = 0; i < 4; i++) {
        const bool is_one = i == first || i == (first + 1) % 4;
        drom_port_of(timing)->pins->write(drom_port_of(timing)->context, settings->pins[i], is_on && is_one);
    }
    state->is_on = is_on;
}

static void rest(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_stepper_settings DROM_FLASH *const settings = settings_of;
    drom_stepper_state *const state = state_of;
    *state = (drom_stepper_state){.position = state->position, .target = state->position};
    switch_coils(settings, state, timing, settings->holds_still);
}

/* Returns when the first step of a movement may be: the coils have settled, and the rotor has had its time
 * after the last step, which may be pending. */
static drom_us first_step(const drom_stepper_settings DROM_FLASH *settings, const drom_stepper_state *state,
                          drom_us now)
{
    const drom_us at = now + (state->is_on ? settings->first_us : SETTLE_US);
    const drom_us rested_at = state->settled.at - SETTLE_US + settings->first_us;
    return state->settled.is_armed && !drom_is_due(at, rested_at) ? rested_at : at;
}

/* Begins a movement from standstill. */
DROM_NOINLINE static void set_out(const drom_stepper_settings DROM_FLASH *settings, drom_stepper_state *state,
                                  drom_timing *timing)
{
    if (state->is_moving || state->target == state->position) {
        return;
    }
    timing->edges_from = DROM_ANY_OUTPUT;
    state->interval_us = settings->first_us;
    state->next_at = first_step(settings, state, timing->now);
    state->settled.is_armed = false;
    state->is_moving = true;
    state->is_forward = state->target > state->position;
    if (!state->is_on) {
        switch_coils(settings, state, timing, true);
    }
}

/* The sum of two positions within the limits doesn't overflow. */
DROM_NOINLINE static int32_t limited(int32_t place)
{
    return place > DROM_STEPPER_FARTHEST    ? DROM_STEPPER_FARTHEST
           : place < -DROM_STEPPER_FARTHEST ? -DROM_STEPPER_FARTHEST
                                            : place;
}

/* Returns the position at which it stands after braking now. */
static int32_t braked(const drom_stepper_state *state)
{
    return state->position + (state->is_forward ? (int32_t)state->ramp : -(int32_t)state->ramp);
}

/* Stops as soon as possible. A first step that isn't queued is dropped: else stops that come faster than
 * steps would make it step to and fro. The last step, which may be pending, was an interval before. */
static void stop(drom_stepper_state *state, drom_timing *timing)
{
    state->target = braked(state);
    if (state->is_moving && state->ramp == 0) {
        state->is_moving = false;
        timing->edges_from = DROM_ANY_OUTPUT;
        drom_deadline_arm(&state->settled, state->next_at - state->interval_us, SETTLE_US);
    }
}

static void act(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    const drom_stepper_settings DROM_FLASH *const settings = settings_of;
    drom_stepper_state *const state = state_of;
    state->homing = verb == DROM_STEPPER_HOME ? DROM_STEPPER_SEEKS : 0;
    switch ((drom_stepper_verb)verb) {
    case DROM_STEPPER_STOP:
        stop(state, timing);
        break;
    case DROM_STEPPER_HOME:
        state->target = limited(state->position - settings->home_max);
        break;
    case DROM_STEPPER_RUN:
        state->target = value != 0 ? DROM_STEPPER_FARTHEST : -DROM_STEPPER_FARTHEST;
        break;
    case DROM_STEPPER_TURN:
        if (state->target == DROM_STEPPER_FARTHEST || state->target == -DROM_STEPPER_FARTHEST) { /* it ran */
            state->target = braked(state);
        }
        state->target = limited(state->target + (int32_t)value);
        break;
    case DROM_STEPPER_GO:
        state->target = (int32_t)value;
        break;
    }
    set_out(settings, state, timing);
}

/* Only a position at which the coils are as they were at 0 can become 0. */
static void go_home(const drom_stepper_settings DROM_FLASH *settings, drom_stepper_state *state, drom_us now)
{
    const bool *const home = settings->home;
    const bool is_closed = *home;
    const bool has_rested =
        !state->settled.is_armed || drom_is_due(now, state->settled.at - SETTLE_US + HOME_US);
    if (state->homing == DROM_STEPPER_SEEKS && is_closed) {
        state->target = braked(state);
        state->home_end = limited(state->target + settings->home_max);
        state->homing = DROM_STEPPER_LEAVES;
    } else if (state->is_moving || !has_rested) {
        return;
    } else if (state->homing == DROM_STEPPER_SEEKS || state->position >= state->home_end) {
        state->homing = 0; /* ends the search */
    } else if (!is_closed && coil(state->position) == 0) {
        state->position = 0;
        state->target = 0;
        state->homing = 0;
    } else {
        state->target = state->position + 1;
    }
}

static drom_wait poll(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_stepper_settings DROM_FLASH *const settings = settings_of;
    drom_stepper_state *const state = state_of;
    const bool is_homing = DROM_WITH_HOMING && state->homing != 0;
    if (is_homing) {
        go_home(settings, state, timing->now);
    }
    set_out(settings, state, timing);
    if (drom_deadline_passed(&state->settled, timing->now) && !settings->holds_still) {
        switch_coils(settings, state, timing, false);
    }
    const drom_wait wait = drom_deadline_wait(&state->settled, timing->now);
    return is_homing ? drom_shorter(wait, LOOK_US) : wait;
}

static bool next_edge(const void *state_of, drom_us *at)
{
    const drom_stepper_state *const state = state_of;
    *at = state->next_at;
    return state->is_moving;
}

/* Returns the steps left in the direction of movement; negative if it must turn round. */
static int32_t left(const drom_stepper_state *state)
{
    return state->is_forward ? state->target - state->position : state->position - state->target;
}

/* 1024 times sqrt(n + 1) - sqrt(n). */
static const uint16_t DROM_FLASH shares[] = {1024, 424, 325, 274, 242};

enum { SHARES = sizeof shares / sizeof shares[0] };

/* Computes the interval after a step, and the number of steps in which the motor could stop. */
DROM_NOINLINE static void change_speed(const drom_stepper_settings DROM_FLASH *settings,
                                       drom_stepper_state *state)
{
    const uint32_t n = state->ramp;
    const uint32_t interval = state->interval_us;
    const uint32_t fastest = settings->fastest_us;
    const int32_t steps = left(state);
    const bool is_braking = steps <= (int32_t)n;
    if (is_braking ? n == 0 : steps == (int32_t)n + 1 || interval == fastest) {
        return;
    }
    state->ramp = is_braking ? n - 1 : n + 1;
    if (state->ramp < SHARES) {
        state->interval_us = settings->first_us * shares[state->ramp] / 1024;
        state->rest = 0;
    } else {
        const uint32_t divisor = is_braking ? 4 * n - 1 : 4 * n + 5;
        const uint32_t twice = 2 * interval + state->rest;
        const uint32_t change = twice / divisor;
        state->rest = twice % divisor;
        state->interval_us = is_braking ? interval + change : interval - change;
    }
    if (state->interval_us < fastest) {
        state->interval_us = fastest;
    }
}

/* The pins that change in a step forward from a position, or in a step back to it. */
static uint32_t toggles_at(const drom_stepper_settings DROM_FLASH *settings, const drom_timing *timing,
                           int32_t position)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    const uint8_t first = coil(position);
    return port->edges->toggle(port->context, settings->pins[first]) |
           port->edges->toggle(port->context, settings->pins[(first + 2) % 4]);
}

static uint32_t take_edge(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing, drom_us at)
{
    const drom_stepper_settings DROM_FLASH *const settings = settings_of;
    drom_stepper_state *const state = state_of;
    const uint32_t toggles = toggles_at(settings, timing, state->position - !state->is_forward);
    const bool has_stood = at - state->next_at > state->interval_us; /* main was late by more than a step */
    state->position += state->is_forward ? 1 : -1;
    if (has_stood) {
        state->ramp = 0;
    } else {
        change_speed(settings, state);
    }
    state->next_at = at + state->interval_us;
    if (state->ramp == 0 && state->target != state->position) { /* slow enough to turn round */
        state->is_forward = state->target > state->position;
        state->interval_us = settings->first_us;
        state->next_at = at + settings->first_us;
    } else if (state->ramp == 0) {
        state->is_moving = false;
        drom_deadline_arm(&state->settled, at, SETTLE_US);
    }
    return toggles;
}

/* Takes back a step that wasn't made. The newest step came from the position whose pins it would have
 * changed. */
static void untake_edge(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing,
                        uint32_t toggles)
{
    const drom_stepper_settings DROM_FLASH *const settings = settings_of;
    drom_stepper_state *const state = state_of;
    if (toggles == toggles_at(settings, timing, state->position - 1)) {
        state->position--;
    } else if (toggles == toggles_at(settings, timing, state->position)) {
        state->position++;
    }
}

static bool is_on(const void *state_of)
{
    const drom_stepper_state *const state = state_of;
    return state->is_moving;
}

static bool is_busy(const void *state_of)
{
    const drom_stepper_state *const state = state_of;
    return state->is_moving || state->homing != 0;
}

static uint32_t uses(const void DROM_FLASH *settings)
{
    return ((const drom_stepper_settings DROM_FLASH *)settings)->home_max > 0 ? DROM_USES(HOMING) : 0;
}

const drom_output_kind DROM_FLASH drom_stepper = {
    .uses = DROM_IS_BOUND ? NULL : uses,
    .undo = DROM_STEPPER_STOP,
    .needs = DROM_USES(TIMED_EDGES),
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .act = act,
    .is_on = DROM_WITH_CONDITIONS ? is_on : NULL,
    .is_busy = DROM_WITH_WAITS ? is_busy : NULL,
    .poll = poll,
    .next_edge = next_edge,
    .take_edge = take_edge,
    .untake_edge = untake_edge,
};
