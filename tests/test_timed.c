/* Outputs with exact times, on devices that show what came of it; and the processor that makes it hard. */
#include "support.h"

#include "sim.h"

#include "dromikos/dromikos.h"

#include <math.h>

enum { REVOLVE, LIGHTS, HOUSE, HORN, PIXELS = 60 };

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
static const drom_sender_key horn_keys[] = {{&drom_samsung32_waveform, 7, 7, 62}};
static const drom_sender_settings horn = {.keys = DROM_ROWS(horn_keys), .pin = 3, .is_shielded = true};
static drom_sender_state horn_state;
static const drom_output outputs[] = {DROM_STEPPER(revolve, revolve_state), DROM_STRIP(lights, lights_state),
                                      DROM_LAMP(house, house_state), DROM_SENDER(horn, horn_state)};
static drom_decoder decoders[1];
static drom_hold holds[1];
static drom_hand hands[1];
static const drom_plan plan = {
    .receive = {.protocols = DROM_ROWS(protocols), .decoders = decoders},
    .keys = {.handsets = DROM_ROWS(handsets), .holds = holds},
    .rules = {.hands = DROM_ROWS(hands)},
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

static void open_plan(stage *opened, const drom_plan *tables, const sim_processor *processor,
                      double motor_steps_s)
{
    static drom_observer observer;
    *opened = (stage){.bench = sim_bench_new(3)};
    sim_bench_start_clock_at(opened->bench, UINT32_C(0xfffe0000)); /* it wraps soon */
    sim_bench_set_processor(opened->bench, processor);
    opened->motor = sim_bench_wire_stepper(opened->bench, revolve.pins, motor_steps_s);
    opened->strip = sim_bench_wire_strip(opened->bench, 6, PIXELS, 9);
    revolve_state = (drom_stepper_state){0};
    ck_assert_int_eq(drom_engine_init(&opened->engine, tables, sim_bench_port(opened->bench), NULL), DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
    observer = (drom_observer){.context = opened, .key = on_key};
    drom_engine_observe(&opened->engine, &observer);
}

static void open_stage(stage *opened, const sim_processor *processor, double motor_steps_s)
{
    open_plan(opened, &plan, processor, motor_steps_s);
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
    const drom_outputs_plan *const all = &in->engine.plan->outputs;
    const drom_output *const row = &all->outputs.rows[output];
    ck_assert(row->kind->accepts_action(row->settings, verb, value));
    drom_outputs_act(all, &in->engine.timing, output, verb, value);
}

/* What the bench's chip is like when it is ours: measured on an ATmega328P. */
static const sim_processor ours = {.latency_us = 1, .capture_us = 5, .alarm_us = 6, .poll_us = 130};

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
    order(&in, REVOLVE, DROM_STEPPER_RUN, 0); /* at full speed: it must not turn at once */
    play_until(&in, 4500);
    ck_assert_int_lt(sim_stepper_position(in.motor), running);
    order(&in, REVOLVE, DROM_STEPPER_STOP, 0);
    play_until(&in, 6000);
    ck_assert_int_eq(sim_stepper_position(in.motor), revolve_state.position);
    for (size_t i = 0; i < G_N_ELEMENTS(revolve.pins); i++) { /* it stands, and its coils stay cool */
        ck_assert(!sim_bench_is_high(in.bench, revolve.pins[i]));
    }
    order(&in, REVOLVE, DROM_STEPPER_GO, 0);
    play_until(&in, 9000);
    ck_assert_int_eq(sim_stepper_position(in.motor), 0);
    ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
    sim_bench_free(in.bench);
}

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
TEST(stepper_keeps_to_its_rate_and_acceleration)
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
        const double max = 2 * start * start; /* steps/s², by which the settings were made */
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
                if (g_rand_boolean(dice)) { /* it is ordered anew before it has made its last step */
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
                const double change = fabs(now * now - speed * speed) / 2;
                ck_assert_msg(speed == 0 || change <= max * 1.1,
                              "motor %zu, step %u: %.0f steps/s², not %.0f", row, step, change, max);
                speed = now;
            }
            last_at = at;
            is_first = false;
        }
    }
    g_rand_free(dice);
}

/* Timed edges are made ahead: the last step of a way may lie up to 8 ms in the future when the next begins.
 */
