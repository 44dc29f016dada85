/* Outputs with exact times, on devices that show what came of it; and the processor that makes it hard. */
#include "support.h"

#include "sim.h"

#include "dromikos/dromikos.h"

#include <math.h>

enum { REVOLVE, LIGHTS, HOUSE, OUTPUTS, PIXELS = 60 };

static const drom_protocol_ref protocols[] = {&drom_nec};
static const drom_code wand[] = {{&drom_nec, 33, 24}};
static const drom_handset handsets[] = {{.codes = DROM_ROWS(wand)}};
static const drom_stepper_settings revolve = {
    .pins = {14, 16, 15, 17}, .first_us = 39028, .fastest_us = 3334};
static drom_stepper_state revolve_state;
static uint8_t bytes[3 * PIXELS];
static const uint32_t colours[] = {0xff0000, 0x00ff00, 0x0000ff};
static const drom_strip_palette palettes[] = {{DROM_ROWS(colours)}};
static const drom_strip_effect_ref effects[] = {drom_strip_chase, drom_strip_blend, drom_strip_breathe,
                                                drom_strip_sparkle};
static const drom_strip_settings lights = {.bytes = bytes,
                                           .count = PIXELS,
                                           .pin = 6,
                                           .order = {1, 0, 2},
                                           .effects = DROM_ROWS(effects),
                                           .palettes = DROM_ROWS(palettes)};
static drom_strip_state lights_state;
static const drom_lamp_settings house = {.pin = 5};
static drom_lamp_state house_state;
static const drom_output outputs[] = {DROM_STEPPER(revolve, revolve_state), DROM_STRIP(lights, lights_state),
                                      DROM_LAMP(house, house_state)};
static drom_decoder decoders[1];
static drom_hold holds[1];
static const drom_plan plan = {
    .receive = {.protocols = DROM_ROWS(protocols), .decoders = decoders},
    .keys = {.handsets = DROM_ROWS(handsets), .holds = holds},
    .outputs = {.outputs = DROM_ROWS(outputs)},
};

typedef struct stage {
    sim_bench *bench;
    sim_stepper *motor;
    sim_strip *strip;
    drom_engine engine;
    unsigned presses;
} stage;

static void on_key(void *context, const drom_key_event *event)
{
    ((stage *)context)->presses += event->gesture == DROM_PRESS;
}

static void open_stage(stage *opened, const sim_processor *processor, double motor_steps_s)
{
    static drom_watch watch;
    *opened = (stage){.bench = sim_bench_new(3)};
    sim_bench_start_clock_at(opened->bench, UINT32_C(0xfffe0000)); /* it wraps soon */
    sim_bench_set_processor(opened->bench, processor);
    opened->motor = sim_bench_wire_stepper(opened->bench, revolve.pins, motor_steps_s);
    opened->strip = sim_bench_wire_strip(opened->bench, 6, PIXELS, 9);
    revolve_state = (drom_stepper_state){0};
    ck_assert_int_eq(drom_engine_init(&opened->engine, &plan, sim_bench_port(opened->bench), NULL), DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
    watch = (drom_watch){.context = opened, .key = on_key};
    drom_engine_watch(&opened->engine, &watch);
}

static void play_until(stage *in, unsigned ms)
{
    while (sim_bench_now(in->bench) < ms * UINT64_C(1000)) {
        const drom_us wait = drom_engine_poll(&in->engine);
        (void)sim_bench_sleep(in->bench, wait < 500 ? wait : 500);
    }
}

static void order(stage *in, uint8_t output, uint8_t verb, uint32_t value)
{
    ck_assert(outputs[output].kind->accepts_action(outputs[output].settings, verb, value));
    const drom_action action = {output, verb, value};
    drom_outputs_act(&plan.outputs, &in->engine.timing, &action);
}

/* What the bench's chip is like when it is ours: measured on an ATmega328P. */
static const sim_processor ours = {.latency_us = 1, .capture_us = 5, .alarm_us = 6, .poll_us = 130};

START_TEST(stepper_turns_and_comes_back_without_losing_a_step)
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
END_TEST

START_TEST(stepper_that_runs_brakes_turns_round_and_knows_where_it_is)
{
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, REVOLVE, DROM_STEPPER_RUN, 1);
    play_until(&in, 2000);
    const long running = sim_stepper_position(in.motor);
    ck_assert_int_ge(running, 400); /* half a second of ramp, then 300 steps/s */
    ck_assert_int_le(running, 560);
    order(&in, REVOLVE, DROM_STEPPER_RUN, 0); /* at full speed: it must not turn at once */
    play_until(&in, 4500);
    ck_assert_int_lt(sim_stepper_position(in.motor), running);
    order(&in, REVOLVE, DROM_STEPPER_STOP, 0);
    play_until(&in, 6000);
    ck_assert_int_eq(sim_stepper_position(in.motor), revolve_state.position);
    ck_assert(!revolve_state.is_moving && !revolve_state.is_on);
    order(&in, REVOLVE, DROM_STEPPER_GO, 0);
    play_until(&in, 9000);
    ck_assert_int_eq(sim_stepper_position(in.motor), 0);
    ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
    sim_bench_free(in.bench);
}
END_TEST

