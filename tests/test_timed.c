/* Outputs with exact times: the stepper, the lamp, and their common rules. */
#include "timed.h"
#include "dromikos/outputs/lamp.h"
#include "dromikos/outputs/sender.h"
#include "dromikos/outputs/stepper.h"
#include "dromikos/outputs/strip.h"

#include <math.h>
#include <string.h>

TEST(stepper_turns_and_comes_back_without_losing_a_step)
{
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, REVOLVE, DROM_STEPPER_TURN, 2048);
    play_until(&in, 9000);
    ck_assert_int_eq(sim_stepper_position(in.motor), 2048);
    order(&in, REVOLVE, DROM_STEPPER_GO, (uint32_t)-512);
    play_until(&in, 20000);
    ck_assert_int_eq(sim_stepper_position(in.motor), -512);
    ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
    sim_bench_free(in.bench);
}

TEST(stepper_that_runs_brakes_turns_round_and_knows_where_it_is)
{
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, REVOLVE, DROM_STEPPER_RUN, 1);
    play_until(&in, 2000);
    const long running = sim_stepper_position(in.motor);
    ck_assert_int_ge(running, 400); /* half a second of ramp, then 300 steps/s */
    ck_assert_int_le(running, 560);
    order(&in, REVOLVE, DROM_STEPPER_RUN, 0); /* at full speed: it must not reverse at once */
    play_until(&in, 4500);
    ck_assert_int_lt(sim_stepper_position(in.motor), running);
    order(&in, REVOLVE, DROM_STEPPER_STOP, 0);
    play_until(&in, 6000);
    ck_assert_int_eq(sim_stepper_position(in.motor), revolve_state.position);
    for (size_t i = 0; i < G_N_ELEMENTS(revolve.pins); i++) { /* it stands, and its coils are off */
        ck_assert(!sim_bench_is_high(in.bench, revolve.pins[i]));
    }
    order(&in, REVOLVE, DROM_STEPPER_GO, 0);
    play_until(&in, 9000);
    ck_assert_int_eq(sim_stepper_position(in.motor), 0);
    ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
    sim_bench_free(in.bench);
}

/* Random orders for fast and slow motors: from one interval to the next the speed changes by the acceleration
 * at most, and never exceeds the rate. */
TEST(stepper_keeps_to_its_rate_and_acceleration)
{
    static const struct {
        uint32_t first_us;
        uint32_t fastest_us;
    } motors[] = {{57735, 3334}, {447000, 20000}, {30000, 1000}, {7400, 4000}, {12000, 200}, {50000, 250}};
    const drom_port port = {.pins = &(drom_port_pins){.write = no_pin},
                            .edges = &(drom_port_edges){.toggle = one_bit}};
    GRand *const dice = g_rand_new_with_seed(3);
    for (size_t row = 0; row < G_N_ELEMENTS(motors); row++) {
        const drom_stepper_settings settings = {
            .pins = {1, 2, 3, 4}, .first_us = motors[row].first_us, .fastest_us = motors[row].fastest_us};
        drom_stepper_state state = {0};
        drom_timing timing = {.port = &port, .now = 1000};
        const double max = 2e12 / ((double)settings.first_us * settings.first_us); /* steps/s² */
        double speed = 0;
        drom_us last_at = 0;
        bool is_first = true; /* of a way */
        drom_stepper.rest(&settings, &state, &timing);
        for (unsigned step = 0; step < 4000; step++) {
            if (step % 100 == 0 || !state.is_moving) {
                const uint8_t verb = (uint8_t)g_rand_int_range(dice, DROM_STEPPER_STOP, DROM_STEPPER_GO + 1);
                const int32_t steps = g_rand_int_range(dice, -300, 300);
                drom_stepper.act(&settings, &state, &timing, verb,
                                 verb == DROM_STEPPER_RUN ? steps > 0 : (uint32_t)steps);
            }
            drom_us at;
            if (!drom_stepper.next_edge(&state, &at)) {
                speed = 0;
                is_first = true;
                if (g_rand_boolean(dice)) { /* ordered again before its last step */
                    continue;
                }
                timing.now += 500000;
                (void)drom_stepper.poll(&settings, &state, &timing);
                last_at = 0;
                continue;
            }
            (void)drom_stepper.take_edge(&settings, &state, &timing, at);
            timing.now += (drom_us)g_rand_int_range(dice, 0, (gint32)(at - timing.now) + 1);
            timing.now =
                at - timing.now > DROM_TIMED_EDGE_HORIZON_US ? at - DROM_TIMED_EDGE_HORIZON_US : timing.now;
            if (last_at != 0) {
                ck_assert_uint_ge(at - last_at, is_first ? settings.first_us : settings.fastest_us);
                const double now = 1e6 / (at - last_at);
                const double passed_s = (1 / now + 1 / speed) / 2;
                const double change = speed == 0 ? 0 : fabs(now - speed) / passed_s;
                const double rounded = 2 * now * now / 1e6 / passed_s; /* each interval within 1 µs */
                ck_assert_msg(change <= max * 1.05 + rounded, "motor %zu, step %u: %.0f steps/s², not %.0f",
                              row, step, change, max);
                speed = now;
            }
            last_at = at;
            is_first = false;
        }
    }
    g_rand_free(dice);
}

