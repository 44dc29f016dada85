/* Outputs of which only one may be on. */
#include "support.h"
#include "dromikos/outputs/drive.h"
#include "dromikos/outputs/motor.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/internal/outputs.h"

#include "random.h"
#include "sim.h"

#include <string.h>

enum { SPOT, FLOOD, FAN, BELL, OUTPUTS };

enum { PAUSE_MS = 200 };

static const drom_relay_settings spot = {.pin = 4, .min_on_ms = 500};
static const drom_relay_settings flood = {.pin = 7, .is_active_low = true, .min_off_ms = 300};
static const drom_motor_settings fan = {.ramp_ms = 400,
                                        .dead_ms = 1,
                                        .forward_pin = DROM_NONE,
                                        .back_pin = DROM_NONE,
                                        .speed_pin = 5,
                                        .slowest = 1,
                                        .fastest = DROM_FULL_LEVEL};
static const drom_relay_settings bell = {.pin = 8};
static drom_relay_state spot_state, flood_state, bell_state;
static drom_motor_state fan_state;
static const drom_output outputs[] = {DROM_RELAY(spot, spot_state), DROM_RELAY(flood, flood_state),
                                      DROM_MOTOR(fan, fan_state), DROM_RELAY(bell, bell_state)};
static const uint8_t lights[] = {SPOT, FLOOD, FAN};
static drom_interlock_state lights_state;
static const drom_interlock interlocks[] = {{DROM_ROWS(lights), PAUSE_MS, &lights_state}};
static const drom_plan plan = {
    .outputs = {.outputs = DROM_ROWS(outputs), .interlocks = DROM_ROWS(interlocks)}};

typedef struct stage {
    sim_bench *bench;
    drom_engine engine;
} stage;

