/* Each key is tapped on a bench of its own, and its gestures are timed. Polls take time, as on the chip.
 * Nothing is wired, so outputs may wait for ever. */
#include "plan/vet/key_delays.h"

#include "plan/model/build.h"

#include "sim.h"

enum {
    FIRST_US = 100000,
    DOWN_US = 60000,
    UP_US = 120000, /* between the taps of two */
    ENOUGH_US = 3000000,
};

static const uint8_t timed[] = {DROM_PRESS, DROM_RELEASE, DROM_TAP, DROM_DOUBLE};

/* When each gesture came; 0: not yet. */
typedef struct gesture_times {
    sim_bench *bench;
    uint64_t at_us[G_N_ELEMENTS(timed)];
} gesture_times;

static void on_key(void *context, const drom_key_event *event)
{
    gesture_times *const times = context;
    for (gsize i = 0; i < G_N_ELEMENTS(timed); i++) {
        if (event->gesture == timed[i] && times->at_us[i] == 0) {
            times->at_us[i] = sim_bench_now(times->bench);
        }
    }
}

/* False if the key can't be pressed: it is known by its fingerprint only. */
static bool press(const plan *loaded, sim_bench *bench, unsigned handset, unsigned key, uint64_t at_us)
{
    const int pin = plan_button_pin(loaded, handset, key);
    if (pin >= 0) {
        sim_bench_touch(bench, (uint8_t)pin, at_us, true);
        sim_bench_touch(bench, (uint8_t)pin, at_us + DOWN_US, false);
        return true;
    }
    const drom_code code = plan_tables(loaded)->keys.handsets.rows[handset].codes.rows[key];
    const sim_press finger = {
        .waveform = plan_waveform(loaded, code.protocol), .code = code, .at_us = at_us, .held_us = DOWN_US};
    return finger.waveform != NULL && sim_bench_press(bench, &finger);
}

/* True if all these gestures have come. */
static bool has_all(const gesture_times *times, uint8_t gestures)
{
    bool has = true;
    for (gsize i = 0; i < G_N_ELEMENTS(timed); i++) {
        has &= (gestures & timed[i]) == 0 || times->at_us[i] != 0;
    }
    return has;
}

/* Taps a key this many times, until these gestures have come, or for ENOUGH_US. Returns the time of the last
 * release, or 0 if it can't be tapped. */
static uint64_t tap(const plan *loaded, unsigned handset, unsigned key, unsigned taps, uint8_t gestures,
                    gesture_times *times)
{
    drom_engine engine;
    const drom_observer observer = {.context = times, .key = on_key};
    sim_bench *const bench = sim_bench_new(1);
    uint64_t up_us = 0;
    *times = (gesture_times){.bench = bench};
    sim_bench_set_processor(bench, &(sim_processor){.pwm_bits = plan_board(loaded)->pwm_bits,
                                                    .poll_us = plan_board(loaded)->poll_us});
    bool is_good = drom_engine_init(&engine, plan_tables(loaded), sim_bench_port(bench), NULL) == DROM_OK;
    sim_bench_wire_engine(bench, &engine);
    for (unsigned i = 0; i < taps && is_good; i++) {
        const uint64_t at_us = FIRST_US + i * (uint64_t)(DOWN_US + UP_US);
        is_good = press(loaded, bench, handset, key, at_us);
        up_us = at_us + DOWN_US;
    }
    if (is_good) {
        drom_engine_observe(&engine, &observer);
    }
    while (is_good && sim_bench_now(bench) < up_us + ENOUGH_US && !has_all(times, gestures)) {
        is_good = sim_bench_sleep(bench, MIN(drom_engine_poll(&engine), ENOUGH_US));
    }
    sim_bench_free(bench);
    return up_us;
}

/* Returns the gestures of a key that rules use. */
static uint8_t gestures_of(const plan *loaded, unsigned handset, unsigned key)
{
    const drom_rules_plan *const rules = &plan_tables(loaded)->rules;
    uint8_t gestures = 0;
    for (uint8_t i = 0; i < rules->rules.count; i++) {
        const drom_rule *const rule = &rules->rules.rows[i];
        if (rule->source == DROM_SOURCE_KEY && rule->row == handset && rule->key == key) {
            gestures |= rule->gestures;
        }
    }
    return gestures;
}

static void add_answers(GArray *answers, const plan *loaded, unsigned handset, unsigned key)
{
    const uint8_t gestures = gestures_of(loaded, handset, key);
    gesture_times once = {0};
    gesture_times twice = {0};
    const uint8_t single = gestures & (DROM_PRESS | DROM_RELEASE | DROM_TAP);
    const bool has_double = (gestures & DROM_DOUBLE) != 0;
    const uint64_t up_us = single != 0 ? tap(loaded, handset, key, 1, single, &once) : 0;
    const uint64_t last_up_us = has_double ? tap(loaded, handset, key, 2, DROM_DOUBLE, &twice) : 0;
    for (gsize i = 0; i < G_N_ELEMENTS(timed); i++) {
        const bool is_double = timed[i] == DROM_DOUBLE;
        const uint64_t at_us = is_double ? twice.at_us[i] : once.at_us[i];
        const uint64_t from_us = timed[i] == DROM_PRESS ? FIRST_US : is_double ? last_up_us : up_us;
        if ((gestures & timed[i]) != 0 && at_us > from_us) {
            const key_delay answer = {handset, key, timed[i], (uint32_t)(at_us - from_us),
                                      has_double && timed[i] == DROM_TAP};
            g_array_append_val(answers, answer);
        }
    }
}

GArray *plan_key_delays(const plan *loaded)
{
    GArray *const answers = g_array_new(FALSE, FALSE, sizeof(key_delay));
    for (unsigned i = 0; i < plan_handset_count(loaded); i++) {
        const unsigned count = plan_tables(loaded)->keys.handsets.rows[i].codes.count;
        for (unsigned key = 0; key < count; key++) {
            add_answers(answers, loaded, i, key);
        }
    }
    return answers;
}
