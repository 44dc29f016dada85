/* From frames to down, still down and up of a key. There is one hold per handset, as a hand presses one key
 * of it at a time.
 *
 * The toggle bit tells whether a frame continues a press or begins another; without one, the frame period
 * does: a handset repeats a frame one period after the last, and a hand doesn't. After a repeat was received,
 * the next may be lost: then two periods after the last is the same press, too. Before that, it isn't: a
 * quick hand taps at this distance. Only releases need the clock. */
#include "../compiler.h"

#include "gestures.h"

enum { DITTO_US = 12000 };

void drom_keys_init(drom_keys *keys, const drom_keys_plan DROM_FLASH *plan, drom_key_sink *sink,
                    void *context)
{
    *keys = (drom_keys){.repeat_owner = DROM_NONE};
    keys->plan = plan;
    keys->sink = sink;
    keys->context = context;
    for (uint8_t i = 0; i < drom_keys_plan_of(keys)->handsets.count; i++) {
        drom_keys_plan_of(keys)->holds[i] = (drom_hold){0};
        if (drom_keys_plan_of(keys)->doubles.count > 0) {
            drom_keys_plan_of(keys)->taps[i] = (drom_tapped){0};
        }
        if (drom_keys_plan_of(keys)->repeat_after_ms != 0) {
            drom_keys_plan_of(keys)->ticks[i] = (drom_ticking){0};
        }
    }
}

static void release(const drom_keys *keys, uint8_t handset, drom_us now)
{
    drom_hold *const hold = &drom_keys_plan_of(keys)->holds[handset];
    hold->state = DROM_KEY_UP;
    hold->release.is_armed = false;
    drom_gestures_up(keys, handset, now);
}

/* Returns the tolerance of a frame period. */
DROM_NOINLINE static drom_us tolerance_for(drom_us period)
{
    return period / 16 + period / 64;
}

static void hear(drom_hold *hold, const drom_frame *frame)
{
    const drom_protocol DROM_FLASH *const protocol = hold->protocol;
    drom_rhythm *const rhythm = &hold->rhythm;
    const bool may_be_cut =
        rhythm->has_repeated && rhythm->was_muted; /* our transmission covered its beginning */
    if (frame->kind != DROM_FRAME_REPEAT && !may_be_cut) {
        rhythm->period_us =
            protocol->period_us != 0 ? protocol->period_us : frame->lasted_us + protocol->gap_us;
        rhythm->begin_us = 2 * tolerance_for(rhythm->period_us);
        rhythm->around_us = rhythm->begin_us + (protocol->has_ditto ? DITTO_US : frame->lasted_us);
    }
    rhythm->heard_at = frame->at;
    rhythm->clear_at = frame->at + rhythm->period_us - rhythm->begin_us / 2;
    rhythm->was_muted = false;
    rhythm->was_covered = false;
    const drom_us wait_us = 2 * rhythm->period_us + rhythm->around_us - rhythm->begin_us;
    drom_deadline_arm(&hold->release, frame->at, wait_us + wait_us / 16 + wait_us / 32 + wait_us / 128);
}

static void begin_press(const drom_keys *keys, uint8_t handset, uint8_t key, const drom_frame *frame)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    drom_hold *const hold = &plan->holds[handset];
    release(keys, handset, frame->at);
    hold->protocol = frame->protocol;
    hold->key = key;
    hold->toggle = frame->toggle;
    hold->rhythm.has_repeated = false;
    hold->state = DROM_WITH_CONFIRMATION && plan->handsets.rows[handset].needs_second_frame ? DROM_KEY_UNSURE
                                                                                            : DROM_KEY_DOWN;
    hear(hold, frame);
    if (hold->state == DROM_KEY_DOWN) {
        drom_gestures_down(keys, handset, key, frame->at, frame->at);
    }
}

static void go_on(const drom_keys *keys, uint8_t handset, const drom_frame *frame)
{
    drom_hold *const hold = &drom_keys_plan_of(keys)->holds[handset];
    const drom_us first_at = hold->rhythm.heard_at;
    hear(hold, frame);
    hold->rhythm.has_repeated = true;
    if (DROM_WITH_CONFIRMATION && hold->state == DROM_KEY_UNSURE) {
        hold->state = DROM_KEY_DOWN;
        drom_gestures_down(keys, handset, hold->key, first_at, frame->at);
    } else {
        drom_gestures_still(keys, handset, frame->at);
    }
}

static bool is_within(drom_us actual, drom_us expected)
{
    const drom_us tolerance = tolerance_for(expected);
    return (drom_us)(actual - (expected - tolerance)) <= 2 * tolerance;
}

