/* A strip works out a few pixels a poll, and when all are done it wants the processor for as long as they
 * take to go out. What changes meanwhile starts the picture anew, so that no refresh shows half of one and
 * half of another. */
#include "../../include/dromikos/strip.h"

#include "../bound.h"

#include <string.h>

/* So many take an ATmega328P 180 µs. */
#ifdef __AVR__
enum { PIXELS_A_POLL = 6 };
#else
enum { PIXELS_A_POLL = 15 };
#endif

enum {
    FULL = 255,
    PIXEL_US = 32,    /* 24 bits of 1.25 µs, and what is let in after them */
    LATCH_US = 300,   /* of silence, after which any strip shows what it was sent */
    BEGIN_US = 50,    /* of the processor, where a machine of its own sends the pixels */
    RETRY_US = 500,   /* until the processor is asked for again */
    FRAME_US = 16384, /* of an effect */
};

static drom_reason check_palettes(const drom_strip_settings *strip, uint8_t *item)
{
    *item = 0;
    if (strip->palettes.count > 0 && strip->palettes.rows == NULL) {
        return DROM_REASON_NULL;
    }
    for (*item = 0; *item < strip->palettes.count; ++*item) {
        const drom_strip_palette palette = strip->palettes.rows[*item];
        if (palette.colours.rows == NULL) {
            return DROM_REASON_NULL;
        }
        if (palette.colours.count == 0 || palette.colours.count > DROM_STRIP_COLOURS) {
            return DROM_REASON_SETTINGS;
        }
    }
    return DROM_REASON_NONE;
}

static drom_reason check_effects(const drom_strip_settings *strip, uint8_t *item)
{
    *item = 0;
    if (strip->effects.count > 0 && strip->effects.rows == NULL) {
        return DROM_REASON_NULL;
    }
    for (*item = 0; *item < strip->effects.count; ++*item) {
        drom_strip_effect *const effect = strip->effects.rows[*item];
        if (effect == NULL) {
            return DROM_REASON_NULL;
        }
    }
    return DROM_REASON_NONE;
}

static drom_reason check_settings(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item)
{
    const drom_strip_settings strip = *(const drom_strip_settings DROM_FLASH *)settings;
    uint8_t seen = 0;
    for (uint8_t i = 0; i < 3; i++) {
        seen = (uint8_t)(seen | (strip.order[i] < 3 ? 1u << strip.order[i] : 0u));
    }
    if (strip.bytes == NULL) {
        return DROM_REASON_NULL;
    }
    if (strip.pin >= facts->pins) {
        return DROM_REASON_PIN;
    }
    if (strip.count == 0 || seen != 7 || (strip.effects.count > 0 && strip.palettes.count == 0)) {
        return DROM_REASON_SETTINGS;
    }
    const drom_reason reason = check_palettes(&strip, item);
    return reason != DROM_REASON_NONE ? reason : check_effects(&strip, item);
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    const drom_strip_settings DROM_FLASH *const strip = settings;
    switch ((drom_strip_verb)verb) {
    case DROM_STRIP_OFF:
    case DROM_STRIP_ON:
    case DROM_STRIP_TOGGLE:
        return true;
    case DROM_STRIP_FILL:
        return value <= 0xffffff;
    case DROM_STRIP_SHOW:
        return value <= strip->count;
    case DROM_STRIP_BRIGHTNESS:
    case DROM_STRIP_BRIGHTER:
    case DROM_STRIP_DIMMER:
        return value <= FULL;
    case DROM_STRIP_PALETTE:
        return value < strip->palettes.count;
    case DROM_STRIP_EFFECT:
        return value < strip->effects.count;
    }
    return false;
}

/* Where a machine of its own sends the pixels, the picture may still be on its way. */
static bool is_going_out(const drom_strip_settings DROM_FLASH *settings, const drom_timing *timing)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    return port->pixels->is_busy != NULL && port->pixels->is_busy(port->context, settings->pin);
}

