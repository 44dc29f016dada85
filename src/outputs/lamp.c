/* A level is what the eye perceives; the duty is its square, in steps that the port can show, so that it is
 * the same on all ports with as many steps. A fade moves by one level at a time. */
#include "../compiler.h"

#include "../../include/dromikos/outputs/lamp.h"

#include "../bound.h"

enum { FULL = DROM_FULL_LEVEL };

#define WHITE UINT32_C(0xffffff)

static drom_reason check_settings(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item)
{
    const drom_lamp_settings DROM_FLASH *const lamp = settings;
    (void)item;
    const bool has_pins =
        lamp->pin < facts->pins &&
        (!lamp->has_colour || (lamp->green_pin < facts->pins && lamp->blue_pin < facts->pins));
    return has_pins ? DROM_REASON_NONE : DROM_REASON_PIN;
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    const drom_lamp_settings DROM_FLASH *const lamp = settings;
    return verb <= DROM_LAMP_TOGGLE ||
           (DROM_WITH_COLOUR && verb == DROM_LAMP_COLOUR && lamp->has_colour && value >= 1 &&
            value <= WHITE) ||
           (verb <= DROM_LAMP_DIMMER && value <= FULL) ||
           (verb == DROM_LAMP_FADE && (value & UINT8_MAX) <= FULL && value >> 8 <= DROM_LONGEST_MS) ||
           verb == DROM_LAMP_LET_GO ||
           (verb == DROM_LAMP_DIM && (value & UINT8_MAX) <= DROM_DIM_DOWN && value >> 8 >= 1 &&
            value >> 8 <= DROM_LONGEST_MS) ||
           (verb == DROM_LAMP_BLINK && value >= 1 && value <= DROM_LONGEST_MS);
}

/* Returns the duty of a level, of 65536. Any level but 0 is lit. */
static uint16_t duty_of(uint8_t level, uint8_t bits)
{
    const uint16_t step = (uint16_t)(UINT32_C(0x10000) >> bits);
    const uint16_t part =
        (uint16_t)(level * level); /* of DROM_FULL_LEVEL squared, which times 1.63 is 65536 */
    const uint16_t square = (uint16_t)(part + (part >> 1) + (part >> 3) + (part >> 7));
    const uint16_t below = (uint16_t)(square & ~(step - 1u));
    const bool is_above = square - below > (step - 1) / 2 && below != (uint16_t)(0 - step);
    const uint16_t duty = (uint16_t)(below + (is_above ? step : 0));
    return level == FULL ? UINT16_MAX : level > 0 && duty == 0 ? step : duty;
}

DROM_NOINLINE static void shine_pin(const drom_lamp_settings DROM_FLASH *settings, const drom_timing *timing,
                                    uint8_t pin, uint8_t level)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    const uint16_t duty = duty_of(level, port->pwm->bits);
    const bool is_steady = duty == 0 || duty == UINT16_MAX;
    const uint16_t dark = (uint16_t)((is_steady ? UINT16_MAX : UINT32_C(0x10000)) - duty);
    port->pwm->write(port->context, pin, settings->is_active_low ? dark : duty);
}

/* Returns the level of one colour of the lamp; not 0 if the colour has some of it and the lamp is lit. */
static uint8_t part_of(uint8_t level, uint8_t part)
{
    const uint8_t shown = (uint8_t)((uint16_t)(level * (part + 1u)) >> 8);
    return part == 0 || level == 0 ? 0 : shown == 0 ? 1 : shown;
}

static void shine(const void DROM_FLASH *settings_of, drom_lamp_state *state, const drom_timing *timing,
                  uint8_t level)
{
    const drom_lamp_settings DROM_FLASH *const settings = settings_of;
    const uint32_t colour = state->colour;
    state->level = level;
    if (!DROM_WITH_COLOUR || !settings->has_colour) {
        shine_pin(settings, timing, settings->pin, level);
        return;
    }
    shine_pin(settings, timing, settings->pin, part_of(level, (uint8_t)(colour >> 16)));
    shine_pin(settings, timing, settings->green_pin, part_of(level, (uint8_t)(colour >> 8)));
    shine_pin(settings, timing, settings->blue_pin, part_of(level, (uint8_t)colour));
}

