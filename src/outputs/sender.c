/* A press to be sent waits in a queue until the air is free for a frame; the frame's edges become timed
 * edges; and the next frame of the press waits again. */
#include "../../include/dromikos/sender.h"

#include "../bound.h"

enum {
    LEAD_US = 500, /* from the moment that the air is free to the first edge: timed edges are made before
                      they are due */
    HURRIES = 2,   /* rounds */
    LOOK_AGAIN_US = 200,
    RETRY_US = 2000, /* until the air is asked for again */
    LOOK_US = 500,   /* until a machine of its own is asked whether it has sent all */
    UNUSED_KHZ = 38, /* until something is sent */
};

/* Between two presses of one key, besides the frame's own pause. */
#define PAUSE_US UINT32_C(120000)

static drom_reason check_key(drom_sender_key key)
{
    const drom_waveform DROM_FLASH *const waveform = key.waveform;
    if (waveform == NULL || waveform->pack == NULL || waveform->chunk == NULL || waveform->protocol == NULL ||
        waveform->timing == NULL) {
        return DROM_REASON_NULL;
    }
    const drom_protocol DROM_FLASH *const protocol = waveform->protocol;
    if (protocol->accepts != NULL && !protocol->accepts(waveform->timing)) {
        return DROM_REASON_TIMING;
    }
    if (protocol->period_us == 0 && protocol->gap_us == 0) {
        return DROM_REASON_PERIOD;
    }
    return key.address >= waveform->min_address && key.address <= waveform->max_address &&
                   key.command <= waveform->max_command
               ? DROM_REASON_NONE
               : DROM_REASON_CODE;
}

static drom_reason check_settings(const void DROM_FLASH *settings, const drom_port_facts *facts,
                                  uint8_t *item)
{
    const drom_sender_settings DROM_FLASH *const sender = settings;
    if (sender->pin >= facts->pins) {
        return DROM_REASON_PIN;
    }
    if (sender->keys.count > 0 && sender->keys.rows == NULL) {
        return DROM_REASON_NULL;
    }
    if (sender->keys.count > DROM_SENDER_PRESSES) {
        return DROM_REASON_SETTINGS;
    }
    for (*item = 0; *item < sender->keys.count; ++*item) {
        const drom_reason reason = check_key(sender->keys.rows[*item]);
        if (reason != DROM_REASON_NONE) {
            return reason;
        }
    }
    *item = 0;
    return DROM_REASON_NONE;
}

static bool accepts_action(const void DROM_FLASH *settings, uint8_t verb, uint32_t value)
{
    const drom_sender_settings DROM_FLASH *const sender = settings;
    return verb == DROM_SENDER_LET_GO ||
           (verb == DROM_SENDER_SEND && (value & (DROM_SENDER_PRESSES - 1)) < sender->keys.count &&
            value <= UINT16_MAX) ||
           (verb == DROM_SENDER_HOLD && (value & UINT8_MAX) < sender->keys.count && value <= UINT16_MAX);
}

static void rest(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_sender_settings DROM_FLASH *const settings = settings_of;
    drom_sender_state *const state = state_of;
    if (state->is_sending) {
        drom_air_end_transmission(timing, timing->now);
    }
    *state = (drom_sender_state){.toggle = state->toggle};
    timing->air.passed_on = 0;
    timing->air.covered = 0;
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    if (port->burst != NULL) {
        port->burst->stop(port->context);
    } else {
        (void)port->edges->ready_carrier(port->context, settings->pin, UNUSED_KHZ);
    }
}

DROM_APART static void act(const void DROM_FLASH *settings, void *state_of, drom_timing *timing, uint8_t verb,
                           uint32_t value)
{
    (void)settings;
    drom_sender_state *const state = state_of;
    state->is_held = verb == DROM_SENDER_HOLD;
    timing->air.passed_on = (uint8_t)(verb == DROM_SENDER_HOLD ? value >> 8 : 0);
    timing->air.covered = timing->air.passed_on;
    if (verb == DROM_SENDER_LET_GO) {
        return;
    }
    const uint8_t key = (uint8_t)value;
    const uint8_t count = (uint8_t)(verb == DROM_SENDER_HOLD ? 0 : value >> 8);
    const uint8_t last = (uint8_t)(state->waiting - 1);
    const bool is_again =
        state->waiting > 1 && state->queue[last].key == key && state->queue[last].count == count;
    if (state->waiting < DROM_SENDER_QUEUE && !is_again) {
        state->queue[state->waiting].key = key;
        state->queue[state->waiting].count = count;
        state->waiting++;
    }
}

