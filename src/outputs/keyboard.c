/* A stroke is two reports: key down, key up. A key that is down is released before another is pressed. Keys
 * are pressed only while a computer is connected; a release waits until one is. */
#include "../compiler.h"

#include "../../include/dromikos/outputs/keyboard.h"

#include "../bound.h"

enum {
    REPORT_US = 10000, /* between two reports: computers poll every 8 or 10 ms */
    MAX_KEYS = 255,
    BOOT_REPORT = 8,
    MEDIA_REPORT = 2
};

#define GIVE_UP_US UINT32_C(100000)
#define MEDIA_FLAG UINT16_C(0x8000)

static bool is_stroke(drom_stroke stroke)
{
    return (stroke.usage & MEDIA_FLAG) != 0 ? stroke.modifiers == 0 : stroke.usage <= MAX_KEYS;
}

static drom_reason check_settings(const void DROM_FLASH *settings_of, const drom_port_facts *facts,
                                  uint8_t *item)
{
    const drom_keyboard_settings settings = *(const drom_keyboard_settings DROM_FLASH *)settings_of;
    (void)facts;
    if ((settings.strokes.count > 0 && settings.strokes.rows == NULL) ||
        (settings.texts.count > 0 && settings.texts.rows == NULL)) {
        return DROM_REASON_NULL;
    }
    for (*item = 0; *item < settings.strokes.count; ++*item) {
        if (!is_stroke(settings.strokes.rows[*item])) {
            return DROM_REASON_SETTINGS;
        }
    }
    for (*item = 0; *item < settings.texts.count; ++*item) {
        const drom_keyboard_text text = settings.texts.rows[*item];
        if (text.strokes.rows == NULL) {
            return DROM_REASON_NULL;
        }
        for (uint8_t i = 0; i < text.strokes.count; i++) {
            if (!is_stroke(text.strokes.rows[i])) {
                return DROM_REASON_SETTINGS;
            }
        }
    }
    *item = 0;
    return DROM_REASON_NONE;
}

static bool accepts_action(const void DROM_FLASH *settings_of, uint8_t verb, uint32_t value)
{
    const drom_keyboard_settings DROM_FLASH *const settings = settings_of;
    return verb == DROM_KEYBOARD_LET_GO || (verb < DROM_KEYBOARD_TYPE && value < settings->strokes.count) ||
           (verb == DROM_KEYBOARD_TYPE && value < settings->texts.count);
}

static bool is_ready(const drom_timing *timing)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    return port->hid->is_ready(port->context);
}

static bool send(const drom_timing *timing, drom_stroke stroke, bool is_media)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    uint8_t report[BOOT_REPORT] = {0};
    if (is_media) {
        report[0] = (uint8_t)stroke.usage;
        report[1] = (uint8_t)((stroke.usage & ~MEDIA_FLAG) >> 8);
    } else {
        report[0] = stroke.modifiers;
        report[2] = (uint8_t)stroke.usage;
    }
    return port->hid->send(port->context, report, is_media ? MEDIA_REPORT : BOOT_REPORT);
}

/* An empty report: no key is down. */
static bool send_empty(const drom_timing *timing, bool is_media)
{
    return send(timing, (drom_stroke){0}, is_media);
}

static void rest(const void DROM_FLASH *settings, void *state_of, drom_timing *timing)
{
    drom_keyboard_state *const state = state_of;
    const bool was_down = state->is_down && !send_empty(timing, state->is_media);
    (void)settings;
    *state = (drom_keyboard_state){.empty = 2, .is_down = was_down, .is_media = state->is_media};
    if (was_down) {
        drom_deadline_arm(&state->give_up, timing->now, GIVE_UP_US);
    }
}

static bool is_at_rest(const void *state_of)
{
    const drom_keyboard_state *const state = state_of;
    return !state->is_down;
}

/* Releases the held key, or the one that is queued to be held as soon as it has been pressed. */
static void end_holds(drom_keyboard_state *state)
{
    for (uint8_t i = 0; i < state->count; i++) {
        if (state->orders[i].verb == DROM_KEYBOARD_HOLD) {
            state->orders[i].verb = DROM_KEYBOARD_TAP;
        }
    }
}