/* From standing to full speed and back takes the steps and the time of even acceleration. Times are those of
 * steps, which may be an interval off. */
static void assert_ramp(double steps_s, double ramp_s)
{
    const drom_port port = {.pins = &(drom_port_pins){.write = no_pin},
                            .edges = &(drom_port_edges){.toggle = one_bit}};
    const drom_stepper_settings settings = {
        .pins = {1, 2, 3, 4},
        .first_us = (uint32_t)fmax(1e6 * sqrt(2 * ramp_s / steps_s), 1e6 / steps_s),
        .fastest_us = (uint32_t)ceil(1e6 / steps_s)};
    const double steps = steps_s * ramp_s / 2;
    const double slack_s = 1 / steps_s + ramp_s / 20;
    const double slack = 1 + steps / 20;
    drom_stepper_state state = {.is_on = true};
    drom_timing timing = {.port = &port, .now = UINT32_C(0xfffe0000)};
    drom_us last_at = timing.now;
    double us = 0;
    double full_us = 0;
    long full_at = 0;
    drom_us at;
    drom_stepper.act(&settings, &state, &timing, DROM_STEPPER_RUN, 1);
    while (drom_stepper.next_edge(&state, &at)) {
        const bool is_full = at - last_at == settings.fastest_us;
        us += at - last_at;
        if (is_full && full_us == 0) { /* its speed at the step before */
            full_us = us - settings.fastest_us;
            full_at = state.position;
        }
        timing.now = at;
        last_at = at;
        (void)drom_stepper.take_edge(&settings, &state, &timing, at);
        if (full_us > 0 && us > full_us + 1e6 && state.target == DROM_STEPPER_FARTHEST) {
            us = 0;
            drom_stepper.act(&settings, &state, &timing, DROM_STEPPER_STOP, 0);
            ck_assert_msg(fabs(state.target - state.position - steps) <= slack,
                          "%g within %g s: it stops in %ld", steps_s, ramp_s,
                          (long)(state.target - state.position));
        }
        ck_assert_int_lt(state.position, 40000);
    }
    ck_assert_msg(fabs((double)full_at - steps) <= slack, "%g within %g s: full speed after %ld steps",
                  steps_s, ramp_s, full_at);
    ck_assert_msg(fabs(full_us / 1e6 - ramp_s) <= slack_s, "%g within %g s: full speed after %g s", steps_s,
                  ramp_s, full_us / 1e6);
    /* The last step but one begins the last interval, at whose end the motor stands. */
    ck_assert_msg(fabs((us + settings.first_us) / 1e6 - ramp_s) <= slack_s + settings.first_us / 5e5,
                  "%g within %g s: it stops within %g s", steps_s, ramp_s, us / 1e6);
    ck_assert_int_eq(state.position, state.target);
}

