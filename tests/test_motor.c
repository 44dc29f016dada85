/* Motors behind their bridges on the bench, which reports the states that destroy a bridge. */
#include "support.h"
#include "dromikos/outputs/drive.h"
#include "dromikos/outputs/motor.h"

#include "random.h"
#include "sim.h"

#include <math.h>

enum { CURTAIN, ASIDE, FAN, WAGON, OUTPUTS };

enum { DEAD_MS = 50, CURTAIN_MS = 3000 };

static bool switches[2];
enum { TOP, BOTTOM };

static const drom_motor_settings curtain = {.ramp_ms = 400,
                                            .max_ms = CURTAIN_MS,
                                            .stops_forward = &switches[TOP],
                                            .stops_back = &switches[BOTTOM],
                                            .dead_ms = DEAD_MS,
                                            .forward_pin = 7,
                                            .back_pin = 12,
                                            .speed_pin = 5,
                                            .slowest = 26,
                                            .fastest = 160};
static const drom_motor_settings aside = {.ramp_ms = 0,
                                          .dead_ms = DEAD_MS,
                                          .forward_pin = 9,
                                          .back_pin = 10,
                                          .speed_pin = DROM_NONE,
                                          .slowest = 1,
                                          .fastest = DROM_FULL_LEVEL};
static const drom_motor_settings fan = {.ramp_ms = 20000,
                                        .dead_ms = 1,
                                        .forward_pin = DROM_NONE,
                                        .back_pin = DROM_NONE,
                                        .speed_pin = 6,
                                        .slowest = 1,
                                        .fastest = DROM_FULL_LEVEL};
static drom_motor_state curtain_state, aside_state, fan_state;
static const drom_drive_settings wagon = {{&curtain, &curtain_state}, {&aside, &aside_state}};
static drom_drive_state wagon_state;
static const drom_output outputs[] = {DROM_MOTOR(curtain, curtain_state), DROM_MOTOR(aside, aside_state),
                                      DROM_MOTOR(fan, fan_state), DROM_DRIVE(wagon, wagon_state)};
static const drom_rest_pin guarded[] = {{7, false}, {12, false}, {5, false},
                                        {9, false}, {10, false}, {6, false}};
static const drom_plan plan = {.outputs = {.outputs = DROM_ROWS(outputs)},
                               .guard = {.pins = DROM_ROWS(guarded), .ms = 250}};

typedef struct stage {
    sim_bench *bench;
    drom_engine engine;
    sim_motor *curtain;
    sim_motor *aside;
    sim_motor *fan;
} stage;

