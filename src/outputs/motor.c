/* A motor has a current speed and a target. The speed follows the target by the ramp; at zero the motor stays
 * without drive until the dead time is over. A limit or a switch that ends a run also clears the target. */
#include "../compiler.h"

#include "../../include/dromikos/outputs/motor.h"

#include "../bound.h"

enum { FULL = DROM_FULL_LEVEL, RAMP_STEP_MS = 10, SWITCH_US = 5000 };
enum { MAX_DEAD_MS = 10000 };

#define MAX_RAMP_MS UINT16_C(60000)

/* True if the motor has two directions. */
static bool turns(const drom_motor_settings DROM_FLASH *settings)
{
    return settings->back_pin != DROM_NONE;
}

static bool has_pin(uint8_t pin, const drom_port_facts *facts)
{
    return pin == DROM_NONE || pin < facts->pins;
}

static drom_reason check_settings(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item)
{
    const drom_motor_settings DROM_FLASH *const motor = settings;
    const bool has_speed = motor->speed_pin != DROM_NONE;
    (void)item;
    if (!has_pin(motor->forward_pin, facts) || !has_pin(motor->back_pin, facts) ||
        !has_pin(motor->speed_pin, facts) || (motor->forward_pin != DROM_NONE) != turns(motor) ||
        (!has_speed && !turns(motor))) {
        return DROM_REASON_PIN;
    }
    return motor->ramp_ms <= MAX_RAMP_MS && motor->max_ms <= DROM_LONGEST_MS && motor->dead_ms >= 1 &&
                   motor->dead_ms <= MAX_DEAD_MS && motor->slowest >= 1 && motor->slowest <= motor->fastest
               ? DROM_REASON_NONE
               : DROM_REASON_SETTINGS;
}

static bool accepts_action(const void DROM_FLASH *settings_of, uint8_t verb, uint32_t value)
{
    const drom_motor_settings DROM_FLASH *const settings = settings_of;
    switch ((drom_motor_verb)verb) {
    case DROM_MOTOR_BRAKE:
        return turns(settings) && settings->speed_pin != DROM_NONE;
    case DROM_MOTOR_RUN:
        return (value & UINT8_MAX) <= FULL &&
               (value <= FULL || (turns(settings) && value <= DROM_MOTOR_BACK_AT(FULL)));
    case DROM_MOTOR_FASTER:
    case DROM_MOTOR_SLOWER:
        return value <= FULL;
    case DROM_MOTOR_BACK:
    case DROM_MOTOR_REVERSE:
        return turns(settings);
    default:
        return verb <= DROM_MOTOR_TOGGLE;
    }
}

static uint8_t level_of(int16_t speed)
{
    return (uint8_t)(speed < 0 ? -speed : speed);
}

static void write_level(const drom_timing *timing, uint8_t pin, uint8_t level)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    port->pwm->write(port->context, pin, level == FULL ? UINT16_MAX : (uint16_t)(level * 327u));
}

/* Drives the pins of a direction: with PWM on both, the level itself. */
static void write_side(const drom_motor_settings DROM_FLASH *settings, const drom_timing *timing, uint8_t pin,
                       uint8_t level)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    if (settings->speed_pin == DROM_NONE) {
        write_level(timing, pin, level);
    } else {
        port->pins->write(port->context, pin, level > 0);
    }
}

/* Pins are switched off before others are switched on. */
static void drive(const drom_motor_settings DROM_FLASH *settings, drom_motor_state *state,
                  const drom_timing *timing, int16_t speed)
{
    const bool has_speed = settings->speed_pin != DROM_NONE;
    const uint8_t level = level_of(speed);
    const bool is_begun = state->speed == 0 && speed != 0;
    if (has_speed && (speed == 0 || is_begun)) {
        write_level(timing, settings->speed_pin, 0);
    }
    if (turns(settings)) {
        write_side(settings, timing, speed > 0 ? settings->back_pin : settings->forward_pin, 0);
        write_side(settings, timing, speed > 0 ? settings->forward_pin : settings->back_pin, level);
    }
    if (has_speed && speed != 0) {
        write_level(timing, settings->speed_pin, level);
    }
    if (is_begun && settings->max_ms > 0) {
        drom_deadline_arm(&state->limit, timing->now, settings->max_ms * 1000);
    }
    if (speed == 0) {
        state->limit.is_armed = false;
    }
    if (speed == 0 && state->speed != 0) {
        const drom_port DROM_FLASH *const port = drom_port_of(timing);
        state->barred = state->speed > 0 ? DROM_MOTOR_BARS_BACK : DROM_MOTOR_BARS_FORWARD;
        drom_deadline_arm(&state->dead, port->clock->now(port->context), settings->dead_ms * UINT32_C(1000));
    }
    state->speed = speed;
    state->is_braking = false;
}