TEST(ramp_takes_the_steps_and_the_time_of_even_acceleration)
{
    static const double steps_s[] = {50,   75,   100,  200,  300,  500,  800,
                                     1000, 1500, 2000, 2500, 3000, 4000, 5000};
    static const double ramps_s[] = {0.05, 0.1, 0.2, 0.3, 0.5, 1, 2, 3, 5};
    for (size_t i = 0; i < G_N_ELEMENTS(steps_s); i++) {
        for (size_t j = 0; j < G_N_ELEMENTS(ramps_s); j++) {
            assert_ramp(steps_s[i], ramps_s[j]);
        }
    }
}

/* When steps were delayed, a motor must not get full speed at once. */
/* For example, a scene that loops and puts everything to rest. */
TEST(stepper_stands_though_stops_come_faster_than_its_steps)
{
    static const unsigned runs_ms[] = {0, 1, 60, 200, 1500};
    for (size_t i = 0; i < G_N_ELEMENTS(runs_ms); i++) {
        stage in;
        open_stage(&in, &ours, 375);
        order(&in, REVOLVE, DROM_STEPPER_RUN, 1);
        play_until(&in, runs_ms[i]);
        const int32_t stands_at = revolve_state.position + (int32_t)revolve_state.ramp;
        for (unsigned ms = runs_ms[i]; ms < runs_ms[i] + 1000; ms++) {
            play_until(&in, ms);
            order(&in, REVOLVE, DROM_STEPPER_STOP, 0);
        }
        ck_assert_msg(!drom_stepper.is_busy(&revolve_state) && revolve_state.position == stands_at,
                      "after %u ms: at %d, and not at %d", runs_ms[i], (int)revolve_state.position,
                      (int)stands_at);
        play_until(&in, runs_ms[i] + 1200);
        ck_assert_int_eq(sim_stepper_position(in.motor), stands_at);
        ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
        for (unsigned pin = 0; pin < 4; pin++) {
            ck_assert(!sim_bench_is_high(in.bench, revolve.pins[pin]));
        }
        sim_bench_free(in.bench);
    }
}

TEST(stepper_sets_out_anew_where_main_came_too_late)
{
    static const drom_stepper_settings quick = {
        .pins = {14, 16, 15, 17}, .first_us = 25820, .fastest_us = 667};
    static const drom_output only[] = {DROM_STEPPER(quick, revolve_state)};
    static const drom_plan quick_plan = {.outputs = {.outputs = DROM_ROWS(only)}};
    stage in;
    open_plan(&in, &quick_plan, &ours, 1.25 * 1500);
    order(&in, REVOLVE, DROM_STEPPER_RUN, 1);
    for (unsigned i = 1; i <= 5; i++) {
        play_until(&in, i * 1500);
        ck_assert_uint_eq(revolve_state.interval_us, quick.fastest_us);
        sim_bench_block(in.bench, 15000); /* own code */
    }
    order(&in, REVOLVE, DROM_STEPPER_STOP, 0);
    play_until(&in, 10000);
    ck_assert(!drom_stepper.is_busy(&revolve_state));
    ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
    ck_assert_int_eq(sim_stepper_position(in.motor), revolve_state.position);
    sim_bench_free(in.bench);
}

/* Timed edges are made ahead: the last step of a way may lie up to 8 ms in the future when the next one
 * begins. */