TEST(stepper_ordered_anew_just_before_its_last_edge_keeps_to_its_rate)
{
    static const drom_stepper_settings quick = {
        .pins = {14, 16, 15, 17}, .first_us = 8000, .fastest_us = 500};
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

/* The motor's model can say no: it isn't a mock. */
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

/* Steps that speed up at three quarters of what the motor can, one of eight of them late. */
TEST(rotor_that_lags_behind_catches_up)
{
    enum { STEPS = 400, FASTEST = 1574, STEPS_S2 = FASTEST * 8 * 3 / 4 };
    static const uint8_t pins[4] = {14, 15, 16, 17};
    sim_bench *const bench = sim_bench_new(1);
    const drom_port *const port = sim_bench_port(bench);
    const sim_stepper *const motor = sim_bench_wire_stepper(bench, pins, FASTEST);
    port->write_pin(port->context, pins[0], true);
    port->write_pin(port->context, pins[1], true);
    double due_us = 10000;
    for (unsigned n = 1; n <= STEPS; n++) {
        const double interval_us = 1e6 / fmin(sqrt(2.0 * STEPS_S2 * (n + 1)), FASTEST * 0.8);
        const double at_us = due_us + (n % 8 == 0 ? 0.3 * interval_us : 0);
        (void)sim_bench_sleep(bench, (drom_wait)(at_us - (double)sim_bench_now(bench)));
        port->write_pin(port->context, pins[(n + 3) % 4], false);
        port->write_pin(port->context, pins[(n + 1) % 4], true);
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

static void assert_pixel(const stage *in, unsigned pixel, uint8_t red, uint8_t green, uint8_t blue)
{
    const uint8_t *const grb = sim_strip_pixel(in->strip, pixel);
    ck_assert_msg(grb[0] == green && grb[1] == red && grb[2] == blue, "pixel %u shows %u %u %u", pixel,
                  grb[1], grb[0], grb[2]);
}

TEST(strip_fills_shows_and_dims)
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
    ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
    sim_bench_free(in.bench);
}

/* A strip takes what comes within its latch pause for more of the same picture. */
TEST(strip_rests_dark_when_it_is_stopped_right_after_a_refresh)
{
    for (unsigned i = 0; i <= 30; i++) {
        const unsigned late_us = i < 30 ? i * 20 : 12000; /* at last, when a frame could be complete */
        stage in;
        open_stage(&in, &ours, 375);
        order(&in, LIGHTS, DROM_STRIP_FILL, 0xff8000);
        const double busy_us = sim_bench_load(in.bench).pixels_us;
        while (sim_bench_load(in.bench).pixels_us == busy_us || sim_bench_now(in.bench) < 30000) {
            play_until(&in, (unsigned)(sim_bench_now(in.bench) / 1000 + 1));
        }
        order(&in, LIGHTS, DROM_STRIP_SHOW, 3);
        const double before_us = sim_bench_load(in.bench).pixels_us;
        while (sim_bench_load(in.bench).pixels_us == before_us) {
            const drom_us wait = drom_engine_poll(&in.engine);
            (void)sim_bench_sleep(in.bench, wait < 50 ? wait : 50);
        }
        sim_bench_add_edge(in.bench, sim_bench_now(in.bench), true); /* a handset begins to transmit */
        sim_bench_block(in.bench, late_us);
        (void)drom_engine_poll(&in.engine);
        (void)drom_engine_poll(&in.engine);
        drom_engine_stop(&in.engine);
        play_until(&in, 100);
        assert_pixel(&in, 0, 0, 0, 0);
        ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
        ck_assert_int_eq(in.engine.state, DROM_STOPPED);
        sim_bench_free(in.bench);
    }
}

TEST(first_picture_after_start_leaves_the_strip_its_latch_pause)
{
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, LIGHTS, DROM_STRIP_FILL, 0xff8000);
    play_until(&in, 20);
    assert_pixel(&in, PIXELS - 1, 255, 128, 0);
    ck_assert_int_eq(drom_engine_init(&in.engine, &plan, sim_bench_port(in.bench), NULL), DROM_OK);
    order(&in, LIGHTS, DROM_STRIP_FILL, 0x000080); /* started anew, right after a picture */
    play_until(&in, 40);
    assert_pixel(&in, PIXELS - 1, 0, 0, 128);
    ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
    sim_bench_free(in.bench);
}

/* Off is dark: the same rule for strip and lamp. */
TEST(orders_about_brightness_leave_an_off_strip_off_as_they_do_a_lamp)
{
    static const struct {
        uint8_t verb;
        uint32_t value;
    } kept[] = {{DROM_STRIP_DIMMER, 20}, {DROM_STRIP_BRIGHTNESS, 51}, {DROM_STRIP_PALETTE, 0}};
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, LIGHTS, DROM_STRIP_FILL, 0xff8000);
    order(&in, LIGHTS, DROM_STRIP_OFF, 0);
    order(&in, HOUSE, DROM_LAMP_OFF, 0);
    order(&in, HOUSE, DROM_LAMP_DIMMER, 20);
    for (size_t i = 0; i < G_N_ELEMENTS(kept); i++) {
        order(&in, LIGHTS, kept[i].verb, kept[i].value);
        play_until(&in, 50 + 50 * (unsigned)i);
        assert_pixel(&in, 0, 0, 0, 0);
        ck_assert_uint_eq(sim_bench_duty(in.bench, 5), 0);
    }
    order(&in, LIGHTS, DROM_STRIP_ON, 0);
    play_until(&in, 250);
    assert_pixel(&in, 0, 51, 26, 0); /* the brightness that it was given while it was off */
    order(&in, LIGHTS, DROM_STRIP_DIMMER,
          200); /* to nothing: off, and as bright as before when it comes back */
    play_until(&in, 300);
    assert_pixel(&in, 0, 0, 0, 0);
    order(&in, LIGHTS, DROM_STRIP_TOGGLE, 0);
    play_until(&in, 350);
    assert_pixel(&in, 0, 51, 26, 0);
    order(&in, LIGHTS, DROM_STRIP_OFF, 0);
    order(&in, LIGHTS, DROM_STRIP_BRIGHTER, 25); /* comes up from the dark */
    order(&in, HOUSE, DROM_LAMP_BRIGHTER, 25);
    play_until(&in, 400);
    assert_pixel(&in, 0, 25, 13, 0);
    ck_assert_uint_gt(sim_bench_duty(in.bench, 5), 0);
    sim_bench_free(in.bench);
}

