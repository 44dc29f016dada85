/* A press waits in a queue until the medium is free. The edges of its frames are timed edges. Each next frame
 * has a fixed time; if it can't be sent then, the press ends. */
#include "../compiler.h"

#include "../../include/dromikos/outputs/sender.h"

#include "../bound.h"

enum {
    LEAD_US = 500, /* from a free medium to the first edge: timed edges are made ahead */
    HURRIES = 2,   /* rounds */
    LOOK_AGAIN_US = 200,
    HURRY_US = 12000, /* within this time before the next frame of a press, no edge is made far ahead */
    RETRY_US = 2000,  /* until the medium is checked again */
    LOOK_US = 500,   /* interval at which the end of a transmission and the start of a due frame are polled */
    UNUSED_KHZ = 38, /* until something is sent */
};

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
    timing->air.is_taken = false;
    *state = (drom_sender_state){.toggle = state->toggle};
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    if (port->burst != NULL) {
        port->burst->stop(port->context);
    } else {
        (void)port->edges->ready_carrier(port->context, settings->pin, UNUSED_KHZ);
    }
}

DROM_NOINLINE static void act(const void DROM_FLASH *settings, void *state_of, drom_timing *timing,
                              uint8_t verb, uint32_t value)
{
    (void)settings;
    (void)timing;
    drom_sender_state *const state = state_of;
    const uint8_t more = (uint8_t)(value >> 8);
    const uint8_t key = (uint8_t)value;
    const uint8_t count = verb == DROM_SENDER_HOLD ? 0 : more;
    state->is_held = verb == DROM_SENDER_HOLD;
    if (verb == DROM_SENDER_LET_GO) {
        return;
    }
    state->is_passed_on = (more & DROM_SENDER_PASSES_ON >> 8) != 0;
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

/* Returns the earliest start of a frame: after the timed edges that are queued. */
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

/* Returns which frame of the press is next. */
static drom_press_part next_part(drom_sender_state *state, const drom_waveform DROM_FLASH *waveform)
{
    if (state->is_closing || (waveform->boundary_gap_us != 0 && !state->is_opened)) {
        state->is_opened = true;
        return DROM_SEND_BOUNDARY;
    }
    const bool is_first = state->frames == 0;
    state->frames = (uint8_t)(state->frames + (state->frames < UINT8_MAX)); /* a held key has any number */
    return is_first ? DROM_SEND_FIRST : DROM_SEND_REPEAT;
}

/* Begins a frame at a time that is due or near; the medium is ours. */
DROM_NOINLINE static void begin_frame(const drom_sender_settings DROM_FLASH *settings,
                                      drom_sender_state *state, drom_timing *timing, bool is_spare,
                                      drom_us at)
{
    const drom_port DROM_FLASH *const port = drom_port_of(timing);
    const drom_sender_key DROM_FLASH *const key = key_of(settings, state);
    const drom_waveform DROM_FLASH *const waveform = key->waveform;
    const drom_code code = {waveform->protocol->number, key->address, key->command};
    drom_encode_start(&state->encoder, waveform, &code, next_part(state, waveform), state->toggle);
    state->is_sending = true;
    state->is_due = false;
    state->late_us = 0;
    state->is_pausing = false;
    state->is_more = false;
    timing->air.is_taken = true;
    timing->air.is_spare = is_spare;
    if (port->burst != NULL) {
        state->is_apart = true;
        state->frame_at = port->clock->now(port->context);
        drom_air_begin_transmission(timing, state->frame_at, settings->is_shielded);
        port->burst->begin(port->context, settings->pin, waveform->carrier_khz, next_run, &state->encoder);
        return;
    }
    state->toggles = port->edges->ready_carrier(port->context, settings->pin, waveform->carrier_khz);
    state->next_at = at;
    state->frame_at = at;
    timing->edges_from = DROM_ANY_OUTPUT;
    timing->hurries = 0;
    drom_air_begin_transmission(timing, at, settings->is_shielded);
}

/* Sets the time of the frame's last edge. */
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
}