static void rest(const void DROM_FLASH *settings, void *state, drom_timing *timing)
{
    *(drom_lamp_state *)state = (drom_lamp_state){.last = FULL, .colour = WHITE};
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
    state->step_us = ms * 1000 / (state->dims ? FULL : way); /* dimming has the same speed from any level */
    drom_deadline_arm(&state->next, timing->now, state->step_us);
}

static bool goes_up(const drom_lamp_state *state, uint8_t way)
{
    const bool turns_up = state->level == 0 || (state->level < FULL && !state->went_up);
    return way == DROM_DIM_ON ? turns_up : way == DROM_DIM_UP;
}

static void act(const void DROM_FLASH *settings, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    drom_lamp_state *const state = state_of;
    const uint8_t from = state->target;
    const uint8_t amount = (uint8_t)value;
    uint8_t target = 0;
    switch ((drom_lamp_verb)verb) {
    case DROM_LAMP_OFF:
        break;
    case DROM_LAMP_ON:
        target = state->last;
        break;
    case DROM_LAMP_TOGGLE:
        target = from > 0 ? 0 : state->last;
        break;
    case DROM_LAMP_BRIGHTER:
        target = amount > FULL - from ? FULL : (uint8_t)(from + amount);
        break;
    case DROM_LAMP_DIMMER:
        target = amount > from ? 0 : (uint8_t)(from - amount);
        break;
    case DROM_LAMP_FADE:
        target = amount;
        break;
    case DROM_LAMP_LET_GO:
        target = state->dims ? state->level : 0;
        break;
    case DROM_LAMP_DIM:
        state->went_up = goes_up(state, amount);
        target = state->went_up ? FULL : 1;
        break;
    case DROM_LAMP_COLOUR:
        if (DROM_WITH_COLOUR) {
            state->colour = value;
        }
        target = from > 0 ? from : state->last;
        break;
    case DROM_LAMP_BLINK:
        target = state->last;
        break;
    }
    state->blinks = verb == DROM_LAMP_BLINK;
    state->dims = verb == DROM_LAMP_DIM;
    go(settings, state, timing, target, verb == DROM_LAMP_FADE || verb == DROM_LAMP_DIM ? value >> 8 : 0);
    if (state->blinks) {
        state->step_us = value * 1000;
        drom_deadline_arm(&state->next, timing->now, state->step_us);
    }
}

static drom_wait poll(const void DROM_FLASH *settings, void *state_of, drom_timing *timing)
{
    drom_lamp_state *const state = state_of;
    if (drom_deadline_passed(&state->next, timing->now)) {
        const bool is_below = state->target > state->level;
        shine(settings, state, timing,
              state->blinks ? (is_below ? state->target : 0)
                            : (uint8_t)(is_below ? state->level + 1 : state->level - 1));
        if (state->blinks || state->level != state->target) {
            drom_deadline_arm(&state->next, state->next.at, state->step_us);
        }
    }
    return drom_deadline_wait(&state->next, timing->now);
}

static bool is_on(const void *state_of)
{
    const drom_lamp_state *const state = state_of;
    return state->target > 0;
}

static bool is_busy(const void *state_of)
{
    const drom_lamp_state *const state = state_of;
    return state->blinks || state->level != state->target;
}

static uint32_t uses(const void DROM_FLASH *settings)
{
    return ((const drom_lamp_settings DROM_FLASH *)settings)->has_colour ? DROM_USES(COLOUR) : 0;
}

const drom_output_kind DROM_FLASH drom_lamp = {
    .uses = DROM_IS_BOUND ? NULL : uses,
    .undo = DROM_LAMP_LET_GO,
    .needs = DROM_USES(PWM),
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .act = act,
    .is_on = DROM_WITH_CONDITIONS ? is_on : NULL,
    .is_busy = DROM_WITH_WAITS ? is_busy : NULL,
    .poll = poll,
};