/* Stops the motor until its next order. */
static void cut(const drom_motor_settings DROM_FLASH *settings, drom_motor_state *state,
                const drom_timing *timing)
{
    state->target = 0;
    state->next.is_armed = false;
    drive(settings, state, timing, 0);
}

/* True if a switch stops this direction. Copies the settings, as avr-gcc 5.4 fails on null tests of flash
 * pointers. */
static bool is_stopped(const drom_motor_settings DROM_FLASH *settings, int16_t speed)
{
    const drom_motor_settings copy = *settings;
    const bool *const ends = speed > 0 ? copy.stops_forward : copy.stops_back;
    return speed != 0 && ends != NULL && *ends;
}

/* Returns the speed after a step of the ramp; a change of direction stops at zero. */
static int16_t next_speed(int16_t speed, int16_t target, uint8_t step)
{
    const bool is_round = (speed > 0 && target < 0) || (speed < 0 && target > 0);
    const int16_t end = (int16_t)(is_round ? 0 : target);
    const int16_t way = (int16_t)(end - speed);
    if (way > step) {
        return (int16_t)(speed + step);
    }
    return (int16_t)(way < -step ? speed - step : end);
}

/* Handles a closed switch and the end of the longest run; an order that comes now is one to a motor at
 * standstill. */
static void stop_at_end(const drom_motor_settings DROM_FLASH *settings, drom_motor_state *state,
                        const drom_timing *timing)
{
    if (is_stopped(settings, state->speed) || drom_deadline_passed(&state->limit, timing->now)) {
        cut(settings, state, timing);
    }
}

/* Moves the speed towards the target. Returns the wait until the next step. */
static drom_wait follow(const drom_motor_settings DROM_FLASH *settings, drom_motor_state *state,
                        const drom_timing *timing)
{
    const drom_us now = timing->now;
    const uint16_t ramp_ms = settings->ramp_ms;
    stop_at_end(settings, state, timing);
    if (is_stopped(settings, state->target)) {
        state->target = 0;
    }
    if (drom_deadline_passed(&state->dead, now)) {
        state->barred = 0;
    }
    const bool is_ramping = drom_deadline_passed(&state->next, now);
    if (state->speed == state->target || state->next.is_armed) {
        return drom_deadline_wait(&state->next, now);
    }
    const uint8_t way = state->target > 0 ? DROM_MOTOR_BARS_FORWARD : DROM_MOTOR_BARS_BACK;
    if (state->speed == 0 && ((state->barred & way) != 0 || state->waits_for_others)) {
        return drom_deadline_wait(&state->dead, now);
    }
    const uint16_t step_ms = (uint16_t)(ramp_ms > RAMP_STEP_MS * FULL ? ramp_ms / FULL : RAMP_STEP_MS);
    const uint16_t step = (uint16_t)(ramp_ms > step_ms ? (uint16_t)(step_ms * FULL) / ramp_ms : FULL);
    drive(settings, state, timing, next_speed(state->speed, state->target, (uint8_t)(step > 0 ? step : 1)));
    if (state->speed != state->target) {
        /* from the time at which the step was due, so that late polls don't lengthen the ramp */
        drom_deadline_arm(&state->next, is_ramping ? state->next.at : now,
                          ramp_ms > step_ms ? step_ms * UINT32_C(1000) : 0);
    }
    return 0; /* enough for one poll */
}