static bool is_in_presses(const drom_sender_state *state)
{
    return (state->queue[0].key & DROM_SENDER_PRESSES) != 0;
}

/* True if the current press is the held key's. */
static bool is_held(const drom_sender_state *state)
{
    return state->is_held && state->waiting == 1 && state->queue[0].count == 0;
}

/* True if the held key is sent as separate presses. */
static uint8_t each_10ms(const drom_sender_settings DROM_FLASH *settings, const drom_sender_state *state)
{
    return DROM_WITH_EACH && is_held(state) ? key_of(settings, state)->each_10ms : 0;
}

/* True if this press needs another frame. */
static bool lacks_frames(const drom_sender_state *state, const drom_waveform DROM_FLASH *waveform)
{
    const uint8_t min = waveform->min_frames > 1 ? waveform->min_frames : 1;
    const uint8_t wanted = is_in_presses(state) ? min : state->queue[0].count;
    return state->frames < (wanted > min ? wanted : min);
}

static void drop_press(drom_sender_state *state)
{
    state->waiting--;
    for (uint8_t i = 0; i < state->waiting; i++) {
        state->queue[i] = state->queue[i + 1];
    }
}

/* The next press of the same key begins after more than half a period: an earlier one would continue the same
 * press. */
static void end_press(const drom_sender_settings DROM_FLASH *settings, drom_sender_state *state,
                      drom_timing *timing)
{
    state->ended = state->queue[0].key & (DROM_SENDER_PRESSES - 1);
    const drom_us period_us = state->next_at - state->frame_at;
    drom_us pause_us = period_us / 2 + period_us / 8;
    timing->air.is_taken = false;
    const uint8_t each = each_10ms(settings, state);
    state->is_more = each > 0;
    if (each > 0) {
        pause_us = each * (drom_us)10000;
    } else if (is_in_presses(state) && state->queue[0].count > 1) {
        state->queue[0].count--;
    } else {
        drop_press(state);
    }
    state->is_pausing = true;
    state->next_at += pause_us;
    state->has_begun = false;
    state->is_due = false;
    state->late_us = 0;
    state->is_opened = false;
    state->is_closing = false;
    state->frames = 0;
    state->toggle = !state->toggle;
}

DROM_NOINLINE static drom_us lasts_us(uint8_t known_ms, const drom_waveform DROM_FLASH *waveform)
{
    return (known_ms != 0 ? known_ms : waveform->longest_ms) * (drom_us)1000 + DROM_ECHO_US;
}

/* How long frames that aren't needed may cover repeats: one repeat, or some short ones. */
#define COVERED_US UINT32_C(105000)

/* True if the passed-on key is known to be down until the end of a frame; after that its next repeat must be
 * received. */
static bool is_sure(const drom_sender_settings DROM_FLASH *settings, const drom_sender_state *state,
                    const drom_timing *timing, drom_us over_at)
{
    const drom_expected *const expected = &timing->air.expected;
    if (!state->is_passed_on || settings->is_shielded || !expected->next.is_armed) {
        return true;
    }
    const drom_rhythm *const rhythm = expected->rhythm;
    const bool may_cover = !rhythm->was_covered && (rhythm->has_repeated || rhythm->was_muted);
    return drom_is_due(rhythm->clear_at + (may_cover ? COVERED_US : 0), over_at);
}

