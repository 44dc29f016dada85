/* A stepper homes to its switch: always to the same place, or with an error. */
#include "support.h"
#include "dromikos/outputs/stepper.h"

#include "sim.h"

#include <math.h>

enum { SWITCH_PIN = 18, HOME_AT = -230, MAX_STEPS = 600, NOWHERE = -100000 };

static const drom_contact contacts[] = {{SWITCH_PIN, DROM_NONE, 0}};
static drom_touch touches[1];
static drom_deadline look_at;
static bool is_closed;
static const drom_stepper_settings disc = {.pins = {14, 15, 16, 17},
                                           .first_us = 32500,
                                           .fastest_us = 3333,
                                           .home = &touches[0].is_closed,
                                           .home_max = MAX_STEPS};
static drom_stepper_state state;
static const drom_output outputs[] = {DROM_STEPPER(disc, state)};
static const drom_plan plan = {
    .rules = {.switches = {.rows = &is_closed, .count = 1}},
    .outputs = {.outputs = DROM_ROWS(outputs)},
    .contacts = {.contacts = DROM_ROWS(contacts), .touches = touches, .next = &look_at},
};

typedef struct stage {
    sim_bench *bench;
    sim_stepper *rotor;
    drom_engine engine;
} stage;

static void open_plan(stage *opened, const drom_plan *tables, long home, double motor_steps_s)
{
    *opened = (stage){.bench = sim_bench_new(4)};
    state = (drom_stepper_state){0};
    is_closed = false;
    opened->rotor = sim_bench_wire_stepper(opened->bench, disc.pins, motor_steps_s);
    sim_stepper_set_home(opened->rotor, SWITCH_PIN, home);
    ck_assert_int_eq(drom_engine_init(&opened->engine, tables, sim_bench_port(opened->bench), NULL), DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
}

static void open_stage(stage *opened, long home)
{
    open_plan(opened, &plan, home, 400);
}

static void order(uint8_t verb, int32_t value, stage *in)
{
    ck_assert_int_eq(drom_engine_order(&in->engine, 0, verb, (uint32_t)value), DROM_OK);
}

static void play(stage *in, unsigned ms)
{
    const uint64_t until_us = sim_bench_now(in->bench) + ms * UINT64_C(1000);
    while (sim_bench_now(in->bench) < until_us) {
        const drom_us wait = drom_engine_poll(&in->engine);
        (void)sim_bench_sleep(in->bench, wait < 500 ? wait : 500);
    }
}

static void play_until_still(stage *in)
{
    for (unsigned i = 0; i < 4000 && drom_stepper.is_busy(&state); i++) {
        play(in, 10);
    }
    ck_assert(!drom_stepper.is_busy(&state));
    play(in, 100); /* the newest edges lie ahead */
}

/* From before the switch, from behind it, and from any place between two full steps. */
TEST(home_is_the_same_place_from_wherever_it_is_looked_for)
{
    for (int from = -340; from < 100; from += 23) {
        stage in;
        open_stage(&in, HOME_AT);
        order(DROM_STEPPER_GO, from, &in);
        play_until_still(&in);
        order(DROM_STEPPER_HOME, 0, &in);
        play_until_still(&in);
        ck_assert_int_eq(state.position, 0);
        const long there = sim_stepper_position(in.rotor);
        ck_assert_msg(there >= HOME_AT && there <= HOME_AT + 8 && there % 4 == 0, "home from %d is %ld", from,
                      there);
        order(DROM_STEPPER_GO, 100, &in);
        play_until_still(&in);
        ck_assert_int_eq(sim_stepper_position(in.rotor), there + 100);
        order(DROM_STEPPER_HOME, 0, &in); /* and again */
        play_until_still(&in);
        ck_assert_int_eq(sim_stepper_position(in.rotor), there);
        ck_assert_uint_eq(sim_stepper_lost(in.rotor), 0);
        sim_bench_free(in.bench);
    }
}

/* It brakes when it sees the switch, at any speed. */
TEST(stepper_stands_within_a_ramp_behind_its_switch)
{
    static const struct {
        double steps_s;
        double ramp_s;
    } rows[] = {{50, 0.05}, {200, 0.5}, {300, 5}, {800, 0.5}, {1500, 0.2}, {1500, 0.5}, {1500, 2}, {3000, 1}};
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        const double way = rows[i].steps_s * rows[i].ramp_s / 2;
        const double seen = rows[i].steps_s * 0.03;
        const double first_us = 1e6 * sqrt(2 * rows[i].ramp_s / rows[i].steps_s);
        drom_stepper_settings fast = disc;
        fast.fastest_us = (uint32_t)(1e6 / rows[i].steps_s);
        fast.first_us = MAX((uint32_t)first_us, fast.fastest_us);
        fast.home_max = 1000000;
        const drom_output only[] = {DROM_STEPPER(fast, state)};
        drom_plan with = plan;
        stage in;
        with.outputs.outputs.rows = only;
        open_plan(&in, &with, -(long)(2 * way + 300), rows[i].steps_s * 1.3);
        ck_assert_int_eq(drom_engine_order(&in.engine, 0, DROM_STEPPER_HOME, 0), DROM_OK);
        long least = 0;
        while (state.homing == DROM_STEPPER_SEEKS || state.ramp > 0) {
            play(&in, 1);
            least = MIN(least, sim_stepper_position(in.rotor));
        }
        const double past = -(2 * way + 300) - (double)least;
        ck_assert_msg(past <= way * 1.05 + seen + 4 && past >= way * 0.95 - 4,
                      "%.0f steps/s within %.2f s: %.0f steps past the switch, of %.0f", rows[i].steps_s,
                      rows[i].ramp_s, past, way);
        ck_assert_uint_eq(sim_stepper_lost(in.rotor), 0);
        sim_bench_free(in.bench);
    }
}