/* What an effect shows at one moment. */
typedef struct picture {
    uint8_t rgb[PIXELS][3];
} picture;

static picture picture_of(const stage *in)
{
    picture seen;
    for (unsigned i = 0; i < PIXELS; i++) {
        const uint8_t *const grb = sim_strip_pixel(in->strip, i);
        seen.rgb[i][0] = grb[1];
        seen.rgb[i][1] = grb[0];
        seen.rgb[i][2] = grb[2];
    }
    return seen;
}

static bool is_colour(const uint8_t *rgb, uint32_t colour)
{
    return (uint32_t)(rgb[0] << 16 | rgb[1] << 8 | rgb[2]) == colour;
}

/* Begins an effect, and lets it run until it is on show. */
static void open_effect(stage *in, uint32_t effect)
{
    open_stage(in, &ours, 375);
    order(in, LIGHTS, DROM_STRIP_EFFECT, effect);
    play_until(in, 100);
}

static void close_effect(stage *in)
{
    ck_assert_uint_eq(sim_strip_wrong(in->strip), 0);
    ck_assert(sim_strip_longest_gap_us(in->strip) > 0 && sim_strip_longest_gap_us(in->strip) < 9);
    sim_bench_free(in->bench);
}

/* Bands of four pixels, in the palette's order, and all of it moves on by one pixel each 65 ms; but for one
 * jump where the effect's count of frames wraps, which it does each 18 minutes, and here soon. */
TEST(chase_runs_along_in_bands_of_the_palettes_colours)
{
    stage in;
    int place = -1; /* of the first pixel in the endless band */
    unsigned moves = 0;
    unsigned jumps = 0;
    open_effect(&in, 0);
    for (unsigned ms = 100; ms <= 3100; ms += 20) {
        play_until(&in, ms);
        const picture seen = picture_of(&in);
        int now = -1;
        for (int shift = 0; shift < 12; shift++) {
            bool fits = true;
            for (unsigned i = 0; i < PIXELS; i++) {
                fits &= is_colour(seen.rgb[i], colours[((int)i + shift) / 4 % 3]);
            }
            now = fits ? shift : now;
        }
        ck_assert_int_ge(now, 0);
        jumps += place >= 0 && now != place && now != (place + 1) % 12;
        moves += place >= 0 && now != place;
        place = now;
    }
    ck_assert_uint_le(jumps, 1);
    ck_assert_uint_ge(moves, 44);
    ck_assert_uint_le(moves, 47);
    close_effect(&in);
}