static void rest(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_motor_settings DROM_FLASH *const settings = settings_of;
    drom_motor_state *const state = state_of;
    *state = (drom_motor_state){.last = settings->fastest,
                                .barred = DROM_MOTOR_BARS_FORWARD | DROM_MOTOR_BARS_BACK,
                                .waits_for_others = DROM_WITH_INTERLOCKS && state->waits_for_others};
    drive(settings, state, timing, 0);
    drom_deadline_arm(&state->dead, timing->now, settings->dead_ms * UINT32_C(1000));
}

/* Limits a level as the settings say; 0 stays 0. */
static uint8_t within(const drom_motor_settings DROM_FLASH *settings, uint16_t level)
{
    const uint16_t up = level < settings->slowest ? settings->slowest : level;
    return (uint8_t)(level == 0 ? 0 : up > settings->fastest ? settings->fastest : up);
}

static void act(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    const drom_motor_settings DROM_FLASH *const settings = settings_of;
    drom_motor_state *const state = state_of;
    const uint8_t amount = (uint8_t)value;
    stop_at_end(settings, state, timing);
    uint16_t level = level_of(state->target);
    switch ((drom_motor_verb)verb) {
    case DROM_MOTOR_COAST:
    case DROM_MOTOR_BRAKE:
        cut(settings, state, timing);
        level = 0;
        if (verb == DROM_MOTOR_BRAKE) {
            write_level(timing, settings->speed_pin, FULL);
            state->is_braking = true;
        }
        break;
    case DROM_MOTOR_STOP:
        level = 0;
        break;
    case DROM_MOTOR_RUN:
        level = amount;
        state->is_back = level > 0 ? value > FULL : state->is_back;
        break;
    case DROM_MOTOR_FASTER:
        level = (uint16_t)(level + amount);
        break;
    case DROM_MOTOR_SLOWER:
        level = level > amount ? (uint16_t)(level - amount) : level > 0;
        break;
    case DROM_MOTOR_FORWARD:
        state->is_back = false;
        break;
    case DROM_MOTOR_BACK:
        state->is_back = true;
        break;
    case DROM_MOTOR_REVERSE:
        state->is_back = !state->is_back;
        break;
    case DROM_MOTOR_RESUME:
        level = state->last;
        break;
    case DROM_MOTOR_TOGGLE:
        level = level > 0 ? 0 : state->last;
        break;
    }
    level = within(settings, level);
    if (level > 0) {
        state->last = (uint8_t)level;
    }
    state->target = (int16_t)(state->is_back ? -(int16_t)level : (int16_t)level);
    (void)follow(settings, state, timing);
}

static drom_wait poll(const void DROM_FLASH *settings, void *state_of, drom_timing *timing)
{
    drom_motor_state *const state = state_of;
    const drom_wait wait =
        drom_shorter(follow(settings, state, timing), drom_deadline_wait(&state->limit, timing->now));
    return drom_shorter(drom_shorter(wait, drom_deadline_wait(&state->dead, timing->now)),
                        state->speed != 0 ? SWITCH_US : DROM_LONG);
}

static bool is_on(const void *state_of)
{
    const drom_motor_state *const state = state_of;
    return state->target != 0;
}

static bool bar(void *state_of, bool is_barred)
{
    drom_motor_state *const state = state_of;
    const bool has_changed = state->waits_for_others != is_barred;
    state->waits_for_others = is_barred;
    return has_changed;
}

static bool is_driven(const void *state_of)
{
    const drom_motor_state *const state = state_of;
    return state->speed != 0;
}

static bool is_busy(const void *state_of)
{
    const drom_motor_state *const state = state_of;
    return state->target != 0 || state->speed != 0;
}

const drom_output_kind DROM_FLASH drom_motor = {
    .undo = DROM_MOTOR_STOP,
    .needs = DROM_USES(PWM),
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .act = act,
    .is_on = DROM_WITH_CONDITIONS + DROM_WITH_INTERLOCKS > 0 ? is_on : NULL,
    .bar = DROM_WITH_INTERLOCKS ? bar : NULL,
    .is_driven = DROM_WITH_INTERLOCKS ? is_driven : NULL,
    .is_busy = DROM_WITH_WAITS ? is_busy : NULL,
    .poll = poll,
};