/* The key that is being sent. */
static const drom_sender_key DROM_FLASH *key_of(const drom_sender_settings DROM_FLASH *settings,
                                                const drom_sender_state *state)
{
    return &settings->keys.rows[state->queue[0].key & ~DROM_SENDER_PRESSES];
}

/* When a frame can begin: not before the timed edges that have been made already. */
static drom_us first_edge(const drom_timing *timing)
{
    const drom_us at = timing->now + LEAD_US;
    const bool is_behind =
        drom_timed_edges_are_empty(&timing->timed_edges) || drom_is_due(at, timing->timed_edges.last_at);
    return is_behind ? at : timing->timed_edges.last_at;
}

static uint16_t next_run(void *encoder)
{
    return drom_encode_next(encoder);
}

/* The first edge of a frame is due, and the air is ours. */
DROM_APART static void begin_frame(const drom_sender_settings DROM_FLASH *settings, drom_sender_state *state,
                                   drom_timing *timing, drom_press_part part)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    const drom_sender_key DROM_FLASH *const key = key_of(settings, state);
    const drom_waveform DROM_FLASH *const waveform = key->waveform;
    const drom_code code = {waveform->protocol->number, key->address, key->command};
    drom_encode_start(&state->encoder, waveform, &code, part, state->toggle);
    state->is_sending = true;
    if (port->burst != NULL) {
        state->is_apart = true;
        state->frame_at = port->clock->now(port->context);
        drom_air_begin_transmission(timing, state->frame_at, settings->is_shielded);
        port->burst->begin(port->context, settings->pin, waveform->carrier_khz, next_run, &state->encoder);
        return;
    }
    state->toggles = port->edges->ready_carrier(port->context, settings->pin, waveform->carrier_khz);
    state->next_at = first_edge(timing);
    state->frame_at = state->next_at;
    timing->edges_from = DROM_ANY_OUTPUT;
    timing->hurries = 0;
    drom_air_begin_transmission(timing, state->next_at, settings->is_shielded);
}

/* Its last edge is at a time. */
static void end_frame(const drom_sender_settings DROM_FLASH *settings, drom_sender_state *state,
                      drom_timing *timing, drom_us at)
{
    const drom_waveform DROM_FLASH *const waveform = key_of(settings, state)->waveform;
    const drom_us period_us = waveform->protocol->period_us;
    drom_air_end_transmission(timing, at);
    state->is_sending = false;
    state->is_apart = false;
    state->next_at = state->frames == 0 ? state->frame_at + waveform->boundary_gap_us
                     : period_us != 0   ? state->frame_at + period_us
                                        : at + waveform->protocol->gap_us;
    state->next_at -= LEAD_US;
}

static bool is_in_presses(const drom_sender_state *state)
{
    return (state->queue[0].key & DROM_SENDER_PRESSES) != 0;
}

/* Is there another frame of this press to come? */
static bool goes_on(const drom_sender_state *state, const drom_waveform DROM_FLASH *waveform)
{
    const uint8_t min = waveform->min_frames > 1 ? waveform->min_frames : 1;
    const uint8_t wanted = is_in_presses(state) ? min : state->queue[0].count;
    return state->frames < (wanted > min ? wanted : min) || (wanted == 0 && state->is_held);
}

/* The same key again comes after a pause, or it would be the same press, held. */
static void end_press(drom_sender_state *state)
{
    const uint8_t ended = state->queue[0].key;
    if (is_in_presses(state) && state->queue[0].count > 1) {
        state->queue[0].count--;
    } else {
        state->waiting--;
        for (uint8_t i = 0; i < state->waiting; i++) {
            state->queue[i] = state->queue[i + 1];
        }
    }
    state->is_pausing =
        state->waiting > 0 && ((state->queue[0].key ^ ended) & (DROM_SENDER_PRESSES - 1)) == 0;
    if (state->is_pausing) {
        state->next_at += PAUSE_US;
    }
    state->has_begun = false;
    state->is_opened = false;
    state->is_closing = false;
    state->frames = 0;
    state->toggle = !state->toggle;
}