TEST(switch_that_never_changes_is_given_up)
{
    stage in;
    open_stage(&in, NOWHERE);
    order(DROM_STEPPER_HOME, 0, &in);
    play_until_still(&in);
    ck_assert_int_eq(sim_stepper_position(in.rotor), -MAX_STEPS);
    ck_assert_int_eq(state.position, -MAX_STEPS);
    sim_bench_free(in.bench);
    open_stage(&in, -NOWHERE); /* always closed */
    play(&in, 100);
    order(DROM_STEPPER_HOME, 0, &in);
    play_until_still(&in);
    ck_assert_int_ge(state.position, MAX_STEPS - 20);
    ck_assert_int_le(state.position, MAX_STEPS);
    ck_assert_int_eq(sim_stepper_position(in.rotor), state.position);
    sim_bench_free(in.bench);
}

TEST(any_other_order_ends_the_way_home)
{
    stage in;
    open_stage(&in, HOME_AT);
    order(DROM_STEPPER_HOME, 0, &in);
    play(&in, 300);
    ck_assert(drom_stepper.is_busy(&state));
    order(DROM_STEPPER_STOP, 0, &in);
    play_until_still(&in);
    const int32_t stood = state.position;
    ck_assert_int_gt(stood, HOME_AT);
    play(&in, 2000);
    ck_assert_int_eq(state.position, stood);
    ck_assert_int_eq(sim_stepper_position(in.rotor), stood);
    order(DROM_STEPPER_HOME, 0, &in);
    drom_engine_stop(&in.engine);
    play(&in, 1000);
    ck_assert(!drom_stepper.is_busy(&state));
    sim_bench_free(in.bench);
}

TEST(stepper_without_a_switch_has_no_home)
{
    const drom_port_facts facts = {.pins = 64};
    uint8_t item = 0;
    drom_stepper_settings other = disc;
    other.home = NULL;
    ck_assert_int_eq(drom_stepper.check_settings(&other, &facts, &item), DROM_REASON_NULL);
    other.home_max = 0;
    ck_assert_int_eq(drom_stepper.check_settings(&other, &facts, &item), DROM_REASON_NONE);
    ck_assert(!drom_stepper.accepts_action(&other, DROM_STEPPER_HOME, 0));
    ck_assert(!drom_stepper.accepts_action(&disc, DROM_STEPPER_HOME + 1, 0));
    other.home_max = DROM_STEPPER_FARTHEST + 1;
    ck_assert_int_eq(drom_stepper.check_settings(&other, &facts, &item), DROM_REASON_SETTINGS);
    ck_assert_uint_eq(drom_plan_uses(&plan) & DROM_USES(HOMING), DROM_USES(HOMING));
}

SUITE("homing")
