/* A servo's pulses at its pin. */
#include "support.h"
#include "dromikos/outputs/servo.h"

#include "sim.h"

#include <math.h>

static const drom_servo_settings flag = {.min_us = 1000, .max_us = 2000, .pin = 9};
static drom_servo_state flag_state;
static const drom_output outputs[] = {DROM_SERVO(flag, flag_state)};
static const drom_plan plan = {.outputs = {.outputs = DROM_ROWS(outputs)}};

typedef struct stage {
    sim_bench *bench;
    drom_engine engine;
    uint64_t rose_at_us;
    uint64_t before_us; /* the pulse before it rose */
    unsigned pulses;
    double width_us; /* of the newest */
    double widest_step_us;
} stage;

static void note_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    stage *const in = context;
    if (pin != flag.pin || at_us == 0) {
        return;
    }
    if (is_high) {
        in->before_us = in->rose_at_us;
        in->rose_at_us = at_us;
        return;
    }
    const double width_us = (double)(at_us - in->rose_at_us);
    if (in->before_us != 0 && in->rose_at_us - in->before_us < 30000) {
        in->widest_step_us = fmax(in->widest_step_us, fabs(width_us - in->width_us));
        ck_assert_uint_eq(in->rose_at_us - in->before_us, 20000);
    }
    in->width_us = width_us;
    in->pulses++;
}

