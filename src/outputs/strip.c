/* A strip computes a few pixels per poll. When all are computed, it needs the processor for as long as they
 * take to send. A change in between restarts the computation, so that no refresh shows half of one picture
 * and half of another. */
#include "../compiler.h"

#include "strip_shared.h"

#include "../bound.h"

#include <string.h>

/* These take an ATmega328P 180 µs. */
#ifdef __AVR__
enum { PIXELS_A_POLL = 6 };
#else
enum { PIXELS_A_POLL = 15 };
#endif

enum {
    FULL = DROM_FULL_LEVEL,
    PIXEL_US = 32,    /* 24 bits of 1.25 µs, and the handler after them */
    LATCH_US = 300,   /* of silence, after which any strip shows its pixels */
    BEGIN_US = 50,    /* of the processor, if hardware sends the pixels */
    RETRY_US = 500,   /* until the processor is requested again */
    FRAME_US = 16384, /* of an effect */
    MOST_ANEW = 31,
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
    if (strip.count == 0 || strip.count > DROM_STRIP_PIXELS ||
        (strip.max_ma > 0 && strip.max_ma <= strip.count) || seen != 7 ||
        (strip.effects.count > 0 && strip.palettes.count == 0)) {
        return DROM_REASON_SETTINGS;
    }
    const drom_reason reason = check_palettes(&strip, item);
    return reason != DROM_REASON_NONE ? reason : check_effects(&strip, item);
}

bool drom_strip_accepts(const drom_strip_settings DROM_FLASH *strip, uint16_t pixels, uint8_t verb,
                        uint32_t value)
{
    switch ((drom_strip_verb)verb) {
    case DROM_STRIP_OFF:
    case DROM_STRIP_ON:
    case DROM_STRIP_TOGGLE:
        return true;
    case DROM_STRIP_FILL:
        return value <= 0xffffff;
    case DROM_STRIP_SHOW:
        return value <= pixels;
    case DROM_STRIP_BRIGHTNESS:
    case DROM_STRIP_BRIGHTER:
    case DROM_STRIP_DIMMER:
        return value <= FULL;
    case DROM_STRIP_PALETTE:
        return value < strip->palettes.count;
    case DROM_STRIP_COLOUR:
        return value <= 1;
    case DROM_STRIP_EFFECT:
        return value < strip->effects.count;
    }
    return false;
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    const drom_strip_settings DROM_FLASH *const strip = settings;
    return drom_strip_accepts(strip, strip->count, verb, value);
}

/* True while hardware sends the picture. */
static bool is_going_out(const drom_strip_settings DROM_FLASH *settings, const drom_timing *timing)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    return port->pixels->is_busy != NULL && port->pixels->is_busy(port->context, settings->pin);
}

/* Sets the end of the latch time and of the pause. */
static void latch(const drom_strip_settings DROM_FLASH *settings, drom_strip_state *state, drom_us now)
{
    drom_deadline_arm(&state->next, now, LATCH_US + settings->every_ms * (drom_us)1000);
}

/* A refresh may have just ended, or be in progress: the dark picture is sent when the strip has latched the
 * last one. */
