/* One hold a handset: a hand presses one key of it at a time. Holding is judged by the frames alone (a key
 * that was let go just before the hold time must not count as held), and only the release needs the clock. */
#include "dromikos/keys.h"

void drom_keys_init(drom_keys *keys, const drom_keys_plan DROM_FLASH *plan, drom_key_sink *sink,
                    void *context)
{
    *keys = (drom_keys){.plan = plan, .sink = sink, .context = context, .ditto_owner = DROM_NOBODY};
    for (uint8_t i = 0; i < plan->handsets.count; i++) {
        plan->holds[i] = (drom_hold){0};
    }
}

static void send(const drom_keys *keys, uint8_t handset, drom_gesture gesture, uint8_t hold_row)
{
    const drom_hold *const hold = &keys->plan->holds[handset];
    const drom_key_event event = {
        .held_us = hold->heard_at - hold->pressed_at,
        .handset = handset,
        .key = hold->key,
        .gesture = (uint8_t)gesture,
        .hold = hold_row,
    };
    keys->sink(keys->context, &event);
}

static void release(const drom_keys *keys, uint8_t handset)
{
    drom_hold *const hold = &keys->plan->holds[handset];
    if (hold->is_down) {
        hold->is_down = false;
        hold->release.is_armed = false;
        send(keys, handset, DROM_RELEASE, 0);
    }
}

static void hear(drom_hold *hold, drom_us at)
{
    hold->heard_at = at;
    drom_deadline_arm(&hold->release, at, hold->protocol->release_ms * (drom_us)1000);
}

static void press(const drom_keys *keys, uint8_t handset, uint8_t key, const drom_frame *frame)
{
    drom_hold *const hold = &keys->plan->holds[handset];
    release(keys, handset);
    *hold =
        (drom_hold){.pressed_at = frame->at, .protocol = frame->code.protocol, .key = key, .is_down = true};
    hear(hold, frame->at);
    send(keys, handset, DROM_PRESS, 0);
}

static void repeat(const drom_keys *keys, uint8_t handset, drom_us at)
{
    const drom_keys_plan DROM_FLASH *const plan = keys->plan;
    drom_hold *const hold = &plan->holds[handset];
    hear(hold, at);
    send(keys, handset, DROM_REPEAT, 0);
    while (hold->next_hold < plan->hold_ms.count &&
           at - hold->pressed_at >= plan->hold_ms.rows[hold->next_hold] * (drom_us)1000) {
        send(keys, handset, DROM_HOLD, hold->next_hold++);
    }
}

/* A handset that repeats whole frames sends the next one a period after the last, within its clock's error. A
 * hand that presses twice doesn't: it takes longer than that. */
static bool is_on_beat(const drom_hold *hold, drom_us at)
{
    const drom_us period_us = hold->protocol->period_ms * (drom_us)1000;
    const drom_us slack_us = period_us / 12;
    return (drom_us)(at - hold->heard_at - (period_us - slack_us)) <= 2 * slack_us;
}

/* The row of a code in a handset, or the number of rows when it isn't there. */
static uint8_t find_key(const drom_handset DROM_FLASH *handset, const drom_code *code)
{
    uint8_t key = 0;
    for (; key < handset->codes.count; key++) {
        const drom_code row = handset->codes.rows[key];
        if (drom_code_equal(&row, code)) {
            break;
        }
    }
    return key;
}

static void take_ditto(const drom_keys *keys, const drom_frame *frame)
{
    if (keys->ditto_owner != DROM_NOBODY) {
        const drom_hold *const hold = &keys->plan->holds[keys->ditto_owner];
        if (hold->is_down && hold->protocol == frame->code.protocol) {
            repeat(keys, keys->ditto_owner, frame->at);
        }
    }
}

void drom_keys_frame(drom_keys *keys, const drom_frame *frame)
{
    const drom_keys_plan DROM_FLASH *const plan = keys->plan;
    if (frame->is_ditto) {
        take_ditto(keys, frame);
        return;
    }
    keys->ditto_owner = DROM_NOBODY;
    for (uint8_t i = 0; i < plan->handsets.count; i++) {
        const uint8_t key = find_key(&plan->handsets.rows[i], &frame->code);
        if (key < plan->handsets.rows[i].codes.count) {
            const drom_hold *const hold = &plan->holds[i];
            keys->ditto_owner = i;
            if (hold->is_down && hold->key == key && is_on_beat(hold, frame->at)) {
                repeat(keys, i, frame->at);
            } else {
                press(keys, i, key, frame);
            }
            return;
        }
    }
}

void drom_keys_advance(drom_keys *keys, drom_us now)
{
    for (uint8_t i = 0; i < keys->plan->handsets.count; i++) {
        if (drom_deadline_passed(&keys->plan->holds[i].release, now)) {
            release(keys, i);
        }
    }
}

drom_us drom_keys_wait(const drom_keys *keys, drom_us now)
{
    drom_us wait = DROM_NEVER;
    for (uint8_t i = 0; i < keys->plan->handsets.count; i++) {
        wait = drom_sooner(wait, drom_deadline_wait(&keys->plan->holds[i].release, now));
    }
    return wait;
}