/* True if this frame is the next repeat of a held key, or the one after. */
DROM_NOINLINE static bool is_same_press(const drom_hold *hold, const drom_frame *frame)
{
    if (hold->protocol->has_toggle) {
        return frame->toggle == hold->toggle;
    }
    if (frame->kind == DROM_FRAME_HEADERLESS || hold->protocol->has_any_period) {
        return true;
    }
    const drom_us since = frame->at - hold->rhythm.heard_at;
    const drom_us period = hold->rhythm.period_us;
    const bool may_be_lost = hold->rhythm.has_repeated && !hold->protocol->has_ditto;
    const drom_us longest = hold->rhythm.was_muted ? hold->release.at - hold->rhythm.heard_at
                            : may_be_lost          ? 2 * period
                                                   : period;
    for (drom_us expected = period; expected <= longest;
         expected += period) { /* as often as a repeat was due */
        if (is_within(since, expected)) {
            return true;
        }
    }
    return false;
}

/* Compares a key's code with another: less than 0 if before, more than 0 if after, 0 if equal. The only
 * reader of a handset's codes while the engine runs. */
static int8_t compare(const drom_handset DROM_FLASH *handset, uint8_t key, const drom_code *code)
{
    const drom_code DROM_FLASH *const row = &handset->codes.rows[key];
    if (row->command != code->command) {
        return row->command < code->command ? -1 : 1;
    }
    if (row->address != code->address) {
        return row->address < code->address ? -1 : 1;
    }
    return (int8_t)((row->protocol > code->protocol) - (row->protocol < code->protocol));
}

/* Returns the row of a code in a handset, or the number of rows if there is none. */
static uint8_t find_key(const drom_handset DROM_FLASH *handset, const drom_code *code)
{
    uint8_t key = 0;
    if (DROM_WITH_CODE_INDEX && handset->by_code.count > 0) {
        uint8_t low = 0;
        uint8_t high = handset->by_code.count;
        while (low < high) {
            const uint8_t middle = (uint8_t)(low + (high - low) / 2);
            if (compare(handset, handset->by_code.rows[middle], code) < 0) {
                low = (uint8_t)(middle + 1);
            } else {
                high = middle;
            }
        }
        if (low == handset->by_code.count) {
            return handset->codes.count;
        }
        key = handset->by_code.rows[low];
        return compare(handset, key, code) == 0 ? key : handset->codes.count;
    }
    while (key < handset->codes.count && compare(handset, key, code) != 0) {
        key++;
    }
    return key;
}

/* A frame without a code belongs to the key of the last frame that had one. */
static void take_numberless(const drom_keys *keys, const drom_frame *frame)
{
    if (keys->repeat_owner == DROM_NONE) {
        return;
    }
    const drom_hold *const hold = &drom_keys_plan_of(keys)->holds[keys->repeat_owner];
    if (hold->state == DROM_KEY_UP || hold->protocol != frame->protocol) {
        return;
    }
    if (frame->kind == DROM_FRAME_REPEAT) {
        go_on(keys, keys->repeat_owner, frame);
    } else {
        release(keys, keys->repeat_owner, frame->at);
    }
}

/* Interval of the repeats of a held button, in µs, like those of a handset. */
#define TOUCH_REPEAT_US UINT32_C(108000)

void drom_keys_touch(drom_keys *keys, uint8_t handset, uint8_t key, bool is_down, bool has_changed,
                     drom_us now)
{
    drom_hold *const hold = &drom_keys_plan_of(keys)->holds[handset];
    if (is_down && has_changed) {
        drom_gestures_up(keys, handset, now); /* releases the key that was down before */
        hold->rhythm.heard_at = now;
        drom_gestures_down(keys, handset, key, now, now);
        return;
    }
    if (!hold->press.is_down || hold->press.key != key) {
        return; /* a newer press has come */
    }
    if (!is_down) {
        hold->press.still_at = now;
        drom_gestures_up(keys, handset, now);
    } else if (now - hold->rhythm.heard_at >= TOUCH_REPEAT_US) {
        hold->rhythm.heard_at = now;
        drom_gestures_still(keys, handset, now);
    } else {
        drom_gestures_held(keys, handset, now);
    }
}

void drom_keys_frame(drom_keys *keys, const drom_frame *frame)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    if (frame->kind == DROM_FRAME_REPEAT || frame->kind == DROM_FRAME_BOUNDARY) {
        take_numberless(keys, frame);
        return;
    }
    keys->repeat_owner = DROM_NONE;
    for (uint8_t i = 0; i < plan->handsets.count; i++) {
        const uint8_t key = find_key(&plan->handsets.rows[i], &frame->code);
        if (key < plan->handsets.rows[i].codes.count) {
            const drom_hold *const hold = &plan->holds[i];
            keys->repeat_owner = i;
            if (hold->state != DROM_KEY_UP && hold->key == key && is_same_press(hold, frame)) {
                go_on(keys, i, frame);
            } else {
                begin_press(keys, i, key, frame);
            }
            return;
        }
    }
}