static void rest(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_strip_settings DROM_FLASH *const settings = settings_of;
    drom_strip_state *const state = state_of;
    *state = (drom_strip_state){.picture = {.colour = 0xffffff, .lit = settings->count, .brightness = FULL},
                                .rendered = settings->count,
                                .limited = settings->count};
    if (is_going_out(settings, timing)) {
        timing->sends_on = settings->pin;
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

/* A strip that is off counts as dark; dimmed to 0 it is off, and returns at its last brightness. */
static void change_brightness(drom_strip_picture *picture, uint8_t verb, uint8_t amount)
{
    const uint8_t from = picture->is_on ? picture->brightness : 0;
    const uint8_t room = (uint8_t)(FULL - from);
    uint8_t target = amount;
    if (verb == DROM_STRIP_BRIGHTER) {
        target = amount > room ? FULL : (uint8_t)(from + amount);
        picture->is_on = true;
    } else if (verb == DROM_STRIP_DIMMER) {
        target = amount > from ? 0 : (uint8_t)(from - amount);
    }
    if (target > 0) {
        picture->brightness = target;
    } else {
        picture->is_on = false;
    }
}

/* Selects the palette's next colour, or the previous one. */
static uint32_t next_colour(const drom_strip_settings DROM_FLASH *settings, drom_strip_picture *picture,
                            bool is_next)
{
    const drom_strip_palette DROM_FLASH *const palette = &settings->palettes.rows[picture->palette];
    const uint8_t count = palette->colours.count;
    const uint8_t at = picture->colours;
    const uint8_t next = at < count ? (uint8_t)(at + 1) : 1;
    picture->colours = is_next ? next : at > 1 ? (uint8_t)(at - 1) : count;
    return palette->colours.rows[picture->colours - 1];
}

void drom_strip_order(const drom_strip_settings DROM_FLASH *settings, drom_strip_picture *picture,
                      uint16_t pixels, uint8_t verb, uint32_t value)
{
    const uint8_t level = (uint8_t)value;
    switch ((drom_strip_verb)verb) {
    case DROM_STRIP_OFF:
        picture->is_on = false;
        break;
    case DROM_STRIP_ON:
        picture->is_on = true;
        break;
    case DROM_STRIP_TOGGLE:
        picture->is_on = !picture->is_on;
        break;
    case DROM_STRIP_COLOUR:
    case DROM_STRIP_FILL:
        picture->colour = verb == DROM_STRIP_FILL ? value : next_colour(settings, picture, value != 0);
        picture->lit = pixels;
        picture->effect = 0;
        picture->is_on = true;
        break;
    case DROM_STRIP_SHOW:
        picture->lit = (uint16_t)value;
        picture->effect = 0;
        picture->is_on = true;
        break;
    case DROM_STRIP_BRIGHTNESS:
    case DROM_STRIP_BRIGHTER:
    case DROM_STRIP_DIMMER:
        change_brightness(picture, verb, level);
        break;
    case DROM_STRIP_PALETTE:
        picture->palette = level;
        picture->colours = 0;
        break;
    case DROM_STRIP_EFFECT:
        picture->effect = (uint8_t)(level + 1);
        picture->is_on = true;
        break;
    }
}

static drom_part_state *parts_of(const drom_strip_state *state)
{
    return DROM_WITH_PARTS ? state->parts : NULL;
}

static bool is_on(const void *state_of)
{
    const drom_strip_state *const state = state_of;
    bool is_lit = state->picture.is_on;
    for (const drom_part_state *part = parts_of(state); part != NULL; part = part->next) {
        is_lit = is_lit || (part->is_apart && part->picture.is_on);
    }
    return is_lit;
}

static void act(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing, uint8_t verb,
                uint32_t value)
{
    (void)timing;
    const drom_strip_settings DROM_FLASH *const settings = settings_of;
    drom_strip_state *const state = state_of;
    const bool is_all = verb == DROM_STRIP_FILL || verb == DROM_STRIP_SHOW || verb == DROM_STRIP_COLOUR ||
                        verb == DROM_STRIP_EFFECT;
    if (verb == DROM_STRIP_TOGGLE) {
        verb = is_on(state) ? DROM_STRIP_OFF : DROM_STRIP_ON;
    }
    state->is_stale = true;
    drom_strip_order(settings, &state->picture, settings->count, verb, value);
    for (drom_part_state *part = parts_of(state); part != NULL; part = part->next) {
        part->is_apart = part->is_apart && !is_all;
        if (part->is_apart) { /* else it copies the strip's picture with its next order */
            drom_strip_order(settings, &part->picture, part->settings->count, verb, value);
        }
    }
}

static void paint(const drom_strip_settings DROM_FLASH *settings, uint8_t brightness, uint16_t pixel,
                  uint32_t colour)
{
    const uint16_t scale = (uint16_t)(brightness * 41u >> 5); /* 256 at DROM_FULL_LEVEL */
    const uint8_t parts[3] = {(uint8_t)(colour >> 16), (uint8_t)(colour >> 8), (uint8_t)colour};
    uint8_t *const bytes = &settings->bytes[pixel * (size_t)3];
    for (uint8_t i = 0; i < 3; i++) {
        bytes[i] = (uint8_t)((uint16_t)(parts[settings->order[i]] * scale) >> 8);
    }
}

/* Consecutive pixels of one picture. */
typedef struct stretch {
    const drom_strip_picture *picture;
    uint16_t first; /* pixel of the picture */
    uint16_t end;   /* after the last */
} stretch;

static stretch stretch_at(const drom_strip_settings DROM_FLASH *settings, const drom_strip_state *state,
                          uint16_t pixel)
{
    stretch found = {&state->picture, 0, settings->count};
    for (const drom_part_state *part = parts_of(state); part != NULL; part = part->next) {
        const uint16_t first = part->settings->first;
        const uint16_t end = (uint16_t)(first + part->settings->count);
        if (part->is_apart && pixel >= first && pixel < end) {
            return (stretch){&part->picture, first, end};
        }
        if (part->is_apart && first > pixel && first < found.end) {
            found.end = first;
        }
    }
    return found;
}

static bool is_limited(const drom_strip_settings DROM_FLASH *settings)
{
    return DROM_WITH_CURRENT && settings->max_ma > 0;
}

/* Adds up the pixels that were just computed. */
static void add_up(const drom_strip_settings DROM_FLASH *settings, drom_strip_state *state, uint8_t count)
{
    const uint8_t *const bytes = &settings->bytes[state->rendered * (size_t)3];
    uint16_t sum = 0;
    for (uint8_t i = 0; i < 3 * count; i++) {
        sum = (uint16_t)(sum + bytes[i]);
    }
    state->sum += sum;
}

/* Returns the largest sum of all bytes that the current limit allows, at 20 mA for a full byte: 51 / 4 per
 * mA. */
static uint32_t max_sum(const drom_strip_settings DROM_FLASH *settings)
{
    return (uint32_t)(uint16_t)(settings->max_ma - settings->count) * 51 / 4;
}

/* Computes some of the remaining pixels. */
static void render(const drom_strip_settings DROM_FLASH *settings, drom_strip_state *state)
{
    const uint16_t from = state->rendered;
    const stretch here = stretch_at(settings, state, from);
    const drom_strip_picture *const picture = here.picture;
    const uint16_t left = (uint16_t)(here.end - from);
    const uint16_t within = (uint16_t)(from - here.first);
    const uint8_t count = (uint8_t)(left < PIXELS_A_POLL ? left : PIXELS_A_POLL);
    uint32_t colours[PIXELS_A_POLL] = {0};
    if (picture->is_on && picture->effect != 0) {
        const drom_strip_palette palette = settings->palettes.rows[picture->palette];
        drom_strip_effect *const effect = settings->effects.rows[picture->effect - 1];
        const drom_strip_scene scene = {palette.colours.rows, palette.colours.count, state->frame};
        effect(&scene, within, count, colours);
    } else {
        for (uint8_t i = 0; i < count; i++) {
            colours[i] = picture->is_on && (uint16_t)(within + i) < picture->lit ? picture->colour : 0;
        }
    }
    for (uint8_t i = 0; i < count; i++) {
        paint(settings, picture->brightness, (uint16_t)(from + i), colours[i]);
    }
    if (is_limited(settings)) {
        add_up(settings, state, count);
    }
    state->rendered = (uint16_t)(from + count);
    if (state->rendered == settings->count) {
        const bool is_too_bright = is_limited(settings) && state->sum > max_sum(settings);
        state->limited = is_too_bright ? 0 : settings->count;
    }
}

/* Darkens some of the remaining pixels, if the picture exceeds the limit. */
static void limit(const drom_strip_settings DROM_FLASH *settings, drom_strip_state *state)
{
    const uint16_t left = (uint16_t)(settings->count - state->limited);
    const uint16_t scale = (uint16_t)((max_sum(settings) << 8) / state->sum);
    const uint8_t count = (uint8_t)(left < PIXELS_A_POLL ? left : PIXELS_A_POLL);
    uint8_t *const bytes = &settings->bytes[state->limited * (size_t)3];
    for (uint8_t i = 0; i < 3 * count; i++) {
        bytes[i] = (uint8_t)((uint16_t)(bytes[i] * scale) >> 8);
    }
    state->limited = (uint16_t)(state->limited + count);
}

/* True if the picture changes by itself. */
static bool is_running(const drom_strip_state *state)
{
    bool runs = state->picture.is_on && state->picture.effect != 0;
    for (const drom_part_state *part = parts_of(state); part != NULL; part = part->next) {
        runs = runs || (part->is_apart && part->picture.is_on && part->picture.effect != 0);
    }
    return runs;
}

/* True if a new order restarts the computation. Orders that come faster than it takes don't prevent the
 * refresh for ever. */
static bool begins_anew(const drom_strip_state *state)
{
    return state->is_stale && (state->is_sent || state->begun_anew < MOST_ANEW);
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
    const bool is_over = is_running(state) && state->limited == settings->count && state->frame != frame;
    const bool is_anew = begins_anew(state);
    if (is_anew) {
        state->begun_anew++;
    }
    if (is_anew || is_over) {
        state->is_stale = false;
        state->is_sent = false;
        state->frame = frame;
        state->rendered = 0;
        state->limited = 0;
        state->sum = 0;
    }
    if (state->rendered < settings->count) {
        render(settings, state);
        return 0; /* enough for one poll */
    }
    if (DROM_WITH_CURRENT && state->limited < settings->count) {
        limit(settings, state);
        return 0; /* enough for one poll */
    }
    if (!state->is_sent || settings->every_ms == 0) {
        return RETRY_US;
    }
    return is_running(state) ? (drom_wait)(FRAME_US - timing->now % FRAME_US) : DROM_LONG;
}

/* Hardware sends one strip's picture at a time. */
static bool is_machine_busy(const drom_timing *timing)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    return port->pixels->is_busy != NULL && timing->sends_on != DROM_NONE &&
           port->pixels->is_busy(port->context, timing->sends_on);
}

static drom_wait wants(const void DROM_FLASH *settings_of, const void *state_of, const drom_timing *timing)
{
    const drom_strip_settings DROM_FLASH *const settings = settings_of;
    const drom_strip_state *const state = state_of;
    if (state->is_sent && !state->is_stale && !is_running(state) && settings->every_ms != 0) {
        return 0;
    }
    if (state->is_going_out || state->next.is_armed || begins_anew(state) ||
        state->limited != settings->count || (state->is_sent && settings->every_ms != 0) ||
        is_machine_busy(timing)) {
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
    state->begun_anew = 0;
    if (port->pixels->is_busy != NULL) {
        state->is_going_out = true;
        timing->sends_on = settings->pin;
    }
    latch(settings, state, port->clock->now(port->context));
}

static uint32_t uses(const void DROM_FLASH *settings)
{
    return ((const drom_strip_settings DROM_FLASH *)settings)->max_ma > 0 ? DROM_USES(CURRENT) : 0;
}

const drom_output_kind DROM_FLASH drom_strip = {
    .uses = DROM_IS_BOUND ? NULL : uses,
    .undo = DROM_STRIP_OFF,
    .needs = DROM_USES(PIXELS),
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