TEST(stepper_ordered_anew_just_before_its_last_edge_keeps_to_its_rate)
{
    static const drom_stepper_settings quick = {
        .pins = {14, 16, 15, 17}, .first_us = 11800, .fastest_us = 500};
    static const drom_output only[] = {DROM_STEPPER(quick, revolve_state)};
    static const drom_plan quick_plan = {.outputs = {.outputs = DROM_ROWS(only)}};
    for (unsigned after_ms = 95; after_ms <= 160; after_ms++) {
        stage in;
        open_plan(&in, &quick_plan, &ours, 2500);
        order(&in, REVOLVE, DROM_STEPPER_TURN, 4);
        play_until(&in, after_ms);
        order(&in, REVOLVE, DROM_STEPPER_TURN, (uint32_t)-4);
        play_until(&in, 600);
        ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
        ck_assert_int_eq(sim_stepper_position(in.motor), 0);
        sim_bench_free(in.bench);
    }
}

/* The motor's model can fail: it isn't a mock. */
TEST(weaker_motor_loses_steps)
{
    stage in;
    open_stage(&in, &ours, 200);
    order(&in, REVOLVE, DROM_STEPPER_TURN, 2048);
    play_until(&in, 9000);
    ck_assert_uint_gt(sim_stepper_lost(in.motor), 100);
    ck_assert_int_eq(revolve_state.position, 2048);
    sim_bench_free(in.bench);
}

/* Steps that accelerate to three quarters of the motor's limit, one of eight of them late. */
TEST(rotor_that_lags_behind_catches_up)
{
    enum { STEPS = 400, FASTEST = 1574, STEPS_S2 = FASTEST * 8 * 3 / 4 };
    static const uint8_t pins[4] = {14, 15, 16, 17};
    sim_bench *const bench = sim_bench_new(1);
    const drom_port *const port = sim_bench_port(bench);
    const sim_stepper *const motor = sim_bench_wire_stepper(bench, pins, FASTEST);
    port->pins->write(port->context, pins[0], true);
    port->pins->write(port->context, pins[1], true);
    double due_us = 10000;
    for (unsigned n = 1; n <= STEPS; n++) {
        const double interval_us = 1e6 / fmin(sqrt(2.0 * STEPS_S2 * (n + 1)), FASTEST * 0.8);
        const double at_us = due_us + (n % 8 == 0 ? 0.3 * interval_us : 0);
        (void)sim_bench_sleep(bench, (drom_wait)(at_us - (double)sim_bench_now(bench)));
        port->pins->write(port->context, pins[(n + 3) % 4], false);
        port->pins->write(port->context, pins[(n + 1) % 4], true);
        due_us += interval_us;
    }
    ck_assert_uint_eq(sim_stepper_lost(motor), 0);
    ck_assert_int_eq(sim_stepper_position(motor), STEPS);
    sim_bench_free(bench);
}

TEST(every_way_ends_where_it_was_meant_to)
{
    for (int steps = -40; steps <= 40; steps++) {
        stage in;
        open_stage(&in, &ours, 375);
        order(&in, REVOLVE, DROM_STEPPER_TURN, (uint32_t)steps);
        play_until(&in, 1200);
        ck_assert_int_eq(sim_stepper_position(in.motor), steps);
        ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
        sim_bench_free(in.bench);
    }
}

/* The perceived level squared, within a step of eight bits. */
static void assert_level(const stage *in, unsigned level)
{
    ck_assert_double_le(
        fabs(sim_bench_duty(in->bench, 5) - level * level * 65536.0 / (DROM_FULL_LEVEL * DROM_FULL_LEVEL)),
        256);
}

TEST(lamp_fades_evenly_to_the_eye)
{
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, HOUSE, DROM_LAMP_FADE, DROM_FADE(160, 1000));
    play_until(&in, 500);
    ck_assert_uint_ge(house_state.level, 77); /* half of the way, as perceived */
    ck_assert_uint_le(house_state.level, 83);
    assert_level(&in, house_state.level);
    play_until(&in, 1100);
    assert_level(&in, 160);
    order(&in, HOUSE, DROM_LAMP_TOGGLE, 0);
    ck_assert_uint_eq(sim_bench_duty(in.bench, 5), 0);
    order(&in, HOUSE, DROM_LAMP_ON, 0);
    assert_level(&in, 160);
    order(&in, HOUSE, DROM_LAMP_BRIGHTER, 100);
    ck_assert_uint_eq(sim_bench_duty(in.bench, 5), UINT16_MAX);
    sim_bench_free(in.bench);
}