static uint32_t one_bit(void *context, uint8_t pin)
{
    (void)context;
    return UINT32_C(1) << pin;
}

static void no_pin(void *context, uint8_t pin, bool is_high)
{
    (void)context;
    (void)pin;
    (void)is_high;
}

/* Any orders at any moment, for motors fast and slow: from step to step the square of the speed changes by no
 * more than twice the acceleration, and the rate is never exceeded. */
START_TEST(stepper_keeps_to_its_rate_and_acceleration)
{
    static const struct {
        uint16_t first_us;
        uint16_t fastest_us;
    } motors[] = {{39028, 3334}, {65535, 2000}, {20000, 1000}, {5000, 4000}, {8000, 200}};
    static const drom_port port = {.write_pin = no_pin, .toggle_pin = one_bit};
    GRand *const dice = g_rand_new_with_seed(3);
    for (size_t row = 0; row < G_N_ELEMENTS(motors); row++) {
        const drom_stepper_settings settings = {
            .pins = {1, 2, 3, 4}, .first_us = motors[row].first_us, .fastest_us = motors[row].fastest_us};
        drom_stepper_state state = {0};
        drom_timing timing = {.port = &port, .now = 1000};
        const double start = 0.676e6 / settings.first_us;
        const double most = 2 * start * start; /* steps/s², by which the settings were made */
        double speed = 0;
        drom_us last_at = 0;
        drom_stepper.rest(&settings, &state, &timing);
        for (unsigned step = 0; step < 4000; step++) {
            if (step % 100 == 0 || !state.is_moving) {
                const uint8_t verb = (uint8_t)g_rand_int_range(dice, DROM_STEPPER_STOP, DROM_STEPPER_GO + 1);
                const int32_t steps = g_rand_int_range(dice, -300, 300);
                drom_stepper.act(&settings, &state, &timing, verb,
                                 verb == DROM_STEPPER_RUN ? steps > 0 : (uint32_t)steps);
            }
            drom_us at;
            if (!drom_stepper.next_cue(&state, &at)) {
                timing.now += 500000;
                (void)drom_stepper.poll(&settings, &state, &timing);
                speed = 0;
                last_at = 0;
                continue;
            }
            (void)drom_stepper.take_cue(&settings, &state, &timing, at);
            timing.now = at;
            if (last_at != 0) {
                ck_assert_uint_ge(at - last_at, settings.fastest_us);
                const double now = 1e6 / (at - last_at);
                const double change = fabs(now * now - speed * speed) / 2;
                ck_assert_msg(speed == 0 || change <= most * 1.1,
                              "motor %zu, step %u: %.0f steps/s², not %.0f", row, step, change, most);
                speed = now;
            }
            last_at = at;
        }
    }
    g_rand_free(dice);
}
END_TEST

/* The motor's model can say no: it isn't a mock. */
START_TEST(weaker_motor_loses_steps)
{
    stage in;
    open_stage(&in, &ours, 200);
    order(&in, REVOLVE, DROM_STEPPER_TURN, 2048);
    play_until(&in, 9000);
    ck_assert_uint_gt(sim_stepper_lost(in.motor), 100);
    ck_assert_int_eq(revolve_state.position, 2048);
    sim_bench_free(in.bench);
}
END_TEST

START_TEST(every_way_ends_where_it_was_meant_to)
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
END_TEST

static void assert_pixel(const stage *in, unsigned pixel, uint8_t red, uint8_t green, uint8_t blue)
{
    const uint8_t *const grb = sim_strip_pixel(in->strip, pixel);
    ck_assert_msg(grb[0] == green && grb[1] == red && grb[2] == blue, "pixel %u shows %u %u %u", pixel,
                  grb[1], grb[0], grb[2]);
}