/* True if the newest frame shows that the key is down. A contact's state is always known. */
static bool is_fresh(const drom_hold *hold, drom_us now)
{
    if (DROM_WITH_INPUTS && hold->protocol == NULL) {
        return hold->press.is_down;
    }
    if (hold->state != DROM_KEY_DOWN) {
        return false;
    }
    const drom_us expected_us = hold->rhythm.period_us + hold->rhythm.around_us;
    return hold->rhythm.was_muted || now - hold->rhythm.heard_at <= expected_us + expected_us / 8;
}

/* Returns the wait until something of a handset is due. */
static drom_wait wait_of(const drom_keys *keys, uint8_t handset, drom_us now)
{
    return drom_shorter(drom_deadline_wait(&drom_keys_plan_of(keys)->holds[handset].release, now),
                        drom_gestures_wait(keys, handset, now));
}

bool drom_keys_advance(drom_keys *keys, drom_us now)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    bool has_advanced = false;
    for (uint8_t i = 0; i < plan->handsets.count; i++) {
        drom_hold *const hold = &plan->holds[i];
        if (wait_of(keys, i, now) > 0) {
            continue;
        }
        if (has_advanced) {
            return true;
        }
        has_advanced = true;
        if (plan->repeat_after_ms != 0) {
            drom_gestures_pass(keys, i, now, is_fresh(hold, now));
        }
        if (drom_deadline_passed(&hold->release, now)) {
            release(keys, i, now);
        }
        drom_gestures_end_tap(keys, i, now);
    }
    return false;
}

/* Approximate interval between frames. */
static void expect(const drom_rhythm *rhythm, drom_us now, bool is_quiet, drom_expected *expected)
{
    const drom_us over_us = is_quiet ? rhythm->begin_us : rhythm->around_us;
    drom_us at = rhythm->heard_at - rhythm->begin_us / 2; /* of the newest frame, which may continue */
    while (drom_is_due(now - 1, at + over_us)) { /* until the release, which is several periods away */
        at += rhythm->period_us;
    }
    if (!expected->next.is_armed || drom_is_due(expected->next.at, at)) {
        expected->next = (drom_deadline){at, true};
        expected->rhythm = rhythm;
    }
}

void drom_keys_expect(const drom_keys *keys, drom_us now, bool is_quiet, drom_expected *expected)
{
    expected->next.is_armed = false;
    for (uint8_t i = 0; i < drom_keys_plan_of(keys)->handsets.count; i++) {
        const drom_hold *const hold = &drom_keys_plan_of(keys)->holds[i];
        if (hold->state != DROM_KEY_UP) {
            expect(&hold->rhythm, now, is_quiet, expected);
        }
    }
}

/* Shortest silence or leader before a frame. */
static drom_us before_frame_us(const drom_protocol DROM_FLASH *protocol)
{
    const bool leads_once = DROM_WITH_SINGLE_LEADER && (protocol->needs & DROM_USES(SINGLE_LEADER)) != 0;
    return leads_once ? protocol->gap_us : protocol->lead_in_us;
}

/* How long a key counts as down while our transmissions cover its repeats, in units of 65.5 ms. */
enum { LONGEST_COVERED = 6 };

void drom_keys_mute(drom_keys *keys, const drom_air *air)
{
    for (uint8_t i = 0; i < drom_keys_plan_of(keys)->handsets.count; i++) {
        drom_hold *const hold = &drom_keys_plan_of(keys)->holds[i];
        drom_rhythm *const rhythm = &hold->rhythm;
        const uint8_t covered = (uint8_t)((rhythm->clear_at - rhythm->heard_at) >> 16);
        const drom_us known_at =
            rhythm->clear_at + (air->was_quiet ? rhythm->begin_us + DROM_AHEAD_US : rhythm->around_us);
        if (hold->state == DROM_KEY_UP || covered >= LONGEST_COVERED ||
            drom_is_due(air->transmit_from, known_at)) {
            continue; /* its next repeat could have been received and wasn't; or our transmissions don't end
                       */
        }
        const drom_us ready = air->echo.at + before_frame_us(hold->protocol);
        while (drom_is_due(ready, rhythm->clear_at)) {
            rhythm->clear_at += rhythm->period_us;
            rhythm->was_muted = true;
            rhythm->was_covered |= air->is_spare;
        }
        const drom_us over_at = rhythm->clear_at + rhythm->around_us;
        hold->release.at = drom_is_due(hold->release.at, over_at) ? hold->release.at : over_at;
    }
}

drom_wait drom_keys_wait(const drom_keys *keys, drom_us now)
{
    drom_wait wait = DROM_LONG;
    for (uint8_t i = 0; i < drom_keys_plan_of(keys)->handsets.count; i++) {
        wait = drom_shorter(wait, wait_of(keys, i, now));
    }
    return wait;
}