static void play_for(stage *in, unsigned ms)
{
    play_until(in, (unsigned)(sim_bench_now(in->bench) / 1000) + ms);
}

TEST(lamp_dims_the_other_way_each_time_and_stays_where_it_is_let_go)
{
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, HOUSE, DROM_LAMP_DIM, DROM_DIM(DROM_DIM_ON, 2000)); /* a level each 10 ms, from dark */
    play_for(&in, 1000);
    order(&in, HOUSE, DROM_LAMP_LET_GO, 0);
    const uint8_t level = house_state.level;
    ck_assert_uint_ge(level, 99);
    ck_assert_uint_le(level, 101);
    play_for(&in, 500);
    ck_assert_uint_eq(house_state.level, level);
    order(&in, HOUSE, DROM_LAMP_DIM, DROM_DIM(DROM_DIM_ON, 2000));
    play_for(&in, 500);
    order(&in, HOUSE, DROM_LAMP_LET_GO, 0);
    ck_assert_uint_le(house_state.level, level - 49);
    order(&in, HOUSE, DROM_LAMP_DIM, DROM_DIM(DROM_DIM_DOWN, 1000)); /* never dark */
    play_for(&in, 2000);
    ck_assert_uint_eq(house_state.level, 1);
    order(&in, HOUSE, DROM_LAMP_DIM, DROM_DIM(DROM_DIM_UP, 1000));
    play_for(&in, 2000);
    ck_assert_uint_eq(house_state.level, DROM_FULL_LEVEL);
    order(&in, HOUSE, DROM_LAMP_LET_GO, 0);
    ck_assert_uint_eq(house_state.level, DROM_FULL_LEVEL);
    order(&in, HOUSE, DROM_LAMP_ON, 0);
    order(&in, HOUSE, DROM_LAMP_LET_GO, 0); /* of an output that can't dim */
    ck_assert_uint_eq(house_state.level, 0);
    ck_assert(!drom_lamp.accepts_action(&house, DROM_LAMP_DIM, DROM_DIM(3, 1000)));
    ck_assert(!drom_lamp.accepts_action(&house, DROM_LAMP_DIM, DROM_DIM(DROM_DIM_UP, 0)));
    sim_bench_free(in.bench);
}

TEST(lamp_blinks_until_it_is_asked_for_something_else)
{
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, HOUSE, DROM_LAMP_FADE, DROM_FADE(100, 0));
    order(&in, HOUSE, DROM_LAMP_BLINK, 200);
    for (unsigned i = 0; i < 10; i++) {
        play_until(&in, 200 * i + 100);
        assert_level(&in, i % 2 == 0 ? 100 : 0);
    }
    ck_assert(drom_lamp.is_busy(&house_state));
    order(&in, HOUSE, DROM_LAMP_ON, 0);
    play_until(&in, 3000);
    assert_level(&in, 100);
    ck_assert(!drom_lamp.is_busy(&house_state));
    ck_assert(!drom_lamp.accepts_action(&house, DROM_LAMP_BLINK, 0));
    sim_bench_free(in.bench);
}

/* Counts motion and light after a stop. */
typedef struct stillness {
    unsigned pins;
    unsigned lights;
} stillness;

static void note_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    (void)at_us;
    (void)pin;
    (void)is_high;
    ((stillness *)context)->pins++;
}

static void note_light(void *context, uint64_t at_us, bool is_on)
{
    (void)at_us;
    ((stillness *)context)->lights += is_on;
}

/* The alarm fires between any two calls of the stop, when the stepper has just reversed: steps both ways are
 * on their way to the pins. */
