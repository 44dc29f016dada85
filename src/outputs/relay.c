/* A relay has a wanted state and an actual one; settle() switches when the minimum times allow it. */
#include "../compiler.h"

#include "../../include/dromikos/outputs/relay.h"

#include "../bound.h"

static drom_reason check_settings(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item)
{
    const drom_relay_settings DROM_FLASH *const relay = settings;
    (void)item;
    return relay->pin >= facts->pins ? DROM_REASON_PIN
           : relay->min_on_ms <= DROM_LONGEST_MS && relay->min_off_ms <= DROM_LONGEST_MS &&
                   relay->max_on_ms <= DROM_LONGEST_MS &&
                   (relay->max_on_ms == 0 || relay->max_on_ms >= relay->min_on_ms)
               ? DROM_REASON_NONE
               : DROM_REASON_SETTINGS;
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    (void)settings;
    return verb < DROM_RELAY_PULSE || (verb == DROM_RELAY_PULSE && value >= 1 && value <= DROM_LONGEST_MS);
}

static void drive(const drom_relay_settings DROM_FLASH *settings, drom_relay_state *state,
                  const drom_timing *timing, bool is_on)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    state->is_on = is_on;
    port->pins->write(port->context, settings->pin, is_on != settings->is_active_low);
    state->switched_at = port->clock->now(port->context); /* later than the beginning of the poll */
    state->has_min = (is_on ? settings->min_on_ms : settings->min_off_ms) > 0;
    state->has_max = is_on && settings->max_on_ms > 0;
}

static drom_us end_of_min(const drom_relay_settings DROM_FLASH *settings, const drom_relay_state *state)
{
    return state->switched_at + (state->is_on ? settings->min_on_ms : settings->min_off_ms) * 1000;
}

static drom_us end_of_max(const drom_relay_settings DROM_FLASH *settings, const drom_relay_state *state)
{
    return state->switched_at + settings->max_on_ms * 1000;
}

static void settle(const drom_relay_settings DROM_FLASH *settings, drom_relay_state *state,
                   const drom_timing *timing)
{
    if (state->is_on != state->is_wanted_on && !state->has_min &&
        !(state->is_wanted_on && state->is_barred)) {
        drive(settings, state, timing, state->is_wanted_on);
    }
    if (state->is_on && state->has_pulse) {
        drom_deadline_arm(&state->pulse_end, timing->now, state->pulse_end.at * 1000);
        state->has_pulse = false;
    }
}

static void rest(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_relay_settings DROM_FLASH *const settings = settings_of;
    drom_relay_state *const state = state_of;
    *state = (drom_relay_state){.is_wanted_on = settings->rests_on,
                                .is_barred = DROM_WITH_INTERLOCKS && state->is_barred};
    drive(settings, state, timing, settings->rests_on && !state->is_barred);
    state->has_min =
        state->has_min && state->is_on == state->is_wanted_on; /* the rest state precedes minimum times */
}

static bool is_at_rest(const void *state_of)
{
    const drom_relay_state *const state = state_of;
    return state->is_on == state->is_wanted_on;
}

static void act(const void DROM_FLASH *settings, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    drom_relay_state *const state = state_of;
    const bool was_wanted_on = state->is_wanted_on;
    state->has_pulse = verb == DROM_RELAY_PULSE;
    state->pulse_end = (drom_deadline){.at = value};
    state->is_wanted_on = verb == DROM_RELAY_TOGGLE ? !was_wanted_on : verb != DROM_RELAY_OFF;
    settle(settings, state, timing);
}

static drom_wait poll(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_relay_settings DROM_FLASH *const settings = settings_of;
    drom_relay_state *const state = state_of;
    const drom_us now = timing->now;
    if (state->has_min && drom_is_due(now, end_of_min(settings, state))) {
        state->has_min = false;
    }
    if (state->has_max && drom_is_due(now, end_of_max(settings, state))) {
        state->has_max = false;
        state->is_wanted_on = false;
    }
    if (drom_deadline_passed(&state->pulse_end, now)) {
        state->is_wanted_on = false;
    }
    settle(settings, state, timing);
    const drom_wait min = state->has_min ? drom_until(now, end_of_min(settings, state)) : DROM_LONG;
    const drom_wait max = state->has_max ? drom_until(now, end_of_max(settings, state)) : DROM_LONG;
    return drom_shorter(drom_shorter(min, max), drom_deadline_wait(&state->pulse_end, now));
}

static bool is_on(const void *state_of)
{
    const drom_relay_state *const state = state_of;
    return state->is_wanted_on;
}

static bool bar(void *state_of, bool is_barred)
{
    drom_relay_state *const state = state_of;
    const bool has_changed = state->is_barred != is_barred;
    state->is_barred = is_barred;
    return has_changed;
}

static bool is_driven(const void *state_of)
{
    const drom_relay_state *const state = state_of;
    return state->is_on;
}

static bool is_busy(const void *state_of)
{
    const drom_relay_state *const state = state_of;
    return state->is_on != state->is_wanted_on || state->has_pulse || state->pulse_end.is_armed;
}

const drom_output_kind DROM_FLASH drom_relay = {
    .undo = DROM_RELAY_OFF,
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .is_at_rest = DROM_WITH_INTERLOCKS ? is_at_rest : NULL,
    .act = act,
    .is_on = DROM_WITH_CONDITIONS + DROM_WITH_INTERLOCKS > 0 ? is_on : NULL,
    .bar = DROM_WITH_INTERLOCKS ? bar : NULL,
    .is_driven = DROM_WITH_INTERLOCKS ? is_driven : NULL,
    .is_busy = DROM_WITH_WAITS ? is_busy : NULL,
    .poll = poll,
};
