/* A part of a strip has a picture; the strip does all the work. */
#include "../compiler.h"

#include "strip_shared.h"

#include "../bound.h"

static drom_reason check_settings(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item)
{
    const drom_part_settings part = *(const drom_part_settings DROM_FLASH *)settings;
    (void)facts;
    (void)item;
    if (part.strip == NULL || part.state == NULL) {
        return DROM_REASON_NULL;
    }
    return part.count >= 1 && part.first < part.strip->count && part.count <= part.strip->count - part.first
               ? DROM_REASON_NONE
               : DROM_REASON_SETTINGS;
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    const drom_part_settings DROM_FLASH *const part = settings;
    return drom_strip_accepts(part->strip, part->count, verb, value);
}

/* The strip was put to rest before its parts, and has an empty list. */
static void rest(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_part_settings DROM_FLASH *const settings = settings_of;
    drom_part_state *const state = state_of;
    (void)timing;
    *state = (drom_part_state){.settings = settings, .next = settings->state->parts};
    settings->state->parts = state;
}

static void act(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    const drom_part_settings DROM_FLASH *const settings = settings_of;
    drom_part_state *const state = state_of;
    (void)timing;
    if (!state->is_apart) {
        state->picture = settings->state->picture;
        state->picture.lit = settings->count;
        state->is_apart = true;
    }
    drom_strip_order(settings->strip, &state->picture, settings->count, verb, value);
    settings->state->is_stale = true;
}

static bool is_on(const void *state_of)
{
    const drom_part_state *const state = state_of;
    return state->is_apart ? state->picture.is_on : state->settings->state->picture.is_on;
}

static uint32_t uses(const void DROM_FLASH *settings)
{
    (void)settings;
    return DROM_USES(PARTS);
}

const drom_output_kind DROM_FLASH drom_part = {
    .uses = DROM_IS_BOUND ? NULL : uses,
    .undo = DROM_STRIP_OFF,
    .needs = DROM_USES(PIXELS),
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .act = act,
    .is_on = DROM_WITH_CONDITIONS ? is_on : NULL,
};