/* The whole strip has one colour, on its way from one of the palette's to the next. */
TEST(blend_goes_from_colour_to_colour_of_the_palette)
{
    stage in;
    unsigned pure = 0; /* a bit for each of the palette's that was nearly reached */
    unsigned mixed = 0;
    unsigned pictures = 0;
    open_effect(&in, 1);
    for (unsigned ms = 100; ms <= 3500; ms += 20) {
        play_until(&in, ms);
        const picture seen = picture_of(&in);
        unsigned darkest = 255;
        for (unsigned part = 0; part < 3; part++) {
            darkest = MIN(darkest, seen.rgb[0][part]);
            pure |= seen.rgb[0][part] >= 240 ? 1u << part : 0;
        }
        pictures++;
        mixed += (seen.rgb[0][0] > 0) + (seen.rgb[0][1] > 0) + (seen.rgb[0][2] > 0) == 2;
        ck_assert_uint_eq(darkest, 0); /* of red, green and blue two are mixed at a time */
        ck_assert_int_ge(seen.rgb[0][0] + seen.rgb[0][1] + seen.rgb[0][2], 252);
        ck_assert_int_le(seen.rgb[0][0] + seen.rgb[0][1] + seen.rgb[0][2], 255);
        for (unsigned i = 1; i < PIXELS; i++) {
            ck_assert_mem_eq(seen.rgb[i], seen.rgb[0], 3);
        }
    }
    ck_assert_uint_eq(pure, 7);
    ck_assert_uint_ge(mixed, pictures * 9 / 10);
    close_effect(&in);
}

/* The first colour swells from dark to full and back, evenly, in 2.1 s. */
TEST(breathe_swells_and_fades_with_the_first_colour)
{
    stage in;
    int darkest = 255;
    int brightest = 0;
    int before = -1;
    unsigned turns = 0;
    bool was_rising = true;
    open_effect(&in, 2);
    for (unsigned ms = 100; ms <= 4300; ms += 20) {
        play_until(&in, ms);
        const picture seen = picture_of(&in);
        const int now = seen.rgb[0][0];
        for (unsigned i = 0; i < PIXELS; i++) {
            ck_assert(is_colour(seen.rgb[i], (uint32_t)now << 16)); /* red, and all alike */
        }
        if (before >= 0 && now != before) {
            ck_assert_int_le(abs(now - before), 12);
            turns += (now > before) != was_rising;
            was_rising = now > before;
        }
        darkest = MIN(darkest, now);
        brightest = MAX(brightest, now);
        before = now;
    }
    ck_assert_int_le(darkest, 8);
    ck_assert_int_ge(brightest, 247);
    ck_assert_uint_ge(turns, 3);
    ck_assert_uint_le(turns, 5);
    close_effect(&in);
}

/* Here and there a pixel, another choice eight times a second. */
TEST(sparkle_lights_pixels_of_the_palettes_colours_here_and_there)
{
    stage in;
    unsigned pictures = 0;
    unsigned lit = 0;
    unsigned changes = 0;
    bool was_ever_lit[PIXELS] = {false};
    unsigned places = 0;
    picture before = {0};
    open_effect(&in, 3);
    for (unsigned ms = 100; ms <= 8100; ms += 20) {
        play_until(&in, ms);
        const picture seen = picture_of(&in);
        for (unsigned i = 0; i < PIXELS; i++) {
            const bool is_dark = is_colour(seen.rgb[i], 0);
            ck_assert(is_dark || is_colour(seen.rgb[i], colours[0]) || is_colour(seen.rgb[i], colours[1]) ||
                      is_colour(seen.rgb[i], colours[2]));
            lit += !is_dark;
            places += !is_dark && !was_ever_lit[i];
            was_ever_lit[i] |= !is_dark;
        }
        changes += memcmp(&seen, &before, sizeof seen) != 0;
        before = seen;
        pictures++;
    }
    ck_assert_uint_ge(lit, pictures * PIXELS / 20); /* 40 of 256 are meant to be */
    ck_assert_uint_le(lit, pictures * PIXELS / 4);
    ck_assert_uint_ge(changes, 55);
    ck_assert_uint_le(changes, 64);
    ck_assert_uint_ge(places, PIXELS * 9 / 10);
    close_effect(&in);
}

TEST(lamp_fades_evenly_to_the_eye)
{
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, HOUSE, DROM_LAMP_FADE, DROM_FADE(200, 1000));
    play_until(&in, 500);
    ck_assert_uint_ge(sim_bench_duty(in.bench, 5), 96 * 96); /* half of the way, to the eye */
    ck_assert_uint_le(sim_bench_duty(in.bench, 5), 104 * 104);
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