/* Until then the strip latches, and rests. */
static void latch(const drom_strip_settings DROM_FLASH *settings, drom_strip_state *state, drom_us now)
{
    drom_deadline_arm(&state->next, now, LATCH_US + settings->every_ms * (drom_us)1000);
}

/* A refresh may just have ended, or still go on: the dark picture goes out when the strip has shown the one
 * before. */
static void rest(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_strip_settings DROM_FLASH *const settings = settings_of;
    drom_strip_state *const state = state_of;
    *state = (drom_strip_state){
        .colour = 0xffffff, .lit = settings->count, .rendered = settings->count, .brightness = FULL};
    if (is_going_out(settings, timing)) {
        state->is_going_out = true;
        state->is_stale = true;
    } else {
        memset(settings->bytes, 0, settings->count * (size_t)3);
    }
    drom_deadline_arm(&state->next, timing->now, LATCH_US);
}

static bool is_at_rest(const void *state)
{
    const drom_strip_state *const strip = state;
    return strip->is_sent && !strip->is_going_out;
}

/* A strip that is off counts as dark; and what is dimmed to nothing is off, and comes back as bright as it
 * was. */
static void change_brightness(drom_strip_state *state, uint8_t verb, uint8_t amount)
{
    const uint8_t from = state->is_on ? state->brightness : 0;
    const uint8_t room = (uint8_t)(FULL - from);
    uint8_t target = amount;
    if (verb == DROM_STRIP_BRIGHTER) {
        target = amount > room ? FULL : (uint8_t)(from + amount);
        state->is_on = true;
    } else if (verb == DROM_STRIP_DIMMER) {
        target = amount > from ? 0 : (uint8_t)(from - amount);
    }
    if (target > 0) {
        state->brightness = target;
    } else {
        state->is_on = false;
    }
}

static void act(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    (void)timing;
    const drom_strip_settings DROM_FLASH *const settings = settings_of;
    drom_strip_state *const state = state_of;
    const uint8_t level = (uint8_t)value;
    state->is_stale = true;
    switch ((drom_strip_verb)verb) {
    case DROM_STRIP_OFF:
        state->is_on = false;
        break;
    case DROM_STRIP_ON:
        state->is_on = true;
        break;
    case DROM_STRIP_TOGGLE:
        state->is_on = !state->is_on;
        break;
    case DROM_STRIP_FILL:
        state->colour = value;
        state->lit = settings->count;
        state->effect = 0;
        state->is_on = true;
        break;
    case DROM_STRIP_SHOW:
        state->lit = level;
        state->effect = 0;
        state->is_on = true;
        break;
    case DROM_STRIP_BRIGHTNESS:
    case DROM_STRIP_BRIGHTER:
    case DROM_STRIP_DIMMER:
        change_brightness(state, verb, level);
        break;
    case DROM_STRIP_PALETTE:
        state->palette = level;
        break;
    case DROM_STRIP_EFFECT:
        state->effect = (uint8_t)(level + 1);
        state->is_on = true;
        break;
    }
}

static void paint(const drom_strip_settings DROM_FLASH *settings, const drom_strip_state *state,
                  uint8_t pixel, uint32_t colour)
{
    const uint16_t scale = (uint16_t)(state->brightness + 1);
    const uint8_t parts[3] = {(uint8_t)(colour >> 16), (uint8_t)(colour >> 8), (uint8_t)colour};
    uint8_t *const bytes = &settings->bytes[pixel * (size_t)3];
    for (uint8_t i = 0; i < 3; i++) {
        bytes[i] = (uint8_t)((uint16_t)(parts[settings->order[i]] * scale) >> 8);
    }
}