START_TEST(strip_fills_shows_and_dims)
{
    stage in;
    open_stage(&in, &ours, 375);
    assert_pixel(&in, 0, 0, 0, 0);
    order(&in, LIGHTS, DROM_STRIP_FILL, 0xff8000);
    play_until(&in, 50);
    assert_pixel(&in, 0, 255, 128, 0);
    assert_pixel(&in, PIXELS - 1, 255, 128, 0);
    order(&in, LIGHTS, DROM_STRIP_SHOW, 12);
    play_until(&in, 100);
    assert_pixel(&in, 11, 255, 128, 0);
    assert_pixel(&in, 12, 0, 0, 0);
    order(&in, LIGHTS, DROM_STRIP_BRIGHTNESS, 127);
    play_until(&in, 150);
    assert_pixel(&in, 0, 127, 64, 0);
    order(&in, LIGHTS, DROM_STRIP_OFF, 0);
    play_until(&in, 200);
    assert_pixel(&in, 0, 0, 0, 0);
    order(&in, LIGHTS, DROM_STRIP_TOGGLE, 0);
    play_until(&in, 250);
    assert_pixel(&in, 0, 127, 64, 0);
    drom_engine_stop(&in.engine);
    assert_pixel(&in, 0, 0, 0, 0);
    sim_bench_free(in.bench);
}
END_TEST

START_TEST(effects_go_on_and_show_only_the_palettes_colours)
{
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, LIGHTS, DROM_STRIP_EFFECT, 0);
    unsigned changes = 0;
    uint8_t before[3] = {1, 1, 1};
    for (unsigned ms = 50; ms <= 3000; ms += 20) {
        play_until(&in, ms);
        const uint8_t *const grb = sim_strip_pixel(in.strip, 0);
        ck_assert_int_eq(grb[0] + grb[1] + grb[2], 255); /* red, green or blue */
        changes += memcmp(before, grb, 3) != 0;
        memcpy(before, grb, 3);
    }
    ck_assert_uint_ge(changes, 10);
    for (uint32_t effect = 1; effect < G_N_ELEMENTS(effects); effect++) {
        const unsigned refreshes = sim_strip_refreshes(in.strip);
        order(&in, LIGHTS, DROM_STRIP_EFFECT, effect);
        play_until(&in, 3000 + 500 * effect);
        ck_assert_uint_gt(sim_strip_refreshes(in.strip), refreshes + 20);
    }
    ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
    ck_assert(sim_strip_longest_gap_us(in.strip) > 0 && sim_strip_longest_gap_us(in.strip) < 9);
    sim_bench_free(in.bench);
}
END_TEST

START_TEST(lamp_fades_evenly_to_the_eye)
{
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, HOUSE, DROM_LAMP_FADE, DROM_FADE(200, 1000));
    play_until(&in, 500);
    ck_assert_int_ge(house_state.level, 96);
    ck_assert_int_le(house_state.level, 104);
    play_until(&in, 1100);
    ck_assert_uint_eq(sim_bench_duty(in.bench, 5), 200 * 200);
    order(&in, HOUSE, DROM_LAMP_TOGGLE, 0);
    ck_assert_uint_eq(sim_bench_duty(in.bench, 5), 0);
    order(&in, HOUSE, DROM_LAMP_ON, 0);
    ck_assert_uint_eq(sim_bench_duty(in.bench, 5), 200 * 200);
    order(&in, HOUSE, DROM_LAMP_BRIGHTER, 100);
    ck_assert_uint_eq(sim_bench_duty(in.bench, 5), UINT16_MAX);
    sim_bench_free(in.bench);
}
END_TEST

/* So many presses while the strip refreshes without pause; how many were heard, and how many pixels were
 * wrong. */
static unsigned presses_heard(const sim_processor *processor, unsigned *wrong)
{
    stage in;
    enum { PRESSES = 40 };
    open_stage(&in, processor, 375);
    order(&in, LIGHTS, DROM_STRIP_EFFECT, 0);
    order(&in, REVOLVE, DROM_STEPPER_RUN, 1);
    for (uint64_t i = 0; i < PRESSES; i++) {
        ck_assert(sim_bench_press(in.bench, &(sim_press){.waveform = &drom_nec_waveform,
                                                         .code = wand[0],
                                                         .at_us = 500000 + i * 401000 + i * 137 % 1000,
                                                         .frames = 1}));
    }
    play_until(&in, 500 + PRESSES * 401);
    *wrong = sim_strip_wrong(in.strip);
    const unsigned heard = in.presses;
    sim_bench_free(in.bench);
    return heard;
}

static drom_us noisy_now;
static unsigned refreshes;

static drom_us noisy_clock(void *context)
{
    (void)context;
    return noisy_now;
}