/* What moves or shines after a stop. */
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

/* The alarm fires between any two calls that the stop makes, and the stepper has just turned round: steps
 * both ways are on their way to the pins. */
TEST(stop_at_any_moment_leaves_nothing_moving_and_the_rotor_where_it_says)
{
    static const drom_stepper_settings nimble = {
        .pins = {14, 16, 15, 17}, .first_us = 2000, .fastest_us = 1000};
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
        ck_assert_uint_eq(drom_engine_poll(&in.engine), DROM_NEVER);
        sim_bench_free(in.bench);
    }
}

/* However finely a port can set it: no level but 0 is dark, and none is darker than the one below. */
TEST(lamp_is_lit_at_every_level_and_never_darker_than_below)
{
    for (uint8_t bits = 1; bits <= 16; bits++) {
        sim_processor port = ours;
        stage in;
        port.pwm_bits = bits;
        open_stage(&in, &port, 375);
        uint16_t before = 0;
        for (uint32_t level = 0; level <= 255; level++) {
            order(&in, HOUSE, DROM_LAMP_FADE, DROM_FADE(level, 0));
            const uint16_t duty = sim_bench_duty(in.bench, 5);
            ck_assert_int_eq(duty == 0, level == 0);
            ck_assert_int_eq(duty == UINT16_MAX, level == 255);
            ck_assert_uint_ge(duty, before);
            ck_assert(duty == UINT16_MAX || duty % (UINT32_C(0x10000) >> bits) == 0);
            ck_assert_double_le(fabs(duty - level * level * 65536.0 / 65025), 65536.0 / (1 << bits) + 512);
            before = duty;
        }
        sim_bench_free(in.bench);
    }
}

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

static void print_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    g_string_append_printf(context, "%" G_GUINT64_FORMAT " %u %d\n", at_us, pin, is_high);
}

static void print_refresh(void *context, uint64_t at_us, const sim_strip *strip)
{
    g_string_append_printf(context, "%" G_GUINT64_FORMAT, at_us);
    for (unsigned i = 0; i < PIXELS; i++) {
        const uint8_t *const grb = sim_strip_pixel(strip, i);
        g_string_append_printf(context, " %02x%02x%02x", grb[0], grb[1], grb[2]);
    }
    g_string_append_c(context, '\n');
}

/* All that is seen of an evening's second, to the last bit of every figure. */
static GString *record(const sim_processor *processor, bool plays_every_bit)
{
    stage in;
    GString *const text = g_string_new(NULL);
    open_stage(&in, processor, 375);
    sim_bench_play_every_bit(in.bench, plays_every_bit);
    sim_bench_observe(in.bench, &(sim_observer){.context = text, .pin = print_pin, .refresh = print_refresh});
    (void)sim_bench_wire_relay(in.bench, 9, false);
    order(&in, LIGHTS, DROM_STRIP_EFFECT, 0);
    order(&in, REVOLVE, DROM_STEPPER_RUN, 1);
    order(&in, HORN, DROM_SENDER_SEND, DROM_SEND(0, 2));
    sim_bench_mask(in.bench, 300000, 50);
    for (uint64_t i = 0; i < 5; i++) {
        ck_assert(sim_bench_press(in.bench, &(sim_press){.waveform = &drom_nec_waveform,
                                                         .code = wand[0],
                                                         .at_us = 200000 + i * 301137,
                                                         .held_us = 130000,
                                                         .room = {.jitter_us = 20}}));
    }
    play_until(&in, 1700);
    const sim_load load = sim_bench_load(in.bench);
    g_string_append_printf(text, "%a %a %a %u %a %u %u %u", load.handlers_us, load.pixels_us,
                           load.longest_masked_us, load.merged, sim_strip_longest_gap_us(in.strip),
                           sim_strip_wrong(in.strip), sim_strip_refreshes(in.strip), in.presses);
    sim_bench_free(in.bench);
    return text;
}

