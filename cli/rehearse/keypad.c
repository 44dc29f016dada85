#include "cli/rehearse/keypad.h"

#include "cli/rehearse/presses.h"
#include "live/page.h"

#include <string.h>

enum { TAP_US = 120000, MS_US = 1000 };

/* A key, behind the part that is shown. */
typedef struct hand_key {
    unsigned handset; /* SCRIPT_A_SWITCH */
    unsigned key;
    int pin;           /* of a button or a switch; -1: a handset's key */
    bool is_pressed;   /* by hand; a script may press it as well */
    uint64_t since_us; /* while it is down */
    uint64_t until_us; /* when it is released; UINT64_MAX: by hand */
    sim_finger finger;
} hand_key;

struct keypad {
    rehearsal *run;
    GArray *keys;      /* of hand_key */
    GArray *shown;     /* of live_key, one each */
    GArray *done;      /* of script_press */
    uint64_t *free_us; /* of each handset: end of its last frame */
    uint64_t moved_us;
    sim_room room;
};

static void clear_key(gpointer data)
{
    g_free(((live_key *)data)->name);
}

static hand_key *key_of(const keypad *these, unsigned i)
{
    return &g_array_index(these->keys, hand_key, i);
}

static live_key *shown_of(const keypad *these, unsigned i)
{
    return &g_array_index(these->shown, live_key, i);
}

static void add_key(keypad *these, unsigned handset, unsigned key)
{
    const plan *const loaded = these->run->plan;
    for (guint i = 0; i < these->keys->len; i++) {
        if (key_of(these, i)->handset == handset && key_of(these, i)->key == key) {
            return;
        }
    }
    const bool is_switch = handset == SCRIPT_A_SWITCH;
    const hand_key made = {.handset = handset,
                           .key = key,
                           .pin = is_switch ? plan_switch_pin(loaded, key)
                                            : plan_button_pin(loaded, handset, key)};
    const live_key shown = {
        .is_switch = is_switch,
        .name = g_strdup(is_switch ? plan_switch_name(loaded, key) : plan_key_name(loaded, handset, key))};
    g_array_append_val(these->keys, made);
    g_array_append_val(these->shown, shown);
}

static void add_keys(keypad *these)
{
    const plan *const loaded = these->run->plan;
    const drom_rules_plan *const rules = &plan_tables(loaded)->rules;
    GArray *const presses = presses_of_rules(loaded);
    for (guint i = 0; i < presses->len; i++) {
        const script_press *const press = &g_array_index(presses, script_press, i);
        add_key(these, press->handset, press->key);
    }
    g_array_unref(presses);
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        const drom_rule *const rule = &rules->rules.rows[i];
        const bool is_any = rule->source == DROM_SOURCE_KEY && rule->key == DROM_ANY_OTHER_KEY;
        const unsigned count = is_any ? plan_tables(loaded)->keys.handsets.rows[rule->row].codes.count : 0;
        for (unsigned key = 0; key < count; key++) {
            add_key(these, rule->row, key);
        }
    }
    for (unsigned i = 0; i < plan_switch_count(loaded); i++) {
        add_key(these, SCRIPT_A_SWITCH, i);
    }
}

/* If two keys have the same name, the handset's precedes it. */
static void part_names(keypad *these)
{
    for (guint i = 0; i < these->shown->len; i++) {
        bool is_shared = false;
        for (guint j = 0; j < these->shown->len; j++) {
            const char *const other =
                these->keys->len > j && key_of(these, j)->handset != SCRIPT_A_SWITCH
                    ? plan_key_name(these->run->plan, key_of(these, j)->handset, key_of(these, j)->key)
                    : shown_of(these, j)->name;
            is_shared |= j != i && strcmp(shown_of(these, i)->name, other) == 0;
        }
        const hand_key *const key = key_of(these, i);
        if (is_shared && key->handset != SCRIPT_A_SWITCH) {
            char *const longer = g_strdup_printf("%s.%s", plan_handset_name(these->run->plan, key->handset),
                                                 plan_key_name(these->run->plan, key->handset, key->key));
            g_free(shown_of(these, i)->name);
            shown_of(these, i)->name = longer;
        }
    }
}

/* Chooses a letter of its name if one is free, else the first that is: letters can be held, digits can't. */
static void give_letters(keypad *these)
{
    static const char all[] = "abcdefghijklmnopqrstuvwxyz0123456789";
    for (guint i = 0; i < these->shown->len; i++) {
        g_autofree char *wishes = g_strconcat(shown_of(these, i)->name, all, NULL);
        for (const char *wish = wishes; *wish != '\0' && shown_of(these, i)->letter == '\0'; wish++) {
            const char letter = g_ascii_tolower(*wish);
            if (strchr(all, letter) != NULL && keypad_find(these, letter) < 0) {
                shown_of(these, i)->letter = letter;
            }
        }
    }
}

keypad *keypad_new(rehearsal *run)
{
    keypad *const made = g_new0(keypad, 1);
    made->run = run;
    made->keys = g_array_new(FALSE, TRUE, sizeof(hand_key));
    made->shown = g_array_new(FALSE, TRUE, sizeof(live_key));
    made->done = g_array_new(FALSE, TRUE, sizeof(script_press));
    made->free_us = g_new0(uint64_t, plan_handset_count(run->plan) + 1);
    g_array_set_clear_func(made->shown, clear_key);
    add_keys(made);
    part_names(made);
    give_letters(made);
    return made;
}

void keypad_free(keypad *unwanted)
{
    g_array_unref(unwanted->keys);
    g_array_unref(unwanted->shown);
    g_array_unref(unwanted->done);
    g_free(unwanted->free_us);
    g_free(unwanted);
}

