/* A servo's pulses are timed edges: up, and down after its width. Both are made together, so that a delay of
 * main doesn't make a pulse longer (unless other edges fill the ring); the next pulse rises 20 ms after the
 * last. A movement is divided over the pulses that it takes. There are no pulses before the first order, and
 * each pulse that has begun is completed, so that the arm never twitches. */
#include "../compiler.h"

#include "../../include/dromikos/outputs/servo.h"

#include "../bound.h"

enum {
    PERIOD_US = 20000,
    NARROWEST_US = 400,
    WIDEST_US = 2600,
    LEAD_US = 1000,
    FARTHEST = 8 * DROM_SERVO_FARTHEST /* in eighths of a degree */
};

static drom_reason check_settings(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item)
{
    const drom_servo_settings DROM_FLASH *const servo = settings;
    (void)item;
    return servo->pin >= facts->pins ? DROM_REASON_PIN
           : servo->min_us >= NARROWEST_US && servo->min_us <= WIDEST_US && servo->max_us >= NARROWEST_US &&
                   servo->max_us <= WIDEST_US && servo->min_us != servo->max_us
               ? DROM_REASON_NONE
               : DROM_REASON_SETTINGS;
}

/* In eighths of a degree. */
static uint16_t way_of(uint32_t value)
{
    return (uint16_t)((value & 0xff) * 8 + (value >> 29));
}

static uint32_t ms_of(uint32_t value)
{
    return value >> 8 & 0x1fffff;
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    (void)settings;
    return verb == DROM_SERVO_OFF ||
           (verb <= DROM_SERVO_BACK && way_of(value) <= FARTHEST && ms_of(value) <= DROM_LONGEST_MS);
}

static void rest(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_servo_settings DROM_FLASH *const settings = settings_of;
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    *(drom_servo_state *)state_of = (drom_servo_state){0};
    port->pins->write(port->context, settings->pin, false);
}

/* Returns the width of a position. */
static uint16_t width_of(const drom_servo_settings DROM_FLASH *settings, uint16_t eighths)
{
    const int32_t span = (int32_t)settings->max_us - settings->min_us;
    return (uint16_t)(settings->min_us + span * eighths / FARTHEST);
}

/* Returns the target of an order, in eighths of a degree. */
static uint16_t target_of(const drom_servo_state *state, uint8_t verb, uint16_t way)
{
    if (verb == DROM_SERVO_FORWARD) {
        return (uint16_t)(way < FARTHEST - state->target ? state->target + way : FARTHEST);
    }
    if (verb == DROM_SERVO_BACK) {
        return (uint16_t)(way < state->target ? state->target - way : 0);
    }
    return way;
}

/* Returns when the next pulse may rise: a period after the newest, whose edges may still be pending, if that
 * isn't over. */
static drom_us next_rise(const drom_servo_state *state, drom_us now)
{
    const drom_us at = now + LEAD_US;
    const bool is_near = state->next_at - at <= PERIOD_US + DROM_TIMED_EDGE_HORIZON_US;
    return is_near ? state->next_at : at;
}

static void act(const void DROM_FLASH *settings, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    drom_servo_state *const state = state_of;
    if (verb == DROM_SERVO_OFF) {
        state->is_ending = state->is_on && state->is_high;
        state->is_on = state->is_ending;
        state->left = 0; /* it has reached its end */
        timing->edges_from = DROM_ANY_OUTPUT;
        return;
    }
    const bool was_sent = state->width_us != 0;
    state->target = target_of(state, verb, way_of(value));
    state->left = was_sent ? ms_of(value) / (PERIOD_US / 1000) : 0;
    state->width_us = state->left > 0 ? state->width_us : width_of(settings, state->target);
    state->is_ending = false;
    if (!state->is_on) {
        state->is_on = true;
        state->next_at = next_rise(state, timing->now);
        timing->edges_from = DROM_ANY_OUTPUT;
    }
}

static bool next_edge(const void *state_of, drom_us *at)
{
    const drom_servo_state *const state = state_of;
    *at = state->next_at;
    return state->is_on;
}

static uint32_t take_edge(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing, drom_us at)
{
    const drom_servo_settings DROM_FLASH *const settings = settings_of;
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    drom_servo_state *const state = state_of;
    state->is_high = !state->is_high;
    timing->open_pulses = (uint8_t)(state->is_high ? timing->open_pulses + 1 : timing->open_pulses - 1);
    if (state->is_high) {
        state->rose_at = at;
        state->next_at = at + state->width_us;
    } else {
        state->next_at = state->rose_at + PERIOD_US;
        state->is_on = !state->is_ending;
        if (state->left > 0) {
            const int32_t way = (int32_t)width_of(settings, state->target) - state->width_us;
            state->width_us = (uint16_t)(state->width_us + way / (int32_t)state->left);
            state->left--;
        }
    }
    return port->edges->toggle(port->context, settings->pin);
}

static bool is_on(const void *state_of)
{
    const drom_servo_state *const state = state_of;
    return state->is_on;
}

static bool is_busy(const void *state_of)
{
    const drom_servo_state *const state = state_of;
    return state->left > 0;
}

const drom_output_kind DROM_FLASH drom_servo = {
    .undo = DROM_SERVO_OFF,
    .needs = DROM_USES(TIMED_EDGES),
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .act = act,
    .is_on = DROM_WITH_CONDITIONS ? is_on : NULL,
    .is_busy = DROM_WITH_WAITS ? is_busy : NULL,
    .next_edge = next_edge,
    .take_edge = take_edge,
};