static void act(const void DROM_FLASH *settings, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    drom_keyboard_state *const state = state_of;
    (void)settings;
    end_holds(state);
    if (verb == DROM_KEYBOARD_LET_GO) {
        return;
    }
    if (state->count == DROM_KEYBOARD_ORDERS || !is_ready(timing)) {
        state->dropped++;
        return;
    }
    state->orders[state->count++] = (drom_keyboard_order){verb, (uint8_t)value};
}

/* Finds the next stroke; false at the end of the text. */
static bool next_stroke(const drom_keyboard_settings DROM_FLASH *settings, const drom_keyboard_state *state,
                        drom_stroke *stroke)
{
    const uint8_t row = state->orders[0].row;
    if (state->orders[0].verb != DROM_KEYBOARD_TYPE) {
        *stroke = settings->strokes.rows[row];
        return state->at == 0;
    }
    const drom_keyboard_text text = settings->texts.rows[row];
    if (state->at < text.strokes.count) {
        *stroke = text.strokes.rows[state->at];
        return true;
    }
    return false;
}

/* True if the current order is done. */
static void end_order(const drom_keyboard_settings DROM_FLASH *settings, drom_keyboard_state *state)
{
    drom_stroke stroke;
    if (state->count == 0 || next_stroke(settings, state, &stroke)) {
        return;
    }
    state->count--;
    for (uint8_t i = 0; i < state->count; i++) {
        state->orders[i] = state->orders[i + 1];
    }
    state->at = 0;
}

/* No computer is connected: drops the queue. A key that is down is released when one is connected. */
static void lose_orders(drom_keyboard_state *state)
{
    state->dropped = (uint16_t)(state->dropped + state->count);
    state->count = 0;
    state->at = 0;
    state->empty = 2;
}

/* Sends a report, if one is due. */
static void go_on(const drom_keyboard_settings DROM_FLASH *settings, drom_keyboard_state *state,
                  const drom_timing *timing)
{
    drom_stroke stroke = {0};
    if (state->is_down) {
        const bool is_held = state->count > 0 && state->orders[0].verb == DROM_KEYBOARD_HOLD;
        if (!is_held && send_empty(timing, state->is_media)) {
            state->is_down = false;
            end_order(settings, state);
        }
        return;
    }
    if (state->empty > 0) {
        state->empty = (uint8_t)(state->empty - send_empty(timing, state->empty == 1));
        return;
    }
    if (!next_stroke(settings, state, &stroke)) {
        end_order(settings, state);
        return;
    }
    const bool is_media = (stroke.usage & MEDIA_FLAG) != 0;
    if (send(timing, stroke, is_media)) {
        state->is_down = true;
        state->is_media = is_media;
        state->at++;
    }
}

static drom_wait poll(const void DROM_FLASH *settings, void *state_of, drom_timing *timing)
{
    drom_keyboard_state *const state = state_of;
    const drom_us now = timing->now;
    if (drom_deadline_passed(&state->give_up, now) && state->is_down) {
        const drom_port DROM_FLASH *const port = drom_port_of(timing);
        port->hid->detach(port->context);
        state->is_down = false;
    }
    (void)drom_deadline_passed(&state->next, now);
    if (state->next.is_armed) {
        return drom_deadline_wait(&state->next, now);
    }
    if (state->count == 0 && !state->is_down) {
        return DROM_LONG;
    }
    if (is_ready(timing)) {
        go_on(settings, state, timing);
    } else {
        lose_orders(state);
    }
    drom_deadline_arm(&state->next, now, REPORT_US);
    return REPORT_US;
}

static bool is_busy(const void *state_of)
{
    const drom_keyboard_state *const state = state_of;
    return state->count > 0;
}

const drom_output_kind DROM_FLASH drom_keyboard = {
    .undo = DROM_KEYBOARD_LET_GO,
    .needs = DROM_USES(HID),
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .is_at_rest = is_at_rest,
    .act = act,
    .is_busy = DROM_WITH_WAITS ? is_busy : NULL,
    .poll = poll,
};