GArray *keypad_keys(const keypad *these)
{
    return these->shown;
}

const GArray *keypad_done(const keypad *these)
{
    return these->done;
}

int keypad_find(const keypad *these, char letter)
{
    for (guint i = 0; i < these->shown->len; i++) {
        if (shown_of(these, i)->letter == letter) {
            return (int)i;
        }
    }
    return -1;
}

bool keypad_has(const keypad *these, unsigned key, const script_press *press)
{
    return key_of(these, key)->handset == press->handset && key_of(these, key)->key == press->key;
}

void keypad_go(keypad *these, const sim_place *there)
{
    these->room = sim_room_of(there);
}

bool keypad_is_still(const keypad *these, uint64_t for_us)
{
    bool are_still = sim_bench_now(these->run->bench) >= these->moved_us + for_us;
    for (guint i = 0; i < these->shown->len; i++) {
        are_still &= !key_of(these, i)->is_pressed;
    }
    return are_still;
}

/* Scripts count in ms: presses by hand begin and end at whole ones. */
static uint64_t whole_ms(uint64_t us)
{
    return (us + MS_US - 1) / MS_US * MS_US;
}

static void note(keypad *these, const hand_key *key, uint64_t until_us, bool closes)
{
    const script_press press = {.at_ms = (uint32_t)(key->since_us / MS_US),
                                .held_ms = (uint32_t)((until_us - key->since_us) / MS_US),
                                .handset = key->handset,
                                .key = key->key,
                                .closes = closes};
    g_array_append_val(these->done, press);
    these->moved_us = until_us;
}

static void turn_switch(keypad *these, unsigned i)
{
    hand_key *const key = key_of(these, i);
    live_key *const shown = shown_of(these, i);
    shown->is_down = !shown->is_down;
    key->since_us = whole_ms(sim_bench_now(these->run->bench));
    sim_bench_touch(these->run->bench, (uint8_t)key->pin, key->since_us, shown->is_down);
    note(these, key, key->since_us, shown->is_down);
}

static void lift_at(keypad *these, unsigned i, uint64_t at_us)
{
    hand_key *const key = key_of(these, i);
    const uint64_t until_us = MAX(at_us, key->since_us);
    if (!key->is_pressed) {
        return;
    }
    key->is_pressed = false;
    shown_of(these, i)->is_down = false;
    shown_of(these, i)->stays_down = false;
    if (key->pin >= 0) {
        sim_bench_touch(these->run->bench, (uint8_t)key->pin, until_us, false);
    } else {
        sim_finger_hold(these->run->bench, &key->finger, until_us);
        sim_finger_lift(these->run->bench, &key->finger);
        these->free_us[key->handset] = (uint64_t)key->finger.next_us;
    }
    note(these, key, until_us, false);
}

/* One key of a handset at a time. */
static void lift_others(keypad *these, unsigned i)
{
    for (guint j = 0; j < these->keys->len; j++) {
        if (key_of(these, j)->handset == key_of(these, i)->handset && key_of(these, i)->pin < 0) {
            lift_at(these, j, whole_ms(sim_bench_now(these->run->bench)));
        }
    }
}

static void press_until(keypad *these, unsigned i, uint64_t for_us)
{
    hand_key *const key = key_of(these, i);
    lift_others(these, i);
    key->since_us = whole_ms(sim_bench_now(these->run->bench));
    if (key->pin >= 0) {
        sim_bench_touch(these->run->bench, (uint8_t)key->pin, key->since_us, true);
    } else {
        const drom_code code =
            plan_tables(these->run->plan)->keys.handsets.rows[key->handset].codes.rows[key->key];
        key->since_us = MAX(key->since_us, whole_ms(these->free_us[key->handset]));
        const sim_press press = {.waveform = plan_waveform(these->run->plan, code.protocol),
                                 .code = code,
                                 .at_us = key->since_us,
                                 .room = these->room};
        if (press.waveform == NULL || !sim_finger_begin(these->run->bench, &key->finger, &press)) {
            return; /* a fingerprint can't be sent */
        }
    }
    key->until_us = for_us < UINT64_MAX ? key->since_us + for_us : UINT64_MAX;
    key->is_pressed = true;
    shown_of(these, i)->is_down = true;
}

void keypad_tap(keypad *these, unsigned key)
{
    if (shown_of(these, key)->is_switch) {
        turn_switch(these, key);
    } else if (shown_of(these, key)->stays_down) {
        keypad_release(these, key);
    } else if (!shown_of(these, key)->is_down) {
        press_until(these, key, TAP_US);
    }
}

void keypad_press(keypad *these, unsigned key)
{
    if (shown_of(these, key)->is_switch || shown_of(these, key)->stays_down) {
        keypad_tap(these, key);
    } else {
        lift_at(these, key, whole_ms(sim_bench_now(these->run->bench)));
        press_until(these, key, UINT64_MAX);
        shown_of(these, key)->stays_down = shown_of(these, key)->is_down;
    }
}

void keypad_release(keypad *these, unsigned key)
{
    if (!shown_of(these, key)->is_switch) {
        lift_at(these, key, whole_ms(sim_bench_now(these->run->bench)));
    }
}

void keypad_pass(keypad *these, uint64_t until_us)
{
    for (guint i = 0; i < these->keys->len; i++) {
        hand_key *const key = key_of(these, i);
        if (!key->is_pressed) {
            continue;
        }
        if (key->until_us <= until_us) {
            lift_at(these, i, key->until_us);
        } else if (key->pin < 0) {
            key->finger.press.room = these->room;
            sim_finger_hold(these->run->bench, &key->finger, until_us);
        }
    }
}