TEST(stop_at_any_moment_leaves_nothing_moving_and_the_rotor_where_it_says)
{
    static const drom_stepper_settings nimble = {
        .pins = {14, 16, 15, 17}, .first_us = 2950, .fastest_us = 1000};
    static const drom_output nimble_outputs[] = {
        DROM_STEPPER(nimble, revolve_state), DROM_STRIP(lights, lights_state), DROM_LAMP(house, house_state),
        DROM_SENDER(horn, horn_state)};
    static const drom_plan nimble_plan = {.outputs = {.outputs = DROM_ROWS(nimble_outputs)}};
    sim_processor slow_calls = ours;
    slow_calls.call_us = 3;
    for (unsigned moment = 0; moment < 400; moment++) {
        const unsigned turned_ms = 104 + moment % 8;
        stage in;
        stillness seen = {0};
        open_plan(&in, &nimble_plan, &slow_calls, 40000);
        sim_target *const amplifier = sim_bench_wire_target(in.bench, 3);
        order(&in, LIGHTS, DROM_STRIP_FILL, 0xff8000);
        order(&in, HORN, DROM_SENDER_HOLD, 0);
        order(&in, REVOLVE, DROM_STEPPER_TURN, 40);
        play_until(&in, turned_ms);
        order(&in, REVOLVE, DROM_STEPPER_TURN, (uint32_t)-40);
        play_until(&in, turned_ms - 2 + moment % 31);
        sim_bench_block(in.bench, moment * 37 % 1000);
        drom_engine_stop(&in.engine);
        sim_bench_observe(in.bench, &(sim_observer){.context = &seen, .pin = note_pin});
        sim_target_follow(amplifier, note_light, &seen);
        ck_assert_int_eq(revolve_state.position, sim_stepper_position(in.motor));
        play_until(&in, 500);
        ck_assert_msg(seen.pins == 0 && seen.lights == 0, "stop %u: %u pins, %u marks", moment, seen.pins,
                      seen.lights);
        ck_assert_int_eq(revolve_state.position, sim_stepper_position(in.motor));
        ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
        assert_pixel(&in, 0, 0, 0, 0);
        ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
        ck_assert_int_eq(in.engine.state, DROM_STOPPED);
        ck_assert_uint_eq(drom_engine_poll(&in.engine), DROM_LONG);
        sim_bench_free(in.bench);
    }
}

/* With any resolution of the port, no level but 0 is dark, and none is darker than the one below. */
TEST(lamp_is_lit_at_every_level_and_never_darker_than_below)
{
    for (uint8_t bits = 1; bits <= 16; bits++) {
        sim_processor port = ours;
        stage in;
        port.pwm_bits = bits;
        open_stage(&in, &port, 375);
        uint16_t before = 0;
        for (uint32_t level = 0; level <= DROM_FULL_LEVEL; level++) {
            order(&in, HOUSE, DROM_LAMP_FADE, DROM_FADE(level, 0));
            const uint16_t duty = sim_bench_duty(in.bench, 5);
            ck_assert_int_eq(duty == 0, level == 0);
            ck_assert_int_eq(duty == UINT16_MAX, level == DROM_FULL_LEVEL);
            ck_assert_uint_ge(duty, before);
            ck_assert(duty == UINT16_MAX || duty % (UINT32_C(0x10000) >> bits) == 0);
            ck_assert_double_le(fabs(duty - level * level * 65536.0 / (DROM_FULL_LEVEL * DROM_FULL_LEVEL)),
                                65536.0 / (1 << bits) + 512);
            before = duty;
        }
        sim_bench_free(in.bench);
    }
}

static bool is_on(uint8_t output)
{
    return outputs[output].kind->is_on(outputs[output].state);
}

static bool is_busy(uint8_t output)
{
    return outputs[output].kind->is_busy(outputs[output].state);
}

