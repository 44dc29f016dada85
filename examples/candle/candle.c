/* A candle's brightness is a random walk between full and a limit set by the draught. */
#include "../compiler.h"

#include "../../include/dromikos/outputs/candle.h"

#include "../bound.h"

enum { MIN_MS = 20, MAX_MS = 1000, FULL = 255 };

static drom_reason check_settings(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item)
{
    const drom_candle_settings DROM_FLASH *const candle = settings;
    (void)item;
    return candle->pin >= facts->pins                                 ? DROM_REASON_PIN
           : candle->every_ms >= MIN_MS && candle->every_ms <= MAX_MS ? DROM_REASON_NONE
                                                                      : DROM_REASON_SETTINGS;
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    (void)settings;
    return verb == DROM_CANDLE_OUT || (verb == DROM_CANDLE_BURN && value <= FULL);
}

static void shine(const drom_candle_settings DROM_FLASH *settings, const drom_timing *timing, uint8_t level)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    port->pwm->write(port->context, settings->pin, (uint16_t)(level * 257u));
}

static void rest(const void DROM_FLASH *settings, void *state, drom_timing *timing)
{
    *(drom_candle_state *)state = (drom_candle_state){.random = 1};
    shine(settings, timing, 0);
}

static void act(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    const drom_candle_settings DROM_FLASH *const settings = settings_of;
    drom_candle_state *const state = state_of;
    state->burns = verb == DROM_CANDLE_BURN;
    state->draught = (uint8_t)value;
    shine(settings, timing, state->burns ? FULL : 0);
    state->next.is_armed = false;
    if (state->burns) {
        drom_deadline_arm(&state->next, timing->now, settings->every_ms * (drom_us)1000);
    }
}

static drom_wait poll(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_candle_settings DROM_FLASH *const settings = settings_of;
    drom_candle_state *const state = state_of;
    if (drom_deadline_passed(&state->next, timing->now)) {
        state->random = (uint16_t)(state->random * 25173u + 13849u);
        shine(settings, timing, (uint8_t)(FULL - (state->draught * (state->random >> 8) >> 8)));
        drom_deadline_arm(&state->next, timing->now, settings->every_ms * (drom_us)1000);
    }
    return drom_deadline_wait(&state->next, timing->now);
}

static bool is_on(const void *state_of)
{
    return ((const drom_candle_state *)state_of)->burns;
}

const drom_output_kind DROM_FLASH drom_candle = {
    .undo = DROM_CANDLE_OUT,
    .needs = DROM_USES(PWM),
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .act = act,
    .is_on = DROM_WITH_CONDITIONS ? is_on : NULL,
    .poll = poll,
};
