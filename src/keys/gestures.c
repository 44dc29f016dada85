/* From down, still down and up of a key to its gestures, for keys of handsets and for buttons. Holding is
 * judged by what was reported while the key was down: a key released just before the hold time doesn't count
 * as held. Only repeats by the clock and taps need the time. */
#include "../compiler.h"

#include "gestures.h"

enum {
    USUAL_TAP_MS = 500,
    USUAL_DOUBLE_MS = 350,
    MAX_HOLDS = 3, /* per call; more follow with the next */
};

static drom_us ms(uint16_t value, uint16_t usual)
{
    return (value != 0 ? value : usual) * (drom_us)1000;
}

/* True if one of these gestures is to be reported. */
static bool is_reported(const drom_keys *keys, uint8_t gestures)
{
    const uint8_t wanted = drom_keys_plan_of(keys)->gestures;
    return wanted == 0 || (wanted & gestures) != 0;
}

static drom_press *press_of(const drom_keys *keys, uint8_t handset)
{
    return &drom_keys_plan_of(keys)->holds[handset].press;
}

static void send(const drom_keys *keys, uint8_t handset, drom_gesture gesture, uint8_t key, uint8_t hold_row)
{
    if (!is_reported(keys, (uint8_t)gesture)) {
        return;
    }
    const drom_press *const press = press_of(keys, handset);
    const drom_key_event event = {
        .held_us = press->still_at - press->pressed_at,
        .handset = handset,
        .key = key,
        .gesture = (uint8_t)gesture,
        .hold = hold_row,
    };
    keys->sink(keys->context, &event);
}

static bool knows_double(const drom_keys *keys, uint8_t handset, uint8_t key)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    for (uint8_t i = 0; i < plan->doubles.count; i++) {
        const drom_key_ref known = plan->doubles.rows[i];
        if (known.handset == handset && known.key == key) {
            return true;
        }
    }
    return false;
}

/* Reports a tap that no second tap has followed. */
static void end_tap(const drom_keys *keys, uint8_t handset)
{
    drom_tapped *const tap = &drom_keys_plan_of(keys)->taps[handset];
    tap->until.is_armed = false;
    send(keys, handset, DROM_TAP, tap->key, 0);
}

static void take_tap(const drom_keys *keys, uint8_t handset, drom_us now)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    const uint8_t key = press_of(keys, handset)->key;
    drom_tapped *const tap = plan->doubles.count > 0 ? &plan->taps[handset] : NULL;
    if (tap != NULL && tap->is_second) {
        send(keys, handset, DROM_DOUBLE, key, 0);
    } else if (tap != NULL && knows_double(keys, handset, key)) {
        tap->key = key;
        drom_deadline_arm(&tap->until, now, ms(plan->double_ms, USUAL_DOUBLE_MS));
    } else {
        send(keys, handset, DROM_TAP, key, 0);
    }
}

/* Handles a press as the second half of a double, or as the end of another key's tap. */
static void look_for_double(const drom_keys *keys, uint8_t handset, uint8_t key)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    if (plan->doubles.count == 0) {
        return;
    }
    drom_tapped *const tap = &plan->taps[handset];
    tap->is_second = tap->until.is_armed && tap->key == key;
    if (tap->is_second) {
        tap->until.is_armed = false;
    } else if (tap->until.is_armed) {
        end_tap(keys, handset);
    }
}

void drom_gestures_down(const drom_keys *keys, uint8_t handset, uint8_t key, drom_us at, drom_us still_at)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    drom_press *const press = press_of(keys, handset);
    look_for_double(keys, handset, key);
    press->pressed_at = at;
    press->still_at = still_at;
    press->key = key;
    press->next_hold = 0;
    press->is_down = true;
    send(keys, handset, DROM_PRESS, key, 0);
    if (plan->repeat_after_ms != 0) {
        plan->ticks[handset].every_ms = plan->repeat_every_ms;
        drom_deadline_arm(&plan->ticks[handset].next, at, ms(plan->repeat_after_ms, 0));
    }
}