/* Which frame comes next. */
static drom_press_part next_part(drom_sender_state *state, const drom_waveform DROM_FLASH *waveform)
{
    if (waveform->boundary_gap_us != 0 && !state->is_opened) {
        state->is_opened = true;
        return DROM_SEND_BOUNDARY;
    }
    if (waveform->boundary_gap_us != 0 && !goes_on(state, waveform)) {
        state->is_closing = true;
        return DROM_SEND_BOUNDARY;
    }
    const bool is_first = state->frames == 0;
    state->frames = (uint8_t)(state->frames + (state->frames < UINT8_MAX)); /* a held key has any number */
    return is_first ? DROM_SEND_FIRST : DROM_SEND_REPEAT;
}

static drom_wait poll(const void DROM_FLASH *settings_of, void *state_of, drom_timing *timing)
{
    const drom_sender_settings DROM_FLASH *const settings = settings_of;
    drom_sender_state *const state = state_of;
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    if (port->burst != NULL && state->is_apart) {
        if (port->burst->is_busy(port->context)) {
            return LOOK_US;
        }
        end_frame(settings, state, timing, timing->now);
    }
    if (state->waiting == 0 || state->is_sending) {
        return DROM_LONG; /* the timed edges go on */
    }
    const drom_sender_key DROM_FLASH *const key = key_of(settings, state);
    const drom_waveform DROM_FLASH *const waveform = key->waveform;
    const uint8_t known_ms = key->frame_ms;
    const uint8_t frame_ms = known_ms != 0 ? known_ms : waveform->longest_ms;
    if (state->has_begun || state->is_pausing) {
        const drom_wait wait = drom_until(timing->now, state->next_at);
        if (wait > 0) { /* nor may another press come before */
            return wait;
        }
        state->is_pausing = false;
        if (state->has_begun &&
            (state->is_closing || (!goes_on(state, waveform) && waveform->boundary_gap_us == 0))) {
            end_press(state);
            return 0;
        }
    }
    const drom_us needed_us =
        drom_until(timing->now, first_edge(timing)) + frame_ms * (drom_us)1000 + DROM_ECHO_US;
    if (settings->is_shielded ? timing->air.is_transmitting : !drom_air_is_free(timing, needed_us)) {
        return RETRY_US;
    }
    if (port->burst == NULL && drom_until(timing->now, first_edge(timing)) > LEAD_US) {
        timing->hurries = HURRIES; /* edges are made further ahead, and much may come until then */
        return LOOK_AGAIN_US;
    }
    state->has_begun = true;
    begin_frame(settings, state, timing, next_part(state, waveform));
    return 0; /* its first timed edge is for the next poll */
}

static bool next_edge(const void *state_of, drom_us *at)
{
    const drom_sender_state *const state = state_of;
    *at = state->next_at;
    return state->is_sending && !state->is_apart;
}

static uint32_t take_edge(const void DROM_FLASH *settings, void *state_of, drom_timing *timing, drom_us at)
{
    drom_sender_state *const state = state_of;
    const uint16_t us = drom_encode_next(&state->encoder);
    if (us != 0) {
        state->next_at = at + us;
        return state->toggles;
    }
    end_frame(settings, state, timing, at);
    return state->toggles;
}

static bool is_on(const void *state_of)
{
    const drom_sender_state *const state = state_of;
    return state->waiting > 0;
}

static bool is_busy(const void *state_of)
{
    const drom_sender_state *const state = state_of;
    return state->waiting > 0;
}

const drom_output_kind DROM_FLASH drom_sender = {
    .undo = DROM_SENDER_LET_GO,
    .needs = DROM_USES_CARRIER,
    .check_settings = DROM_CHECKER(check_settings),
    .accepts_action = DROM_CHECKER(accepts_action),
    .rest = rest,
    .act = act,
    .is_on = DROM_WITH_CONDITIONS ? is_on : NULL,
    .is_busy = DROM_WITH_WAITS ? is_busy : NULL,
    .poll = poll,
    .next_edge = next_edge,
    .take_edge = take_edge,
};
