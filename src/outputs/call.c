/* Calls: functions of your own, ordered like outputs. */
#include "../compiler.h"

#include "../../include/dromikos/outputs/call.h"

#include "../bound.h"

static drom_reason check_settings(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item)
{
    (void)facts;
    *item = 0;
    const drom_call_settings own =
        *(const drom_call_settings DROM_FLASH *)
            settings; /* a copy: avr-gcc 5.4 fails on null tests of flash pointers */
    return own.function != NULL ? DROM_REASON_NONE : DROM_REASON_NULL;
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    (void)settings;
    return verb == DROM_CALL_CALL && value <= UINT16_MAX;
}

static void rest(const void DROM_FLASH *settings, void *state, drom_timing *timing)
{
    (void)settings;
    (void)timing;
    *(drom_call_state *)state = (drom_call_state){0};
}

static void act(const void DROM_FLASH *settings, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    drom_call_state *const state = state_of;
    (void)timing;
    (void)verb;
    state->value = (int16_t)(uint16_t)value;
    state->was_called = true;
    ((const drom_call_settings DROM_FLASH *)settings)->function(state->value);
}

const drom_output_kind DROM_FLASH drom_call = {
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .act = act,
};