/* Works out some of the pixels that are left. */
static void render(const drom_strip_settings DROM_FLASH *settings, drom_strip_state *state)
{
    const uint8_t from = state->rendered;
    const uint8_t left = (uint8_t)(settings->count - from);
    const uint8_t count = left < PIXELS_A_POLL ? left : PIXELS_A_POLL;
    uint32_t colours[PIXELS_A_POLL] = {0};
    if (state->is_on && state->effect != 0) {
        const drom_strip_palette palette = settings->palettes.rows[state->palette];
        drom_strip_effect *const effect = settings->effects.rows[state->effect - 1];
        const drom_strip_scene scene = {palette.colours.rows, palette.colours.count, state->frame};
        effect(&scene, from, count, colours);
    } else {
        for (uint8_t i = 0; i < count; i++) {
            colours[i] = state->is_on && (uint8_t)(from + i) < state->lit ? state->colour : 0;
        }
    }
    for (uint8_t i = 0; i < count; i++) {
        paint(settings, state, (uint8_t)(from + i), colours[i]);
    }
    state->rendered = (uint8_t)(from + count);
}

/* What is on show changes by itself. */
static bool is_running(const drom_strip_state *state)
{
    return state->is_on && state->effect != 0;
}

static drom_wait poll(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_strip_settings DROM_FLASH *const settings = settings_of;
    drom_strip_state *const state = state_of;
    const uint16_t frame = (uint16_t)(timing->now / FRAME_US);
    if (drom_port_of(timing)->pixels->is_busy != NULL && state->is_going_out) {
        if (is_going_out(settings, timing)) {
            return RETRY_US;
        }
        state->is_going_out = false;
        latch(settings, state, timing->now);
    }
    (void)drom_deadline_passed(&state->next, timing->now);
    if (state->next.is_armed) {
        return drom_deadline_wait(&state->next, timing->now);
    }
    const bool is_over = is_running(state) && state->rendered == settings->count && state->frame != frame;
    if (state->is_stale || is_over) {
        state->is_stale = false;
        state->is_sent = false;
        state->frame = frame;
        state->rendered = 0;
    }
    if (state->rendered < settings->count) {
        render(settings, state);
        return state->rendered < settings->count ? 0 : RETRY_US;
    }
    if (!state->is_sent || settings->every_ms == 0) {
        return RETRY_US;
    }
    return is_running(state) ? (drom_wait)(FRAME_US - timing->now % FRAME_US) : DROM_LONG;
}

static drom_wait wants(const void DROM_FLASH *settings_of, const void *state_of, const drom_timing *timing)
{
    const drom_strip_settings DROM_FLASH *const settings = settings_of;
    const drom_strip_state *const state = state_of;
    if (state->is_sent && !state->is_stale && !is_running(state) && settings->every_ms != 0) {
        return 0;
    }
    if (state->is_going_out || state->next.is_armed || state->is_stale ||
        state->rendered != settings->count || (state->is_sent && settings->every_ms != 0)) {
        return DROM_LONG;
    }
    return drom_port_of(timing)->pixels->is_busy != NULL ? BEGIN_US
                                                         : (drom_wait)(settings->count * (uint16_t)PIXEL_US);
}

static void refresh(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_strip_settings DROM_FLASH *const settings = settings_of;
    drom_strip_state *const state = state_of;
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    port->pixels->begin(port->context, settings->pin, settings->bytes, (uint16_t)(settings->count * 3));
    state->is_sent = true;
    if (port->pixels->is_busy != NULL) {
        state->is_going_out = true;
    }
    latch(settings, state, port->clock->now(port->context));
}

static bool is_on(const void *state_of)
{
    const drom_strip_state *const state = state_of;
    return state->is_on;
}

const drom_output_kind DROM_FLASH drom_strip = {
    .undo = DROM_STRIP_OFF,
    .needs = DROM_USES_PIXELS,
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .is_at_rest = is_at_rest,
    .act = act,
    .is_on = DROM_WITH_CONDITIONS ? is_on : NULL,
    .poll = poll,
    .wants = wants,
    .refresh = refresh,
};