/* The state that a condition or a wait reads. */
TEST(outputs_say_whether_they_are_on_and_busy)
{
    stage in;
    open_stage(&in, &ours, 375);
    ck_assert(!is_on(REVOLVE) && !is_on(LIGHTS) && !is_on(HOUSE) && !is_on(HORN));
    ck_assert(!is_busy(REVOLVE) && !is_busy(HOUSE) && !is_busy(HORN));
    order(&in, REVOLVE, DROM_STEPPER_TURN, 100);
    order(&in, LIGHTS, DROM_STRIP_ON, 0);
    order(&in, HOUSE, DROM_LAMP_FADE, DROM_FADE(128, 500));
    order(&in, HORN, DROM_SENDER_SEND, DROM_SEND(0, 1));
    play_until(&in, 20);
    ck_assert(is_on(REVOLVE) && is_on(LIGHTS) && is_on(HOUSE) && is_on(HORN));
    ck_assert(is_busy(REVOLVE) && is_busy(HOUSE) && is_busy(HORN));
    play_until(&in, 3000);
    ck_assert(!is_on(REVOLVE) && is_on(LIGHTS) && is_on(HOUSE) && !is_on(HORN));
    ck_assert(!is_busy(REVOLVE) && !is_busy(HOUSE) && !is_busy(HORN));
    sim_bench_free(in.bench);
}

/* Our LED's light while a frame comes in. */
typedef struct light_story {
    uint64_t on_us; /* start of the newest burst */
    uint64_t off_us;
} light_story;

static void follow_light(void *context, uint64_t at_us, bool is_on)
{
    enum { WITHIN_US = 6000 };
    light_story *const story = context;
    if (is_on && at_us - story->off_us > WITHIN_US) {
        story->on_us = at_us;
    }
    story->off_us = is_on ? story->off_us : at_us;
}

/* A frame that begins in silence isn't disturbed by a burst that was decided on before, even while a
 * stepper's edges are made far ahead; except for the moment of its beginning. */
TEST(burst_never_begins_over_a_frame_that_is_on_the_air)
{
    enum { PRESSES = 200, MOMENT_US = 700 };
    static const drom_sender_settings open_horn = {.keys = DROM_ROWS(horn_keys), .pin = 3};
    static const drom_output heard_outputs[] = {
        DROM_STEPPER(revolve, revolve_state), DROM_STRIP(lights, lights_state), DROM_LAMP(house, house_state),
        DROM_SENDER(open_horn, horn_state)};
    drom_plan tables = plan;
    light_story light = {0};
    stage in;
    tables.outputs.outputs.rows = heard_outputs;
    open_plan(&in, &tables, &ours, 375);
    sim_bench_hear_itself(in.bench, true);
    sim_target_follow(sim_bench_wire_target(in.bench, horn.pin), follow_light, &light);
    order(&in, REVOLVE, DROM_STEPPER_RUN, 1);
    order(&in, HORN, DROM_SENDER_HOLD, 0);
    GRand *const dice = g_rand_new_with_seed(4);
    unsigned began_quiet = 0;
    unsigned drowned = 0;
    uint64_t at_us = 1000000;
    for (unsigned i = 0; i < PRESSES; i++) {
        const uint64_t until_us = at_us + 67000;
        ck_assert(sim_bench_press_once(in.bench, &drom_nec_waveform, &wand[0], at_us));
        play_until(&in, (unsigned)(at_us / 1000));
        const bool is_quiet = sim_bench_now(in.bench) - light.off_us > 6000;
        play_until(&in, (unsigned)(until_us / 1000));
        began_quiet += is_quiet;
        drowned += is_quiet && light.on_us > at_us + MOMENT_US && light.on_us < until_us;
        at_us = until_us + (uint64_t)g_rand_int_range(dice, 150000, 400000);
    }
    ck_assert_uint_ge(began_quiet, 50);
    ck_assert_msg(drowned == 0, "%u of %u", drowned, began_quiet);
    ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
    g_rand_free(dice);
    sim_bench_free(in.bench);
}