/* Begins the next frame of a press at a time that is near, or ends the press. False: it hasn't begun. */
DROM_NOINLINE static bool go_on(const drom_sender_settings DROM_FLASH *settings, drom_sender_state *state,
                                drom_timing *timing, drom_us at)
{
    const drom_sender_key DROM_FLASH *const key = key_of(settings, state);
    const drom_waveform DROM_FLASH *const waveform = key->waveform;
    const bool is_spare = !lacks_frames(state, waveform);
    const bool is_over =
        is_spare && (state->is_closing || !is_held(state) || each_10ms(settings, state) > 0 ||
                     !is_sure(settings, state, timing, at + lasts_us(key->repeat_ms, waveform)));
    const drom_us due_at = state->next_at - state->late_us;
    const drom_us late_us = at - due_at;
    if ((is_over && (waveform->boundary_gap_us == 0 || state->is_closing)) ||
        late_us > (due_at - state->frame_at) / 32) {
        state->next_at = due_at;
        end_press(settings, state, timing);
        return false;
    }
    if (timing->air.is_transmitting || !(settings->is_shielded || timing->air.is_free)) {
        state->next_at = at + LOOK_US;
        state->late_us = (uint16_t)(late_us + LOOK_US);
        return false;
    }
    state->is_closing = is_over;
    begin_frame(settings, state, timing, is_spare, at);
    return true;
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
    if (state->is_sending) {
        return DROM_LONG; /* the timed edges continue */
    }
    if (state->has_begun) {
        const drom_wait wait = drom_until(timing->now, state->next_at);
        if (wait > HURRY_US) {
            return wait - HURRY_US;
        }
        if (port->burst == NULL) {
            timing->hurries = HURRIES;
            timing->edges_from = state->is_due ? timing->edges_from : DROM_ANY_OUTPUT;
            state->is_due = true;
            return LOOK_US;
        }
        if (wait == 0) {
            (void)go_on(settings, state, timing, timing->now);
        }
        return drom_until(timing->now, state->next_at);
    }
    const drom_wait pause = state->is_pausing ? drom_until(timing->now, state->next_at) : 0;
    state->is_pausing = pause > 0;
    if (state->waiting == 0) {
        return pause > 0 ? pause : DROM_LONG;
    }
    if (DROM_WITH_EACH && state->is_more && !is_held(state)) {
        state->is_more = false;
        drop_press(state);
        return 0;
    }
    if (pause > 0 && state->ended == (state->queue[0].key & (DROM_SENDER_PRESSES - 1))) {
        return pause;
    }
    const drom_sender_key DROM_FLASH *const key = key_of(settings, state);
    const drom_us needed_us = LEAD_US + lasts_us(key->press_ms, key->waveform);
    const drom_air *const air = &timing->air;
    if (settings->is_shielded ? air->is_transmitting
                              : air->is_taken || !drom_air_is_free(timing, needed_us)) {
        return RETRY_US;
    }
    if (DROM_WITH_EACH && state->is_more && !is_sure(settings, state, timing, timing->now + needed_us)) {
        return RETRY_US;
    }
    const drom_us at = first_edge(timing);
    if (port->burst == NULL && drom_until(timing->now, at) > LEAD_US) {
        timing->hurries = HURRIES; /* edges are made further ahead, and much may happen until then */
        return LOOK_AGAIN_US;
    }
    state->has_begun = true;
    begin_frame(settings, state, timing, false, at);
    return 0;
}

static bool next_edge(const void *state_of, drom_us *at)
{
    const drom_sender_state *const state = state_of;
    *at = state->next_at;
    return (state->is_sending && !state->is_apart) || state->is_due;
}

static uint32_t take_edge(const void DROM_FLASH *settings, void *state_of, drom_timing *timing, drom_us at)
{
    drom_sender_state *const state = state_of;
    if (state->is_due && !go_on(settings, state, timing, at)) {
        return 0; /* no pin changes */
    }
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

static uint32_t uses(const void DROM_FLASH *settings_of)
{
    const drom_sender_settings DROM_FLASH *const settings = settings_of;
    bool has_each = false;
    for (uint8_t i = 0; i < settings->keys.count; i++) {
        has_each |= settings->keys.rows[i].each_10ms > 0;
    }
    return has_each ? DROM_USES(EACH) : 0;
}

const drom_output_kind DROM_FLASH drom_sender = {
    .uses = DROM_IS_BOUND ? NULL : uses,
    .undo = DROM_SENDER_LET_GO,
    .needs = DROM_USES(CARRIER),
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