static void count_refresh(void *context, uint8_t pin, const uint8_t *sent, uint16_t count)
{
    (void)context;
    (void)pin;
    (void)sent;
    refreshes += count == 3 * PIXELS;
}

static void no_duty(void *context, uint8_t pin, uint16_t duty)
{
    (void)context;
    (void)pin;
    (void)duty;
}

static void no_alarm(void *context, drom_cues *cues)
{
    (void)context;
    (void)cues;
}

/* An edge with every other poll, for two seconds. */
START_TEST(strip_goes_on_in_noise_that_never_ends)
{
    static const drom_port port = {.facts = {.can_slice = true},
                                   .now = noisy_clock,
                                   .write_pin = no_pin,
                                   .write_pwm = no_duty,
                                   .toggle_pin = one_bit,
                                   .arm_alarm = no_alarm,
                                   .send_pixels = count_refresh};
    drom_engine engine;
    const drom_action chase = {LIGHTS, DROM_STRIP_EFFECT, 0};
    ck_assert_int_eq(drom_engine_init(&engine, &plan, &port, NULL), DROM_OK);
    (void)drom_engine_poll(&engine);
    drom_outputs_act(&plan.outputs, &engine.timing, &chase);
    refreshes = 0;
    for (unsigned i = 0; i < 20000; i++) {
        noisy_now += 100;
        if (i % 2 == 0) {
            drom_engine_edge(&engine, noisy_now, i % 4 == 0);
        }
        drom_engine_idle(&engine, drom_engine_poll(&engine));
    }
    ck_assert_uint_ge(refreshes, 20);
}
END_TEST

START_TEST(strip_and_reception_live_together_only_in_slices)
{
    unsigned wrong = 0;
    ck_assert_uint_eq(presses_heard(&ours, &wrong), 40);
    ck_assert_uint_eq(wrong, 0);
    sim_processor open_bits = ours; /* nobody masks anything: reception ruins the strip */
    open_bits.pixels = SIM_PIXELS_OPEN;
    ck_assert_uint_eq(presses_heard(&open_bits, &wrong), 40);
    ck_assert_uint_gt(wrong, 300);
}
END_TEST

/* The strip of somebody else, which masks interrupts for a whole refresh each 3 ms: it ruins reception. */
START_TEST(strip_that_masks_and_asks_nobody_ruins_reception)
{
    static const drom_stamp stamps[] = {DROM_STAMP_HARDWARE, DROM_STAMP_INTERRUPT, DROM_STAMP_POLLING};
    for (size_t i = 0; i < G_N_ELEMENTS(stamps); i++) {
        stage in;
        sim_processor theirs = ours;
        theirs.stamp = stamps[i];
        theirs.look_us = 50;
        open_stage(&in, &theirs, 375);
        for (uint64_t at = 3000; at < 4000000; at += 3000) {
            sim_bench_mask(in.bench, at, 1800);
        }
        for (uint64_t at = 100000; at < 3900000; at += 400000) {
            ck_assert(sim_bench_press_once(in.bench, &drom_nec_waveform, &wand[0], at));
        }
        play_until(&in, 4000);
        ck_assert_uint_le(in.presses, 1);
        ck_assert_uint_gt(sim_bench_load(in.bench).merged, 100);
        sim_bench_free(in.bench);
    }
}
END_TEST

/* A port that can't slice: our own strip then waits for quiet air, and the decoder bears what a press's first
 * edge suffers. */
START_TEST(port_that_cannot_slice_refreshes_in_quiet_air)
{
    sim_processor masked = ours;
    unsigned wrong = 0;
    masked.pixels = SIM_PIXELS_MASKED;
    masked.stamp = DROM_STAMP_INTERRUPT;
    ck_assert_uint_ge(presses_heard(&masked, &wrong), 39);
    ck_assert_uint_eq(wrong, 0);
}
END_TEST

RUN_TESTS("timed", stepper_turns_and_comes_back_without_losing_a_step,
          stepper_that_runs_brakes_turns_round_and_knows_where_it_is,
          stepper_keeps_to_its_rate_and_acceleration, weaker_motor_loses_steps,
          every_way_ends_where_it_was_meant_to, strip_fills_shows_and_dims,
          effects_go_on_and_show_only_the_palettes_colours, lamp_fades_evenly_to_the_eye,
          strip_goes_on_in_noise_that_never_ends, strip_and_reception_live_together_only_in_slices,
          strip_that_masks_and_asks_nobody_ruins_reception, port_that_cannot_slice_refreshes_in_quiet_air)