/* Reports the hold times that have passed. */
static void look_for_holds(const drom_keys *keys, uint8_t handset)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    drom_press *const press = press_of(keys, handset);
    for (uint8_t holds = 0;
         is_reported(keys, DROM_HOLD) && holds < MAX_HOLDS && press->next_hold < plan->hold_ms.count &&
         press->still_at - press->pressed_at >= plan->hold_ms.rows[press->next_hold] * (drom_us)1000;
         holds++) {
        send(keys, handset, DROM_HOLD, press->key, press->next_hold++);
    }
}

/* The key is down at `at`. A press longer than the clock's range stays at the longest time. */
DROM_NOINLINE static void stay_down(drom_press *press, drom_us at)
{
    press->still_at = at;
    if (at - press->pressed_at > DROM_LONGEST_US) {
        press->pressed_at = at - DROM_LONGEST_US;
    }
}

void drom_gestures_still(const drom_keys *keys, uint8_t handset, drom_us at)
{
    drom_press *const press = press_of(keys, handset);
    stay_down(press, at);
    if (drom_keys_plan_of(keys)->repeat_after_ms == 0) {
        send(keys, handset, DROM_REPEAT, press->key, 0);
    }
    look_for_holds(keys, handset);
}

void drom_gestures_held(const drom_keys *keys, uint8_t handset, drom_us at)
{
    stay_down(press_of(keys, handset), at);
    look_for_holds(keys, handset);
}

void drom_gestures_up(const drom_keys *keys, uint8_t handset, drom_us now)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    drom_press *const press = press_of(keys, handset);
    if (plan->repeat_after_ms != 0) {
        plan->ticks[handset].next.is_armed = false;
    }
    if (!press->is_down) {
        return;
    }
    press->is_down = false;
    send(keys, handset, DROM_RELEASE, press->key, 0);
    if (is_reported(keys, DROM_TAP | DROM_DOUBLE) &&
        press->still_at - press->pressed_at < ms(plan->tap_ms, USUAL_TAP_MS)) {
        take_tap(keys, handset, now);
    }
}

/* Repeats by the clock are reported only while the key is known to be down, so that none follows its release.
 */
static void take_tick(const drom_keys *keys, uint8_t handset, drom_us now, bool is_fresh)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    const drom_press *const press = press_of(keys, handset);
    drom_ticking *const tick = &plan->ticks[handset];
    if (press->is_down && is_fresh) {
        send(keys, handset, DROM_REPEAT, press->key, 0);
    }
    drom_deadline_arm(&tick->next, now, ms(tick->every_ms, USUAL_TAP_MS));
    const uint16_t faster_ms = (uint16_t)(tick->every_ms - tick->every_ms / 8);
    if (plan->repeat_fastest_ms != 0) {
        tick->every_ms = faster_ms > plan->repeat_fastest_ms ? faster_ms : plan->repeat_fastest_ms;
    }
}

void drom_gestures_pass(const drom_keys *keys, uint8_t handset, drom_us now, bool is_fresh)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    if (plan->repeat_after_ms != 0 && drom_deadline_passed(&plan->ticks[handset].next, now)) {
        take_tick(keys, handset, now, is_fresh);
    }
}

void drom_gestures_end_tap(const drom_keys *keys, uint8_t handset, drom_us now)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    if (plan->doubles.count > 0 && drom_deadline_passed(&plan->taps[handset].until, now)) {
        end_tap(keys, handset);
    }
}

drom_wait drom_gestures_wait(const drom_keys *keys, uint8_t handset, drom_us now)
{
    const drom_keys_plan DROM_FLASH *const plan = drom_keys_plan_of(keys);
    drom_wait wait = DROM_LONG;
    if (plan->repeat_after_ms != 0) {
        wait = drom_deadline_wait(&plan->ticks[handset].next, now);
    }
    if (plan->doubles.count > 0) {
        wait = drom_shorter(wait, drom_deadline_wait(&plan->taps[handset].until, now));
    }
    return wait;
}