/* The longest time between two steps. */
typedef struct stride {
    uint64_t last_us;
    uint64_t longest_us;
} stride;

static void follow_step(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    stride *const seen = context;
    if (memchr(revolve.pins, pin, sizeof revolve.pins) == NULL || !is_high) {
        return;
    }
    seen->longest_us = MAX(seen->longest_us, at_us - seen->last_us);
    seen->last_us = at_us;
}

/* A key's polls, a strip's pixels and a burst that is about to begin all fall between, on a processor whose
 * polls take 0.3 ms: a step at full speed is late by less than two of them. */
TEST(no_step_is_late_for_a_key_a_strip_and_a_burst)
{
    enum { PRESSES = 400, FULL_SPEED_US = 2000000, LATE_US = 500 };
    sim_processor slow = ours;
    stride seen = {0};
    stage in;
    slow.poll_us = 300;
    open_stage(&in, &slow, 375);
    order(&in, REVOLVE, DROM_STEPPER_RUN, 1);
    order(&in, LIGHTS, DROM_STRIP_EFFECT, 0);
    order(&in, HORN, DROM_SENDER_HOLD, 0);
    GRand *const dice = g_rand_new_with_seed(5);
    uint64_t at_us = FULL_SPEED_US;
    play_until(&in, FULL_SPEED_US / 1000);
    sim_bench_observe(in.bench, &(sim_observer){.context = &seen, .pin = follow_step});
    seen.last_us = sim_bench_now(in.bench);
    for (unsigned i = 0; i < PRESSES; i++) {
        ck_assert(sim_bench_press_once(in.bench, &drom_nec_waveform, &wand[0], at_us + 10000));
        at_us += (uint64_t)g_rand_int_range(dice, 280000, 400000);
        play_until(&in, (unsigned)(at_us / 1000));
    }
    ck_assert_uint_eq(in.presses, PRESSES);
    ck_assert_msg(seen.longest_us <= revolve.fastest_us + (uint64_t)LATE_US, "%u us",
                  (unsigned)seen.longest_us);
    ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
    g_rand_free(dice);
    sim_bench_free(in.bench);
}

/* A strip is refreshed only if the next step can be made in time after it, on a processor of that speed. */
TEST(no_step_is_late_for_a_long_strip)
{
    enum { LATE_US = 150, PIXELS_LEAST = 100, PIXELS_MOST = 260 };
    static uint8_t many[3 * PIXELS_MOST];
    static drom_strip_state long_state;
    unsigned refreshed = 0;
    for (uint16_t count = PIXELS_LEAST; count <= PIXELS_MOST; count = (uint16_t)(count + 4)) {
        const drom_strip_settings long_lights = {.bytes = many, .count = count, .pin = 6, .order = {1, 0, 2}};
        const drom_output both[] = {outputs[REVOLVE], DROM_STRIP(long_lights, long_state)};
        drom_plan with = plan;
        sim_processor slow = ours;
        stride seen = {0};
        stage in;
        with.outputs.outputs.rows = both;
        with.outputs.outputs.count = 2;
        slow.poll_us = 500;
        open_plan(&in, &with, &slow, 375);
        order(&in, REVOLVE, DROM_STEPPER_RUN, 1);
        order(&in, LIGHTS, DROM_STRIP_FILL, 0xff0000);
        play_until(&in, 2000);
        sim_bench_observe(in.bench, &(sim_observer){.context = &seen, .pin = follow_step});
        seen.last_us = sim_bench_now(in.bench);
        play_until(&in, 4000);
        ck_assert_msg(seen.longest_us <= revolve.fastest_us + (uint64_t)LATE_US, "%u pixels: %u us", count,
                      (unsigned)seen.longest_us);
        refreshed += sim_bench_load(in.bench).pixels_us > 2e6 / 10;
        sim_bench_free(in.bench);
    }
    ck_assert_uint_gt(refreshed, 10); /* with as many pixels as fit */
}

SUITE("timed")