static void open_stage(stage *opened)
{
    *opened = (stage){.bench = sim_bench_new(1)};
    lights_state = (drom_interlock_state){0};
    sim_bench_start_clock_at(opened->bench, UINT32_C(0xfff00000)); /* the clock wraps after a second */
    ck_assert_int_eq(drom_engine_init(&opened->engine, &plan, sim_bench_port(opened->bench), NULL), DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
}

static bool is_driven(uint8_t row)
{
    return outputs[row].kind->is_driven(outputs[row].state);
}

static void play_until(stage *in, unsigned ms)
{
    while (sim_bench_now(in->bench) < ms * UINT64_C(1000)) {
        const drom_us wait = drom_engine_poll(&in->engine);
        (void)sim_bench_sleep(in->bench, wait < 1000 ? wait : 1000);
        ck_assert_int_le(is_driven(SPOT) + is_driven(FLOOD) + is_driven(FAN), 1);
    }
}

static void order(stage *in, unsigned ms, uint8_t row, uint8_t verb, uint32_t value)
{
    play_until(in, ms);
    ck_assert_int_eq(drom_engine_order(&in->engine, row, verb, value), DROM_OK);
}

#define ASSERT_ON(ms, a, b, c)                                                                               \
    do {                                                                                                     \
        play_until(&in, ms);                                                                                 \
        ck_assert_int_eq(is_driven(SPOT), a);                                                                \
        ck_assert_int_eq(is_driven(FLOOD), b);                                                               \
        ck_assert_int_eq(is_driven(FAN), c);                                                                 \
    } while (0)

TEST(newest_order_wins_once_the_others_are_off_and_the_pause_is_over)
{
    stage in;
    open_stage(&in);
    order(&in, 1000, SPOT, DROM_RELAY_ON, 0);
    ASSERT_ON(1001, 1, 0, 0);
    order(&in, 1100, FLOOD, DROM_RELAY_ON, 0);
    ASSERT_ON(1490, 1, 0, 0); /* its minimum time */
    ASSERT_ON(1690, 0, 0, 0); /* the pause */
    ASSERT_ON(1710, 0, 1, 0);
    order(&in, 2000, FAN, DROM_MOTOR_RUN, DROM_MOTOR_AT(DROM_FULL_LEVEL));
    ASSERT_ON(2190, 0, 0, 0);
    ASSERT_ON(2220, 0, 0, 1);
    order(&in, 3000, SPOT, DROM_RELAY_ON, 0);
    order(&in, 3010, FLOOD, DROM_RELAY_ON, 0); /* another order during the fan's ramp */
    ASSERT_ON(3300, 0, 0, 1);
    ASSERT_ON(3700, 0, 1, 0);
    ASSERT_ON(5000, 0, 1, 0);
    sim_bench_free(in.bench);
}

TEST(chip_sleeps_while_one_waits_for_its_least_time)
{
    enum { LONG_US = 10000 };
    stage in;
    open_stage(&in);
    order(&in, 1000, FLOOD, DROM_RELAY_ON, 0);
    order(&in, 1500, FLOOD, DROM_RELAY_OFF, 0);
    order(&in, 1510, FLOOD, DROM_RELAY_ON, 0);
    play_until(&in, 1520);
    drom_us wait = 0;
    for (unsigned polls = 0; wait == 0 && polls < 100; polls++) {
        wait = drom_engine_poll(&in.engine);
    }
    ck_assert_uint_ge(wait, LONG_US);
    ASSERT_ON(1790, 0, 0, 0);
    ASSERT_ON(1810, 0, 1, 0);
    sim_bench_free(in.bench);
}

TEST(order_that_is_taken_back_never_comes_on_and_nothing_is_restored)
{
    stage in;
    open_stage(&in);
    order(&in, 1000, SPOT, DROM_RELAY_ON, 0);
    order(&in, 1100, FLOOD, DROM_RELAY_ON, 0);
    order(&in, 1200, FLOOD, DROM_RELAY_OFF, 0);
    ASSERT_ON(5000, 0, 0, 0);
    order(&in, 5000, SPOT, DROM_RELAY_ON, 0);
    order(&in, 5100, FLOOD, DROM_RELAY_TOGGLE, 0);
    order(&in, 5200, FLOOD, DROM_RELAY_TOGGLE, 0);
    ASSERT_ON(9000, 0, 0, 0);
    sim_bench_free(in.bench);
}

TEST(pause_runs_from_the_start_too_however_long_ago_the_stop_was)
{
    stage in;
    open_stage(&in);
    order(&in, 10, SPOT, DROM_RELAY_ON, 0); /* another output may have been on just before */
    ASSERT_ON(190, 0, 0, 0);
    ASSERT_ON(210, 1, 0, 0);
    drom_engine_stop(&in.engine);
    sim_bench_block(in.bench, 40 * 60e6); /* more than half of the clock's range */
    const unsigned ms = (unsigned)(sim_bench_now(in.bench) / 1000);
    ck_assert_int_eq(drom_engine_init(&in.engine, &plan, sim_bench_port(in.bench), NULL), DROM_OK);
    order(&in, ms + 400, FLOOD, DROM_RELAY_ON, 0);
    ASSERT_ON(ms + 402, 0, 1, 0);
    sim_bench_free(in.bench);
}

TEST(pulse_is_as_long_as_ever_and_the_same_output_needs_no_pause)
{
    stage in;
    open_stage(&in);
    order(&in, 1000, SPOT, DROM_RELAY_ON, 0);
    order(&in, 1800, FLOOD, DROM_RELAY_PULSE, 400);
    ASSERT_ON(1990, 0, 0, 0);
    ASSERT_ON(2020, 0, 1, 0);
    ASSERT_ON(2380, 0, 1, 0);
    ASSERT_ON(2420, 0, 0, 0);
    order(&in, 2450, SPOT, DROM_RELAY_ON, 0); /* a pulse that ended by itself counts, too */
    ASSERT_ON(2590, 0, 0, 0);
    ASSERT_ON(2620, 1, 0, 0);
    order(&in, 3300, SPOT, DROM_RELAY_OFF, 0);
    order(&in, 3310, SPOT, DROM_RELAY_ON, 0);
    ASSERT_ON(3312, 1, 0, 0);
    order(&in, 4000, BELL, DROM_RELAY_ON, 0); /* which is in no such list */
    ASSERT_ON(4001, 1, 0, 0);
    ck_assert(is_driven(BELL));
    drom_engine_stop(&in.engine);
    ck_assert(!is_driven(SPOT) && !is_driven(BELL));
    sim_bench_free(in.bench);
}

TEST(two_are_never_on_whatever_is_ordered)
{
    enum { ORDERS = 6000 };
    static const uint8_t relay_verbs = DROM_RELAY_PULSE + 1;
    static const uint8_t motor_verbs = DROM_MOTOR_TOGGLE + 1;
    stage in;
    sim_random random = {5};
    unsigned driven[OUTPUTS] = {0};
    double ms = 100;
    open_stage(&in);
    for (unsigned i = 0; i < ORDERS; i++) {
        const uint8_t row = (uint8_t)(sim_random_next(&random) % OUTPUTS);
        const uint8_t verb = (uint8_t)(sim_random_next(&random) % (row == FAN ? motor_verbs : relay_verbs));
        const uint32_t value = (uint32_t)(1 + sim_random_next(&random) % DROM_FULL_LEVEL);
        ms += sim_random_between(&random, 0, 2) < 1 ? 0 : sim_random_between(&random, 0, 600);
        play_until(&in, (unsigned)ms);
        if (outputs[row].kind->accepts_action(outputs[row].settings, verb, value)) {
            ck_assert_int_eq(drom_engine_order(&in.engine, row, verb, value), DROM_OK);
        }
        for (uint8_t j = 0; j < OUTPUTS; j++) {
            driven[j] += is_driven(j);
        }
    }
    ck_assert(driven[SPOT] > ORDERS / 20 && driven[FLOOD] > ORDERS / 20 && driven[FAN] > ORDERS / 20);
    sim_bench_free(in.bench);
}

/* A lamp that rests on beside a motor, in both orders of the rows. */
static const drom_relay_settings glow = {.pin = 4, .min_on_ms = 700, .min_off_ms = 900, .rests_on = true};
static const drom_motor_settings winch = {.ramp_ms = 100,
                                          .dead_ms = 20,
                                          .forward_pin = 7,
                                          .back_pin = 12,
                                          .speed_pin = 5,
                                          .slowest = 1,
                                          .fastest = DROM_FULL_LEVEL};
static drom_relay_state glow_state;
static drom_motor_state winch_state;
static const drom_output lamp_first[] = {DROM_RELAY(glow, glow_state), DROM_MOTOR(winch, winch_state)};
static const drom_output motor_first[] = {DROM_MOTOR(winch, winch_state), DROM_RELAY(glow, glow_state)};
static const uint8_t both[] = {0, 1};
static const drom_interlock of_both[] = {{DROM_ROWS(both), PAUSE_MS, &lights_state}};
static const drom_rest_pin guarded[] = {{7, false}, {12, false}, {5, false}};
static const drom_plan pairs[] = {
    {.outputs = {.outputs = DROM_ROWS(lamp_first), .interlocks = DROM_ROWS(of_both)},
     .guard = {.pins = DROM_ROWS(guarded), .ms = 250}},
    {.outputs = {.outputs = DROM_ROWS(motor_first), .interlocks = DROM_ROWS(of_both)},
     .guard = {.pins = DROM_ROWS(guarded), .ms = 250}},
};

/* The times at which each was driven, from its pins. */
typedef struct seen_pair {
    uint64_t lamp_on_us;
    uint64_t lamp_off_us;
    uint64_t motor_off_us;
} seen_pair;

static void see_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    seen_pair *const seen = context;
    if (pin == glow.pin) {
        *(is_high ? &seen->lamp_on_us : &seen->lamp_off_us) = at_us;
    } else if (pin == winch.forward_pin && !is_high) {
        seen->motor_off_us = at_us;
    }
}