static void open_stage(stage *opened)
{
    *opened = (stage){.bench = sim_bench_new(1)};
    sim_bench_start_clock_at(opened->bench, UINT32_C(0xfff00000)); /* the clock wraps after a second */
    sim_bench_observe(opened->bench, &(sim_observer){.context = opened, .pin = note_pin});
    ck_assert_int_eq(drom_engine_init(&opened->engine, &plan, sim_bench_port(opened->bench), NULL), DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
}

static void play_until(stage *in, unsigned ms)
{
    while (sim_bench_now(in->bench) < ms * UINT64_C(1000)) {
        const drom_us wait = drom_engine_poll(&in->engine);
        (void)sim_bench_sleep(in->bench, wait < 500 ? wait : 500);
    }
}

static void order(stage *in, uint8_t verb, uint32_t value)
{
    ck_assert_int_eq(drom_engine_order(&in->engine, 0, verb, value), DROM_OK);
}

TEST(servo_stays_loose_until_it_is_sent_somewhere_and_then_is_there)
{
    stage in;
    open_stage(&in);
    play_until(&in, 500);
    ck_assert_uint_eq(in.pulses, 0);
    order(&in, DROM_SERVO_GO, DROM_SERVO_TO(90, 1000)); /* without a known position: at once */
    play_until(&in, 1500);
    ck_assert_uint_ge(in.pulses, 48);
    ck_assert_double_eq(in.width_us, 1500);
    ck_assert_double_eq(in.widest_step_us, 0);
    sim_bench_free(in.bench);
}

TEST(servo_takes_its_time_and_reports_when_it_is_there)
{
    stage in;
    open_stage(&in);
    order(&in, DROM_SERVO_GO, DROM_SERVO_TO(0, 0));
    play_until(&in, 500);
    order(&in, DROM_SERVO_GO, DROM_SERVO_TO(180, 1000));
    ck_assert(drom_servo.is_busy(&flag_state));
    play_until(&in, 1000);
    ck_assert_double_eq_tol(in.width_us, 1500, 45);
    play_until(&in, 1600);
    ck_assert_double_eq(in.width_us, 2000);
    ck_assert(!drom_servo.is_busy(&flag_state));
    ck_assert_double_le(in.widest_step_us, 21); /* a fiftieth of the way */
    sim_bench_free(in.bench);
}

TEST(servo_ends_the_pulse_that_has_begun)
{
    for (unsigned i = 0; i < 40; i++) {
        stage in;
        open_stage(&in);
        order(&in, DROM_SERVO_GO, DROM_SERVO_TO(45, 0));
        play_until(&in, 200 + i);
        order(&in, DROM_SERVO_OFF, 0);
        play_until(&in, 300);
        const unsigned pulses = in.pulses;
        ck_assert_double_eq(in.width_us, 1250);
        play_until(&in, 600);
        ck_assert_uint_eq(in.pulses, pulses);
        ck_assert(!sim_bench_is_high(in.bench, flag.pin));
        ck_assert(!drom_servo.is_on(&flag_state));
        order(&in, DROM_SERVO_GO, DROM_SERVO_TO(45, 0));
        play_until(&in, 700);
        ck_assert_uint_gt(in.pulses, pulses);
        drom_engine_stop(&in.engine);
        ck_assert(!sim_bench_is_high(in.bench, flag.pin));
        sim_bench_free(in.bench);
    }
}

/* Reads the pulses. */
typedef struct pulses {
    uint64_t rose_us;
    unsigned count;
} pulses;

static void measure_pulse(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    pulses *const seen = context;
    if (pin != flag.pin || at_us == 0) {
        return;
    }
    if (is_high) {
        ck_assert_msg(seen->count == 0 || at_us - seen->rose_us >= 20000, "at %u us: a period of %u us",
                      (unsigned)at_us, (unsigned)(at_us - seen->rose_us));
        seen->rose_us = at_us;
        seen->count++;
    } else {
        const unsigned us = (unsigned)(at_us - seen->rose_us);
        ck_assert_msg(us >= flag.min_us && us <= flag.max_us, "at %u us: a pulse of %u us", (unsigned)at_us,
                      us);
    }
}

/* Orders at any moment, while own code delays main by up to 15 ms. */
TEST(no_pulse_is_too_wide_and_none_comes_too_early_whatever_is_ordered)
{
    stage in;
    pulses seen = {0};
    GRand *const dice = g_rand_new_with_seed(8);
    open_stage(&in);
    sim_bench_set_processor(in.bench, &(sim_processor){.poll_us = 120});
    sim_bench_observe(in.bench, &(sim_observer){.context = &seen, .pin = measure_pulse});
    for (unsigned i = 0; i < 5000; i++) {
        const bool is_off = g_rand_int_range(dice, 0, 3) == 0;
        order(&in, is_off ? DROM_SERVO_OFF : DROM_SERVO_GO,
              DROM_SERVO_TO(g_rand_int_range(dice, 0, 181), g_rand_int_range(dice, 0, 300)));
        play_until(&in, (unsigned)(sim_bench_now(in.bench) / 1000) + (unsigned)g_rand_int_range(dice, 0, 30));
        if (g_rand_int_range(dice, 0, 10) == 0) {
            sim_bench_block(in.bench, g_rand_int_range(dice, 0, 15000));
        }
    }
    ck_assert_uint_gt(seen.count, 1000);
    g_rand_free(dice);
    sim_bench_free(in.bench);
}

TEST(program_that_hangs_leaves_the_pin_low)
{
    for (unsigned i = 0; i < 400; i++) {
        stage in;
        open_stage(&in);
        sim_bench_set_processor(in.bench, &(sim_processor){.poll_us = 120});
        order(&in, DROM_SERVO_GO, DROM_SERVO_TO(90, 0));
        play_until(&in, 100);
        while (sim_bench_now(in.bench) < 100000 + i * UINT64_C(100)) {
            (void)drom_engine_poll(&in.engine);
            (void)sim_bench_sleep(in.bench, 1);
        }
        sim_bench_block(in.bench, 60000);
        ck_assert_msg(!sim_bench_is_high(in.bench, flag.pin), "hung at %u us", 100000 + i * 100);
        sim_bench_free(in.bench);
    }
}

TEST(servo_that_is_turned_off_on_its_way_is_no_longer_busy)
{
    stage in;
    open_stage(&in);
    order(&in, DROM_SERVO_GO, DROM_SERVO_TO(0, 0));
    play_until(&in, 500);
    order(&in, DROM_SERVO_GO, DROM_SERVO_TO(180, 5000));
    play_until(&in, 1000);
    ck_assert(drom_servo.is_busy(&flag_state));
    order(&in, DROM_SERVO_OFF, 0);
    ck_assert(!drom_servo.is_busy(&flag_state));
    sim_bench_free(in.bench);
}

TEST(orders_and_settings_that_no_servo_knows_are_refused)
{
    static const drom_servo_settings wrong[] = {
        {1000, 2000, 20}, {399, 2000, 9}, {1000, 2601, 9}, {1500, 1500, 9}};
    uint8_t item = 0;
    for (size_t i = 0; i < G_N_ELEMENTS(wrong); i++) {
        ck_assert_int_eq(drom_servo.check_settings(&wrong[i], &(drom_port_facts){.pins = 20}, &item),
                         i == 0 ? DROM_REASON_PIN : DROM_REASON_SETTINGS);
    }
    ck_assert(!drom_servo.accepts_action(&flag, DROM_SERVO_GO, DROM_SERVO_TO(181, 0)));
    ck_assert(!drom_servo.accepts_action(&flag, DROM_SERVO_GO, DROM_SERVO_TO(0, DROM_LONGEST_MS + 1)));
    ck_assert(!drom_servo.accepts_action(&flag, DROM_SERVO_BACK + 1, 0));
}

SUITE("servo")
