/* A lamp has a level as the eye sees it; the duty is its square, which is near enough to how eyes work. A
 * fade goes one level at a time. */
#include "dromikos/lamp.h"

#include "../one.h"

enum { FULL = 255 };

static bool accepts_settings(const void DROM_FLASH *settings)
{
    (void)settings;
    return true;
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    (void)settings;
    return verb <= DROM_LAMP_TOGGLE || (verb <= DROM_LAMP_DIMMER && value <= FULL) ||
           (verb == DROM_LAMP_FADE && value >> 8 <= DROM_LONGEST_MS);
}

static void shine(const void DROM_FLASH *settings_of, drom_lamp_state *state, const drom_timing *timing,
                  uint8_t level)
{
    const drom_lamp_settings DROM_FLASH *const settings = DROM_LAMP_SETTINGS(settings_of);
    const uint16_t duty = level == FULL ? UINT16_MAX : (uint16_t)(level * level);
    state->level = level;
    DROM_PORT_OF(timing)->write_pwm(DROM_PORT_OF(timing)->context, settings->pin,
                                    settings->is_active_low ? (uint16_t)(UINT16_MAX - duty) : duty);
}

static void rest(const void DROM_FLASH *settings, void *state, drom_timing *timing)
{
    *(drom_lamp_state *)state = (drom_lamp_state){.last = FULL};
    shine(settings, state, timing, 0);
}

static void go(const void DROM_FLASH *settings, drom_lamp_state *state, const drom_timing *timing,
               uint8_t level, uint32_t ms)
{
    const uint8_t way = (uint8_t)(level > state->level ? level - state->level : state->level - level);
    state->target = level;
    state->last = level > 0 ? level : state->last;
    state->next.is_armed = false;
    if (ms == 0 || way == 0) {
        shine(settings, state, timing, level);
        return;
    }
    state->step_us = ms * 1000 / way;
    drom_deadline_arm(&state->next, timing->now, state->step_us);
}

static void act(const void DROM_FLASH *settings, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    drom_lamp_state *const state = state_of;
    const uint8_t from = state->target;
    const uint8_t by = (uint8_t)value;
    uint8_t to = 0;
    switch ((drom_lamp_verb)verb) {
    case DROM_LAMP_OFF:
        break;
    case DROM_LAMP_ON:
        to = state->last;
        break;
    case DROM_LAMP_TOGGLE:
        to = from > 0 ? 0 : state->last;
        break;
    case DROM_LAMP_BRIGHTER:
        to = by > FULL - from ? FULL : (uint8_t)(from + by);
        break;
    case DROM_LAMP_DIMMER:
        to = by > from ? 0 : (uint8_t)(from - by);
        break;
    case DROM_LAMP_FADE:
        to = by;
        break;
    }
    go(settings, state, timing, to, verb == DROM_LAMP_FADE ? value >> 8 : 0);
}

static drom_wait poll(const void DROM_FLASH *settings, void *state_of, drom_timing *timing)
{
    drom_lamp_state *const state = state_of;
    if (drom_deadline_passed(&state->next, timing->now)) {
        shine(settings, state, timing,
              (uint8_t)(state->target > state->level ? state->level + 1 : state->level - 1));
        if (state->level != state->target) {
            drom_deadline_arm(&state->next, state->next.at, state->step_us);
        }
    }
    return drom_deadline_wait(&state->next, timing->now);
}

const drom_output_kind DROM_FLASH drom_lamp = {
    .needs = DROM_NEEDS_PWM,
    .accepts_settings = DROM_CHECK(accepts_settings),
    .accepts_action = DROM_CHECK(accepts_action),
    .rest = rest,
    .act = act,
    .poll = poll,
};