static void open_pair(stage *opened, size_t row, seen_pair *seen)
{
    *opened = (stage){.bench = sim_bench_new(1)};
    *seen = (seen_pair){0};
    memset(&glow_state, 1, sizeof glow_state); /* its state before isn't known */
    sim_bench_set_processor(opened->bench, &(sim_processor){.call_us = 20});
    sim_bench_observe(opened->bench, &(sim_observer){.context = seen, .pin = see_pin});
    ck_assert_int_eq(drom_engine_init(&opened->engine, &pairs[row], sim_bench_port(opened->bench), NULL),
                     DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
}

static void play_pair(stage *in, unsigned ms)
{
    const uint64_t until_us = sim_bench_now(in->bench) + ms * UINT64_C(1000);
    while (sim_bench_now(in->bench) < until_us) {
        const drom_us wait = drom_engine_poll(&in->engine);
        (void)sim_bench_sleep(in->bench, wait < 1000 ? wait : 1000);
        ck_assert(glow_state.is_on + (winch_state.speed != 0) <= 1);
    }
}

TEST(what_rests_on_waits_for_the_others_and_the_pause_at_start_stop_and_fault)
{
    for (size_t i = 0; i < G_N_ELEMENTS(pairs); i++) {
        for (int is_fault = 0; is_fault <= 1; is_fault++) {
            stage in;
            seen_pair seen;
            open_pair(&in, i, &seen);
            play_pair(&in, PAUSE_MS - 20);
            ck_assert(!glow_state.is_on);
            play_pair(&in, 40);
            ck_assert(glow_state.is_on);
            play_pair(&in, 1000);
            ck_assert_int_eq(drom_engine_order(&in.engine, (uint8_t)(1 - i), DROM_MOTOR_RUN, DROM_FULL_LEVEL),
                             DROM_OK);
            play_pair(&in, 1000);
            ck_assert_int_eq(winch_state.speed, DROM_FULL_LEVEL);
            if (is_fault) {
                sim_bench_block(in.bench, 400e3);
                play_pair(&in, 1);
            } else {
                drom_engine_stop(&in.engine);
            }
            ck_assert_int_eq(in.engine.state, DROM_STOPPING);
            ck_assert(winch_state.speed == 0 && !glow_state.is_on);
            play_pair(&in, PAUSE_MS + 100);
            ck_assert_int_eq(in.engine.state, is_fault ? DROM_FAULT : DROM_STOPPED);
            ck_assert(glow_state.is_on);
            ck_assert_uint_ge(seen.lamp_on_us, seen.motor_off_us + PAUSE_MS * 1000);
            sim_bench_free(in.bench);
        }
    }
}

TEST(stop_is_over_once_what_rests_on_is_on)
{
    stage in;
    seen_pair seen;
    open_pair(&in, 0, &seen);
    play_pair(&in, 2000);
    ck_assert_int_eq(drom_engine_order(&in.engine, 1, DROM_MOTOR_RUN, DROM_FULL_LEVEL), DROM_OK);
    play_pair(&in, 1000);
    drom_engine_stop(&in.engine);
    const uint64_t stopped_us = sim_bench_now(in.bench);
    while (in.engine.state == DROM_STOPPING) {
        const drom_wait wait = drom_engine_poll(&in.engine);
        ck_assert(!glow_state.is_on || in.engine.state == DROM_STOPPED || wait == 0);
        (void)sim_bench_sleep(in.bench, wait);
    }
    ck_assert(glow_state.is_on && in.engine.state == DROM_STOPPED);
    ck_assert_uint_le(sim_bench_now(in.bench), stopped_us + (PAUSE_MS + 10) * 1000);
    sim_bench_free(in.bench);
}

TEST(what_rests_on_and_is_on_stays_on_at_a_stop)
{
    stage in;
    seen_pair seen;
    open_pair(&in, 0, &seen);
    play_pair(&in, 2000);
    const uint64_t on_us = seen.lamp_on_us;
    drom_engine_stop(&in.engine);
    ck_assert_int_eq(in.engine.state, DROM_STOPPED);
    ck_assert(glow_state.is_on && seen.lamp_on_us == on_us && seen.lamp_off_us < on_us);
    sim_bench_free(in.bench);
}

TEST(order_that_waits_may_be_changed_and_isnt_taken_back_by_that)
{
    enum { WINCH = 1 };
    static const struct {
        uint8_t verb;
        uint32_t value;
        int16_t speed;
    } rows[] = {{DROM_MOTOR_REVERSE, 0, -120}, {DROM_MOTOR_BACK, 0, -120},  {DROM_MOTOR_FORWARD, 0, 120},
                {DROM_MOTOR_FASTER, 50, 170},  {DROM_MOTOR_SLOWER, 50, 70}, {DROM_MOTOR_RESUME, 0, 120},
                {DROM_MOTOR_TOGGLE, 0, 0},     {DROM_MOTOR_STOP, 0, 0}};
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        stage in;
        seen_pair seen;
        open_pair(&in, 0, &seen);
        play_pair(&in, 2000);
        ck_assert_int_eq(drom_engine_order(&in.engine, WINCH, DROM_MOTOR_RUN, 120), DROM_OK);
        play_pair(&in, 50);
        ck_assert(winch_state.speed == 0 && drom_motor.is_busy(&winch_state));
        ck_assert(drom_outputs_keep_back(&pairs[0].outputs, WINCH));
        ck_assert_int_eq(drom_engine_order(&in.engine, WINCH, rows[i].verb, rows[i].value), DROM_OK);
        play_pair(&in, 1000);
        ck_assert_int_eq(winch_state.speed, rows[i].speed);
        ck_assert(!drom_outputs_keep_back(&pairs[0].outputs, WINCH));
        sim_bench_free(in.bench);
    }
}