static void open_stage(stage *opened)
{
    *opened = (stage){.bench = sim_bench_new(1)};
    switches[TOP] = switches[BOTTOM] = false;
    sim_bench_start_clock_at(opened->bench, UINT32_C(0xfff00000)); /* the clock wraps after a second */
    opened->curtain = sim_bench_wire_motor(opened->bench, 7, 12, 5);
    opened->aside = sim_bench_wire_motor(opened->bench, 9, 10, SIM_NO_PIN);
    opened->fan = sim_bench_wire_motor(opened->bench, SIM_NO_PIN, SIM_NO_PIN, 6);
    ck_assert_int_eq(drom_engine_init(&opened->engine, &plan, sim_bench_port(opened->bench), NULL), DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
}

static void play_until(stage *in, unsigned ms)
{
    while (sim_bench_now(in->bench) < ms * UINT64_C(1000)) {
        const drom_us wait = drom_engine_poll(&in->engine);
        (void)sim_bench_sleep(in->bench, wait < 1000 ? wait : 1000);
    }
}

static void order(stage *in, unsigned ms, uint8_t row, uint8_t verb, uint32_t value)
{
    play_until(in, ms);
    ck_assert_int_eq(drom_engine_order(&in->engine, row, verb, value), DROM_OK);
}

#define ASSERT_SPEEDS(ms, a, b)                                                                              \
    do {                                                                                                     \
        play_until(&in, ms);                                                                                 \
        ck_assert_int_eq(curtain_state.speed, a);                                                            \
        ck_assert_int_eq(aside_state.speed, b);                                                              \
    } while (0)

TEST(motor_runs_up_by_its_ramp_and_turns_round_after_a_pause)
{
    stage in;
    open_stage(&in);
    order(&in, 300, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_AT(150));
    ASSERT_SPEEDS(451, 80, 0); /* 5 of 200 each 10 ms */
    ASSERT_SPEEDS(581, 145, 0);
    ASSERT_SPEEDS(700, 150, 0);
    ck_assert_uint_eq(sim_bench_duty(in.bench, 5), 150 * 327);
    order(&in, 1000, CURTAIN, DROM_MOTOR_REVERSE, 0);
    ASSERT_SPEEDS(1300, 0, 0); /* 30 steps, and the pause */
    ASSERT_SPEEDS(2000, -150, 0);
    const sim_motion motion = sim_motor_motion(in.curtain);
    ck_assert_double_ge(motion.nearest_us, DEAD_MS * 1000);
    ck_assert_double_le(motion.nearest_us, DEAD_MS * 1000 + 11000);
    ck_assert_uint_eq(motion.shorts, 0);
    ck_assert_double_lt(motion.speed, -0.7);
    ck_assert_double_lt(motion.max_ma, 900); /* the ramp avoids the 2 A of a blocked motor */
    order(&in, 2000, CURTAIN, DROM_MOTOR_STOP, 0);
    ASSERT_SPEEDS(2400, 0, 0);
    sim_bench_free(in.bench);
}

/* Own code or a strip that delays main's polls makes its steps uneven, but the ramp isn't longer. */
TEST(ramp_lasts_as_long_however_late_polls_are)
{
    static const unsigned late_us[] = {0, 4000, 7000, 9000};
    for (size_t i = 0; i < G_N_ELEMENTS(late_us); i++) {
        stage in;
        open_stage(&in);
        order(&in, 1000, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_AT(160));
        while (curtain_state.speed != curtain_state.target) {
            (void)sim_bench_sleep(in.bench, MIN(drom_engine_poll(&in.engine), 1000));
            sim_bench_block(in.bench, late_us[i]);
        }
        const double lasts_ms = (double)sim_bench_now(in.bench) / 1e3 - 1000;
        ck_assert_msg(fabs(lasts_ms - 400 * 0.8) < 35, "%u us late, the ramp lasts %.1f ms", late_us[i],
                      lasts_ms);
        sim_bench_free(in.bench);
    }
}

TEST(motor_is_off_before_it_is_on_the_other_way)
{
    stage in;
    open_stage(&in);
    order(&in, 300, ASIDE, DROM_MOTOR_RUN, DROM_MOTOR_AT(DROM_FULL_LEVEL));
    ASSERT_SPEEDS(301, 0, DROM_FULL_LEVEL);
    order(&in, 500, ASIDE, DROM_MOTOR_RUN, DROM_MOTOR_BACK_AT(100));
    ASSERT_SPEEDS(548, 0, 0);
    ASSERT_SPEEDS(552, 0, -100);
    order(&in, 600, ASIDE, DROM_MOTOR_COAST, 0);
    order(&in, 601, ASIDE, DROM_MOTOR_RUN, DROM_MOTOR_BACK_AT(100)); /* the same way: at once */
    ASSERT_SPEEDS(603, 0, -100);
    const sim_motion motion = sim_motor_motion(in.aside);
    ck_assert_uint_eq(motion.shorts, 0);
    ck_assert_double_ge(motion.nearest_us, DEAD_MS * 1000);
    sim_bench_free(in.bench);
}

TEST(motor_runs_no_longer_than_its_limit_whatever_its_speed)
{
    stage in;
    open_stage(&in);
    order(&in, 300, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_AT(150));
    order(&in, 1000, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_AT(100)); /* the same run goes on */
    ASSERT_SPEEDS(3290, 100, 0);
    ck_assert(drom_motor.is_on(&curtain_state));
    ASSERT_SPEEDS(3310, 0, 0);
    ck_assert(!drom_motor.is_on(&curtain_state));
    ASSERT_SPEEDS(5000, 0, 0);
    ck_assert_double_le(sim_motor_motion(in.curtain).longest_us, CURTAIN_MS * 1000 + 2000);
    order(&in, 5000, CURTAIN, DROM_MOTOR_RESUME, 0);
    ASSERT_SPEEDS(5500, 100, 0);
    sim_bench_free(in.bench);
}

TEST(motor_stops_at_its_switches_and_leaves_them_the_other_way_only)
{
    stage in;
    open_stage(&in);
    order(&in, 300, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_AT(150));
    play_until(&in, 1000);
    switches[TOP] = true;
    ASSERT_SPEEDS(1006, 0, 0);
    order(&in, 1100, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_AT(150));
    ASSERT_SPEEDS(1500, 0, 0);
    switches[TOP] = false; /* the order of that time is forgotten */
    ASSERT_SPEEDS(2000, 0, 0);
    switches[TOP] = true;
    order(&in, 2000, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_BACK_AT(150));
    ASSERT_SPEEDS(2500, -150, 0);
    order(&in, 2500, CURTAIN, DROM_MOTOR_REVERSE, 0); /* and the switch forbids it */
    ASSERT_SPEEDS(3100, 0, 0);
    sim_bench_free(in.bench);
}

/* The order of a rule about the switch: the motor hasn't read the switch yet. */
TEST(order_that_comes_with_the_switch_is_one_to_a_motor_that_stands)
{
    stage in;
    open_stage(&in);
    order(&in, 300, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_AT(150));
    play_until(&in, 1000);
    switches[TOP] = true;
    order(&in, 1000, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_BACK_AT(100));
    ck_assert_int_eq(curtain_state.speed, 0);
    ASSERT_SPEEDS(1400, -100, 0);
    sim_bench_free(in.bench);
    open_stage(&in);
    order(&in, 300, WAGON, DROM_DRIVE_FORWARD, 150);
    play_until(&in, 1000);
    switches[TOP] = true;
    order(&in, 1000, WAGON, DROM_DRIVE_BACK, 100);
    ASSERT_SPEEDS(1500, -100, -100);
    sim_bench_free(in.bench);
}

TEST(motor_is_stepped_within_its_speeds_and_resumes_the_last)
{
    stage in;
    open_stage(&in);
    order(&in, 300, CURTAIN, DROM_MOTOR_FASTER, 20); /* from standing: at least the lowest speed */
    ASSERT_SPEEDS(800, 26, 0);
    order(&in, 800, CURTAIN, DROM_MOTOR_FASTER, DROM_FULL_LEVEL);
    ASSERT_SPEEDS(1200, 160, 0);
    order(&in, 1200, CURTAIN, DROM_MOTOR_SLOWER, 100);
    ASSERT_SPEEDS(1500, 60, 0);
    order(&in, 1500, CURTAIN, DROM_MOTOR_SLOWER, DROM_FULL_LEVEL);
    ASSERT_SPEEDS(1800, 26, 0);
    order(&in, 1800, CURTAIN, DROM_MOTOR_TOGGLE, 0);
    ASSERT_SPEEDS(2100, 0, 0);
    order(&in, 2100, CURTAIN, DROM_MOTOR_SLOWER, 10); /* a standing motor isn't started by it */
    ASSERT_SPEEDS(2200, 0, 0);
    order(&in, 2200, CURTAIN, DROM_MOTOR_BACK, 0); /* nor by a direction */
    ASSERT_SPEEDS(2400, 0, 0);
    order(&in, 2400, CURTAIN, DROM_MOTOR_TOGGLE, 0);
    ASSERT_SPEEDS(2700, -26, 0);
    sim_bench_free(in.bench);
    open_stage(&in);
    order(&in, 300, CURTAIN, DROM_MOTOR_RESUME, 0); /* at first: full speed */
    ASSERT_SPEEDS(800, 160, 0);
    sim_bench_free(in.bench);
}

TEST(motor_brakes_and_coasts_at_once)
{
    stage in;
    double after[2];
    for (unsigned i = 0; i < 2; i++) {
        open_stage(&in);
        order(&in, 300, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_AT(160));
        order(&in, 1500, CURTAIN, i == 0 ? DROM_MOTOR_COAST : DROM_MOTOR_BRAKE, 0);
        ASSERT_SPEEDS(1501, 0, 0);
        ck_assert(!sim_bench_is_high(in.bench, 7) && !sim_bench_is_high(in.bench, 12));
        ck_assert_uint_eq(sim_bench_duty(in.bench, 5), i == 0 ? 0 : UINT16_MAX);
        play_until(&in, 1800);
        after[i] = sim_motor_motion(in.curtain).speed;
        order(&in, 1800, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_AT(50));
        ASSERT_SPEEDS(2200, 50, 0);
        ck_assert_uint_eq(sim_motor_motion(in.curtain).shorts, 0);
        sim_bench_free(in.bench);
    }
    ck_assert_double_gt(after[0], 0.4);
    ck_assert_double_lt(after[1], 0.15);
}

TEST(motor_on_one_pin_has_one_direction_and_takes_a_slow_ramp)
{
    stage in;
    open_stage(&in);
    ck_assert(!drom_motor.accepts_action(&fan, DROM_MOTOR_RUN, DROM_MOTOR_BACK_AT(1)));
    ck_assert(!drom_motor.accepts_action(&fan, DROM_MOTOR_REVERSE, 0));
    ck_assert(!drom_motor.accepts_action(&fan, DROM_MOTOR_BACK, 0));
    ck_assert(!drom_motor.accepts_action(&fan, DROM_MOTOR_BRAKE, 0));
    ck_assert(!drom_motor.accepts_action(&aside, DROM_MOTOR_BRAKE, 0)); /* both sides of a bridge on */
    ck_assert(!drom_motor.accepts_action(&curtain, DROM_MOTOR_RUN, 512));
    ck_assert(!drom_motor.accepts_action(&curtain, DROM_MOTOR_FASTER, 256));
    ck_assert(!drom_motor.accepts_action(&curtain, DROM_MOTOR_TOGGLE + 1, 0));
    order(&in, 300, FAN, DROM_MOTOR_RUN, DROM_MOTOR_AT(DROM_FULL_LEVEL));
    play_until(&in, 10300);
    ck_assert_int_ge(fan_state.speed, 98);
    ck_assert_int_le(fan_state.speed, 102);
    play_until(&in, 20500);
    ck_assert_int_eq(fan_state.speed, DROM_FULL_LEVEL);
    sim_motor_block(in.fan, true);
    play_until(&in, 21000);
    ck_assert_double_gt(sim_motor_motion(in.fan).stalled_us, 490000);
    ck_assert_double_gt(sim_motor_motion(in.fan).ma, 1900);
    sim_bench_free(in.bench);
}

TEST(drive_steers_and_never_leaves_one_side_running)
{
    stage in;
    open_stage(&in);
    order(&in, 300, WAGON, DROM_DRIVE_FORWARD, 100);
    ASSERT_SPEEDS(700, 100, 100);
    order(&in, 700, WAGON, DROM_DRIVE_LEFT, 100);
    ASSERT_SPEEDS(1000, 0, 100);
    order(&in, 1000, WAGON, DROM_DRIVE_SPIN_RIGHT, 60);
    ASSERT_SPEEDS(1500, 60, -60);
    ck_assert(!drom_drive.accepts_action(&wagon, DROM_DRIVE_BRAKE, 0)); /* one of the motors can't move */
    order(&in, 1500, WAGON, DROM_DRIVE_BACK, DROM_FULL_LEVEL);
    ASSERT_SPEEDS(2200, -160, -DROM_FULL_LEVEL);
    ck_assert(drom_drive.is_on(&wagon_state));
    switches[BOTTOM] = true;
    ASSERT_SPEEDS(2220, 0, 0);
    ck_assert(!drom_drive.is_on(&wagon_state));
    order(&in, 2500, WAGON, DROM_DRIVE_RIGHT, 100);
    ASSERT_SPEEDS(3000, 100, 0);
    ASSERT_SPEEDS(6000, 0, 0); /* its limit */
    order(&in, 6000, WAGON, DROM_DRIVE_FORWARD, 100);
    order(&in, 6500, ASIDE, DROM_MOTOR_COAST, 0);
    ASSERT_SPEEDS(7000, 0, 0);
    sim_bench_free(in.bench);
}

TEST(guard_puts_motors_to_rest_where_the_program_hangs)
{
    stage in;
    open_stage(&in);
    order(&in, 300, WAGON, DROM_DRIVE_FORWARD, 100);
    play_until(&in, 1000);
    sim_bench_block(in.bench, 240000);
    ck_assert(sim_bench_is_high(in.bench, 7) && sim_bench_duty(in.bench, 5) > 0);
    play_until(&in, 1300);
    ck_assert_uint_eq(in.engine.state, DROM_RUNNING);
    sim_bench_block(in.bench, 260000);
    ck_assert(!sim_bench_is_high(in.bench, 7) && sim_bench_duty(in.bench, 5) == 0 &&
              sim_bench_duty(in.bench, 9) == 0);
    ck_assert_uint_eq(drom_engine_poll(&in.engine), DROM_LONG);
    ck_assert_uint_eq(in.engine.state, DROM_FAULT);
    ck_assert_int_eq(curtain_state.speed, 0);
    ck_assert_uint_eq(drom_engine_poll(&in.engine), DROM_LONG);
    ck_assert_int_eq(drom_engine_init(&in.engine, &plan, sim_bench_port(in.bench), NULL), DROM_OK);
    order(&in, 2000, CURTAIN, DROM_MOTOR_RUN, DROM_MOTOR_AT(100));
    play_until(&in, 2500);
    ck_assert_int_eq(curtain_state.speed, 100);
    drom_engine_stop(&in.engine);
    ck_assert_int_eq(curtain_state.speed, 0);
    sim_bench_block(in.bench, 1000000); /* and no poll is needed */
    ck_assert_uint_eq(in.engine.state, DROM_STOPPED);
    sim_bench_free(in.bench);
}

/* Random orders at any time, with switches that open and close. */
TEST(bridges_see_neither_shorts_nor_sudden_turns_nor_more_than_their_limit)
{
    enum { ORDERS = 20000, MEAN_MS = 400 };
    stage in;
    sim_random random = {7};
    open_stage(&in);
    double ms = 300;
    for (unsigned i = 0; i < ORDERS; i++) {
        const uint8_t row = (uint8_t)(sim_random_next(&random) % OUTPUTS);
        const uint8_t verb = (uint8_t)(sim_random_next(&random) % (DROM_MOTOR_TOGGLE + 1));
        const uint32_t value = (uint32_t)(sim_random_next(&random) % 512);
        ms += sim_random_between(&random, 0, 2) < 1 ? sim_random_between(&random, 0, 60)
                                                    : sim_random_between(&random, 0, 2 * MEAN_MS);
        play_until(&in, (unsigned)ms);
        switches[TOP] = sim_random_next(&random) % 8 == 0;
        switches[BOTTOM] = sim_random_next(&random) % 8 == 0;
        if (outputs[row].kind->accepts_action(outputs[row].settings, verb, value)) {
            ck_assert_int_eq(drom_engine_order(&in.engine, row, verb, value), DROM_OK);
        }
        play_until(&in, (unsigned)(sim_bench_now(in.bench) / 1000) + 6);
        ck_assert(!(switches[TOP] && curtain_state.speed > 0) &&
                  !(switches[BOTTOM] && curtain_state.speed < 0));
    }
    const sim_motor *const motors[] = {in.curtain, in.aside, in.fan};
    for (unsigned i = 0; i < 3; i++) {
        const sim_motion motion = sim_motor_motion(motors[i]);
        ck_assert_uint_eq(motion.shorts, 0);
        ck_assert_msg(motion.nearest_us >= DEAD_MS * 1000, "%f", motion.nearest_us);
    }
    ck_assert_double_le(sim_motor_motion(in.curtain).longest_us, CURTAIN_MS * 1000 + 2000);
    ck_assert_double_gt(sim_motor_motion(in.curtain).longest_us, CURTAIN_MS * 900);
    ck_assert(!isinf(sim_motor_motion(in.curtain).nearest_us));
    sim_bench_free(in.bench);
}

static void assert_refused(drom_motor_settings settings, drom_reason reason)
{
    static drom_motor_state state;
    static drom_motor_settings wrong;
    wrong = settings;
    const drom_output rows[] = {DROM_MOTOR(wrong, state)};
    const drom_plan only = {.outputs = {.outputs = DROM_ROWS(rows)}};
    const drom_port_facts facts = {.pins = 20};
    drom_fault fault;
    ck_assert_int_eq(drom_plan_check(&only, &facts, &fault), DROM_BAD_PLAN);
    ck_assert_int_eq(fault.reason, reason);
}

#define ASSERT_WRONG(member, wrong, expected)                                                                \
    do {                                                                                                     \
        drom_motor_settings settings = curtain;                                                              \
        settings.member = wrong;                                                                             \
        assert_refused(settings, expected);                                                                  \
    } while (0)

TEST(settings_that_no_motor_can_have_are_refused)
{
    ASSERT_WRONG(ramp_ms, 60001, DROM_REASON_SETTINGS);
    ASSERT_WRONG(max_ms, DROM_LONGEST_MS + 1, DROM_REASON_SETTINGS);
    ASSERT_WRONG(dead_ms, 0, DROM_REASON_SETTINGS);
    ASSERT_WRONG(dead_ms, 10001, DROM_REASON_SETTINGS);
    ASSERT_WRONG(slowest, 0, DROM_REASON_SETTINGS);
    ASSERT_WRONG(slowest, 205, DROM_REASON_SETTINGS);
    ASSERT_WRONG(forward_pin, 20, DROM_REASON_PIN);
    ASSERT_WRONG(back_pin, DROM_NONE, DROM_REASON_PIN);
    ASSERT_WRONG(speed_pin, 254, DROM_REASON_PIN);
    drom_motor_settings none = fan;
    none.speed_pin = DROM_NONE;
    assert_refused(none, DROM_REASON_PIN);
}

SUITE("motor")
