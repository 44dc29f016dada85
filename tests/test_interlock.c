/* Outputs of which only one may be on. */
#include "support.h"

#include "random.h"
#include "sim.h"

enum { SPOT, FLOOD, FAN, BELL, OUTPUTS };

enum { PAUSE_MS = 200 };

static const drom_relay_settings spot = {.pin = 4, .min_on_ms = 500};
static const drom_relay_settings flood = {.pin = 7, .is_active_low = true, .min_off_ms = 300};
static const drom_motor_settings fan = {.ramp_ms = 400,
                                        .dead_ms = 1,
                                        .forward_pin = DROM_NO_PIN,
                                        .back_pin = DROM_NO_PIN,
                                        .speed_pin = 5,
                                        .slowest = 1,
                                        .fastest = 255};
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
    sim_bench_start_clock_at(opened->bench, UINT32_C(0xfff00000)); /* it wraps after a second */
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
    drom_outputs_act(&plan.outputs, &in->engine.timing, row, verb, value);
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
    order(&in, 2000, FAN, DROM_MOTOR_RUN, DROM_MOTOR_AT(255));
    ASSERT_ON(2190, 0, 0, 0);
    ASSERT_ON(2220, 0, 0, 1);
    order(&in, 3000, SPOT, DROM_RELAY_ON, 0);
    order(&in, 3010, FLOOD, DROM_RELAY_ON, 0); /* another wish, in the fan's ramp */
    ASSERT_ON(3300, 0, 0, 1);
    ASSERT_ON(3700, 0, 1, 0);
    ASSERT_ON(5000, 0, 1, 0);
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
    order(&in, 10, SPOT, DROM_RELAY_ON, 0); /* another may have been on just before */
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
    enum { ORDERS = 30000 };
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
        const uint32_t value = (uint32_t)(1 + sim_random_next(&random) % 255);
        ms += sim_random_between(&random, 0, 2) < 1 ? 0 : sim_random_between(&random, 0, 600);
        play_until(&in, (unsigned)ms);
        if (outputs[row].kind->accepts_action(outputs[row].settings, verb, value)) {
            drom_outputs_act(&plan.outputs, &in.engine.timing, row, verb, value);
        }
        for (uint8_t j = 0; j < OUTPUTS; j++) {
            driven[j] += is_driven(j);
        }
    }
    ck_assert(driven[SPOT] > ORDERS / 20 && driven[FLOOD] > ORDERS / 20 && driven[FAN] > ORDERS / 20);
    sim_bench_free(in.bench);
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

SUITE("interlock")