static void assert_refused(const drom_interlock *wrong, drom_reason reason)
{
    const drom_plan only = {.outputs = {.outputs = DROM_ROWS(outputs), .interlocks = {wrong, 2}}};
    const drom_port_facts facts = {.pins = 20};
    drom_fault fault;
    ck_assert_int_eq(drom_plan_check(&only, &facts, &fault), DROM_BAD_PLAN);
    ck_assert_int_eq(fault.part, DROM_PART_INTERLOCKS);
    ck_assert_int_eq(fault.reason, reason);
    ck_assert_uint_eq(fault.row, wrong == NULL ? 0 : 1);
}

TEST(tables_that_interlock_nothing_are_refused)
{
    static const uint8_t far[] = {BELL, OUTPUTS};
    static const uint8_t twice[] = {BELL, SPOT};
    static const uint8_t many[DROM_INTERLOCKED + 1] = {BELL};
    const drom_interlock good = {DROM_ROWS(lights), PAUSE_MS, &lights_state};
    assert_refused(NULL, DROM_REASON_NULL);
    assert_refused((drom_interlock[]){good, {{NULL, 2}, 0, &lights_state}}, DROM_REASON_NULL);
    assert_refused((drom_interlock[]){good, {DROM_ROWS(far), 0, NULL}}, DROM_REASON_NULL);
    assert_refused((drom_interlock[]){good, {DROM_ROWS(far), 0, &lights_state}}, DROM_REASON_NO_OUTPUT);
    assert_refused((drom_interlock[]){good, {DROM_ROWS(many), 0, &lights_state}}, DROM_REASON_LIMITS);
    assert_refused((drom_interlock[]){good, {DROM_ROWS(twice), 0, &lights_state}}, DROM_REASON_NO_OUTPUT);
}

TEST(motor_that_a_drive_orders_past_the_interlock_is_refused)
{
    static drom_motor_state other_state;
    static drom_drive_state wagon_state;
    const drom_drive_settings wagon = {{&winch, &other_state}, {&winch, &winch_state}};
    const drom_output rows[] = {DROM_RELAY(glow, glow_state), DROM_MOTOR(winch, winch_state),
                                DROM_MOTOR(winch, other_state), DROM_DRIVE(wagon, wagon_state)};
    drom_plan only = {.outputs = {.outputs = DROM_ROWS(rows), .interlocks = DROM_ROWS(of_both)}};
    const drom_port_facts facts = {.pins = 20};
    drom_fault fault;
    ck_assert_int_eq(drom_plan_check(&only, &facts, &fault), DROM_BAD_PLAN);
    ck_assert(fault.part == DROM_PART_INTERLOCKS && fault.row == 0 && fault.item == 1 &&
              fault.reason == DROM_REASON_VERB);
    only.outputs.outputs.count--;
    ck_assert_int_eq(drom_plan_check(&only, &facts, &fault), DROM_OK);
}

SUITE("interlock")
