/* A drive orders its two motors, and makes sure that neither runs on alone. */
#include "../compiler.h"

#include "../../include/dromikos/outputs/drive.h"

#include "../bound.h"

enum { FULL = DROM_FULL_LEVEL, LOOK_US = 5000 };

/* How each side moves, for an order with a level. */
static const struct {
    int8_t left;
    int8_t right;
} DROM_FLASH ways[] = {
    [DROM_DRIVE_FORWARD] = {1, 1}, [DROM_DRIVE_BACK] = {-1, -1},     [DROM_DRIVE_LEFT] = {0, 1},
    [DROM_DRIVE_RIGHT] = {1, 0},   [DROM_DRIVE_SPIN_LEFT] = {-1, 1}, [DROM_DRIVE_SPIN_RIGHT] = {1, -1},
};

static drom_reason check_settings(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item)
{
    const drom_drive_settings drive = *(const drom_drive_settings DROM_FLASH *)settings;
    (void)facts;
    (void)item;
    return drive.left.settings == NULL || drive.right.settings == NULL || drive.left.state == NULL ||
                   drive.right.state == NULL
               ? DROM_REASON_NULL
           : drive.left.state != drive.right.state ? DROM_REASON_NONE
                                                   : DROM_REASON_SETTINGS;
}

/* Returns the order of a side, for its motor. */
static uint8_t order_of(uint8_t verb, int8_t way, uint32_t level, uint32_t *value)
{
    *value = way < 0 ? DROM_MOTOR_BACK_AT(level) : way > 0 ? DROM_MOTOR_AT(level) : 0;
    return (uint8_t)(verb == DROM_DRIVE_COAST   ? DROM_MOTOR_COAST
                     : verb == DROM_DRIVE_BRAKE ? DROM_MOTOR_BRAKE
                     : way == 0                 ? DROM_MOTOR_STOP
                                                : DROM_MOTOR_RUN);
}

static int8_t way_of(uint8_t verb, bool is_left)
{
    if (verb < DROM_DRIVE_FORWARD) {
        return 0;
    }
    return (int8_t)(is_left ? ways[verb].left : ways[verb].right);
}

static bool accepts_side(drom_drive_side side, uint8_t verb, int8_t way, uint32_t level)
{
    uint32_t value;
    const uint8_t order = order_of(verb, way, level, &value);
    return drom_motor.accepts_action == NULL || drom_motor.accepts_action(side.settings, order, value);
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    const drom_drive_settings drive = *(const drom_drive_settings DROM_FLASH *)settings;
    return verb <= DROM_DRIVE_SPIN_RIGHT && value <= FULL &&
           accepts_side(drive.left, verb, way_of(verb, true), value) &&
           accepts_side(drive.right, verb, way_of(verb, false), value);
}

static void rest(const void DROM_FLASH *settings, void *state, drom_timing *timing)
{
    (void)settings;
    (void)timing;
    *(drom_drive_state *)state = (drom_drive_state){0};
}

static void order(drom_drive_side side, drom_timing *timing, uint8_t verb, int8_t way, uint32_t level)
{
    uint32_t value;
    const uint8_t order = order_of(verb, way, level, &value);
    drom_motor.act(side.settings, side.state, timing, order, value);
}

static void act(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    const drom_drive_settings settings = *(const drom_drive_settings DROM_FLASH *)settings_of;
    drom_drive_state *const state = state_of;
    const int8_t left = way_of(verb, true);
    const int8_t right = way_of(verb, false);
    state->moves_left = left != 0 && value > 0;
    state->moves_right = right != 0 && value > 0;
    order(settings.left, timing, verb, left, value);
    order(settings.right, timing, verb, right, value);
}

static drom_wait poll(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_drive_settings settings = *(const drom_drive_settings DROM_FLASH *)settings_of;
    drom_drive_state *const state = state_of;
    if ((state->moves_left && settings.left.state->target == 0) ||
        (state->moves_right && settings.right.state->target == 0)) {
        act(settings_of, state_of, timing, DROM_DRIVE_STOP, 0);
    }
    return state->moves_left || state->moves_right ? LOOK_US : DROM_LONG;
}

static bool is_on(const void *state_of)
{
    const drom_drive_state *const state = state_of;
    return state->moves_left || state->moves_right;
}

static bool drives(const void DROM_FLASH *settings, const void *state)
{
    const drom_drive_settings drive = *(const drom_drive_settings DROM_FLASH *)settings;
    return drive.left.state == state || drive.right.state == state;
}

const drom_output_kind DROM_FLASH drom_drive = {
    .undo = DROM_DRIVE_STOP,
    .needs = DROM_USES(PWM),
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .act = act,
    .is_on = DROM_WITH_CONDITIONS ? is_on : NULL,
    .is_busy = DROM_WITH_WAITS ? is_on : NULL,
    .drives = DROM_CHECKER(drives),
    .poll = poll,
};