TEST(refresh_that_nothing_disturbs_is_the_same_played_at_once_or_bit_by_bit)
{
    sim_processor processors[] = {ours, ours, ours, {0}};
    processors[1].pixels = SIM_PIXELS_MASKED;
    processors[1].stamp = DROM_STAMP_INTERRUPT;
    processors[2].latency_us = 1.1;
    processors[2].poll_us = 13.7;
    for (size_t i = 0; i < G_N_ELEMENTS(processors); i++) {
        g_autoptr(GString) at_once = record(&processors[i], false);
        g_autoptr(GString) bit_by_bit = record(&processors[i], true);
        ck_assert_uint_gt(at_once->len, 10000);
        ck_assert_msg(strcmp(at_once->str, bit_by_bit->str) == 0, "processor %zu", i);
    }
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

static void no_alarm(void *context, const drom_timed_edges *timed_edges)
{
    (void)context;
    (void)timed_edges;
}

static void no_stop(void *context)
{
    (void)context;
}

static uint32_t no_carrier(void *context, uint8_t pin, uint8_t khz)
{
    (void)context;
    (void)pin;
    (void)khz;
    return 1;
}

/* An edge with every other poll, for two seconds. */
TEST(strip_goes_on_in_noise_that_never_ends)
{
    static const drom_port port = {.facts = {.can_slice = true, .pins = 20, .pwm_bits = 8},
                                   .now = noisy_clock,
                                   .write_pin = no_pin,
                                   .write_pwm = no_duty,
                                   .toggle_pin = one_bit,
                                   .ready_carrier = no_carrier,
                                   .arm_alarm = no_alarm,
                                   .stop_alarm = no_stop,
                                   .send_pixels = count_refresh};
    drom_engine engine;
    ck_assert_int_eq(drom_engine_init(&engine, &plan, &port, NULL), DROM_OK);
    (void)drom_engine_poll(&engine);
    drom_outputs_act(&plan.outputs, &engine.timing, LIGHTS, DROM_STRIP_EFFECT, 0);
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

TEST(strip_and_reception_live_together_only_in_slices)
{
    unsigned wrong = 0;
    ck_assert_uint_eq(presses_heard(&ours, &wrong), 40);
    ck_assert_uint_eq(wrong, 0);
    sim_processor open_bits = ours; /* interrupts stay on: reception ruins the strip */
    open_bits.pixels = SIM_PIXELS_OPEN;
    ck_assert_uint_eq(presses_heard(&open_bits, &wrong), 40);
    ck_assert_uint_gt(wrong, 100);
}

/* A strip of other code, which masks interrupts for a whole refresh each 3 ms: it ruins reception. */
TEST(strip_that_masks_without_asking_ruins_reception)
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

/* A port that can't slice: our own strip then waits for quiet air, and the decoder bears what a press's first
 * edge suffers. */
TEST(port_that_cannot_slice_refreshes_in_quiet_air)
{
    sim_processor masked = ours;
    unsigned wrong = 0;
    masked.pixels = SIM_PIXELS_MASKED;
    masked.stamp = DROM_STAMP_INTERRUPT;
    ck_assert_uint_ge(presses_heard(&masked, &wrong), 39);
    ck_assert_uint_eq(wrong, 0);
}

static bool is_on(uint8_t output)
{
    return outputs[output].kind->is_on(outputs[output].state);
}

static bool is_busy(uint8_t output)
{
    return outputs[output].kind->is_busy(outputs[output].state);
}

/* What a condition or a wait asks. */
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

/* Where a timer latches when an edge was, what masks interrupts moves no edge, and none may be set back. */
TEST(edges_that_hardware_latched_are_taken_as_they_are)
{
    enum { PRESSES = 400, APART_US = 61000 };
    static const drom_protocol_ref sirc[] = {&drom_sirc12};
    static const drom_code codes[] = {{&drom_sirc12, 11, 37}};
    static const drom_handset hand[] = {{.codes = DROM_ROWS(codes), .needs_second_frame = false}};
    sim_processor latching = ours;
    drom_plan listens = plan;
    stage in;
    latching.pixels = SIM_PIXELS_MASKED;
    latching.stamp = DROM_STAMP_HARDWARE;
    listens.receive.protocols.rows = sirc;
    listens.keys.handsets.rows = hand;
    open_plan(&in, &listens, &latching, 375);
    order(&in, LIGHTS, DROM_STRIP_EFFECT, 0);
    for (uint64_t i = 0; i < PRESSES; i++) {
        ck_assert(sim_bench_press(in.bench, &(sim_press){.waveform = &drom_sirc12_waveform,
                                                         .code = codes[0],
                                                         .at_us = 500000 + i * 5 * APART_US + i * 137 % 5000,
                                                         .frames = 1}));
    }
    play_until(&in, 500 + PRESSES * 5 * APART_US / 1000);
    ck_assert_uint_eq(in.presses, PRESSES);
    sim_bench_free(in.bench);
}

SUITE("timed")
