/* The strip: pictures, and refreshes beside reception. */
#include "timed.h"
#include "dromikos/outputs/lamp.h"
#include "dromikos/outputs/sender.h"
#include "dromikos/outputs/stepper.h"
#include "dromikos/outputs/strip.h"

#include <string.h>

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
    order(&in, LIGHTS, DROM_STRIP_BRIGHTNESS, 100);
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

/* A strip takes bytes that come within its latch pause as more of the same picture. */
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

/* Orders in quick succession, as from a looping scene: each restarts the picture, which takes longer than the
 * time to the next order. */
TEST(strip_shows_pictures_though_orders_follow_each_other_faster_than_it_is_painted)
{
    stage in;
    open_stage(&in, &ours, 375);
    play_until(&in, 100);
    const unsigned before = sim_strip_refreshes(in.strip);
    for (unsigned polls = 0; sim_bench_now(in.bench) < 1100000; polls++) {
        if (polls % 3 == 0) {
            order(&in, LIGHTS, DROM_STRIP_FILL, 0xff0000 >> polls % 8);
        }
        (void)sim_bench_sleep(in.bench, MIN(drom_engine_poll(&in.engine), 300));
    }
    ck_assert_uint_ge(sim_strip_refreshes(in.strip) - before, 10);
    order(&in, LIGHTS, DROM_STRIP_FILL, 0x0000ff);
    play_until(&in, 1200);
    assert_pixel(&in, PIXELS - 1, 0, 0, 255);
    ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
    sim_bench_free(in.bench);
}

TEST(first_picture_after_start_leaves_the_strip_its_latch_pause)
{
    stage in;
    open_stage(&in, &ours, 375);
    order(&in, LIGHTS, DROM_STRIP_FILL, 0xff8000);
    play_until(&in, 20);
    assert_pixel(&in, PIXELS - 1, 255, 128, 0);
    ck_assert_int_eq(drom_engine_init(&in.engine, &plan, sim_bench_port(in.bench), NULL), DROM_OK);
    order(&in, LIGHTS, DROM_STRIP_FILL, 0x000080); /* started again, right after a picture */
    play_until(&in, 40);
    assert_pixel(&in, PIXELS - 1, 0, 0, 128);
    ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
    sim_bench_free(in.bench);
}

TEST(strip_goes_through_the_colours_of_its_palette_in_a_ring)
{
    stage in;
    open_stage(&in, &ours, 375);
    const drom_strip_settings *const settings = outputs[LIGHTS].settings;
    const drom_strip_palette *const palette = &settings->palettes.rows[0];
    const uint8_t count = palette->colours.count;
    static const int ways[] = {0, 1, 1, 1, 1, 1, 1, 0, 0, 0, 1};
    int at = 0; /* the first step goes to the last one, through the one before the first */
    ck_assert_uint_gt(count, 1);
    for (size_t i = 0; i < G_N_ELEMENTS(ways); i++) {
        at = (at + (ways[i] != 0 ? 1 : count - 1)) % count;
        at = i == 0 ? count - 1 : at;
        order(&in, LIGHTS, DROM_STRIP_COLOUR, (uint32_t)ways[i]);
        play_until(&in, 50 + 50 * (unsigned)i);
        const uint32_t colour = palette->colours.rows[at];
        assert_pixel(&in, PIXELS - 1, (uint8_t)(colour >> 16), (uint8_t)(colour >> 8), (uint8_t)colour);
    }
    order(&in, LIGHTS, DROM_STRIP_PALETTE, 0); /* a new palette begins with its first colour */
    order(&in, LIGHTS, DROM_STRIP_COLOUR, 1);
    ck_assert_uint_eq(((drom_strip_state *)outputs[LIGHTS].state)->picture.colour, palette->colours.rows[0]);
    ck_assert(!drom_strip.accepts_action(settings, DROM_STRIP_COLOUR, 2));
    sim_bench_free(in.bench);
}

/* Off is dark: the same rule for strips and lamps. */
TEST(orders_about_brightness_leave_an_off_strip_off_as_they_do_a_lamp)
{
    static const struct {
        uint8_t verb;
        uint32_t value;
    } kept[] = {{DROM_STRIP_DIMMER, 20}, {DROM_STRIP_BRIGHTNESS, 40}, {DROM_STRIP_PALETTE, 0}};
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
    assert_pixel(&in, 0, 50, 25, 0); /* the brightness that was set while it was off */
    order(&in, LIGHTS, DROM_STRIP_DIMMER,
          200); /* to 0: off, and as bright as before when it is switched on again */
    play_until(&in, 300);
    assert_pixel(&in, 0, 0, 0, 0);
    order(&in, LIGHTS, DROM_STRIP_TOGGLE, 0);
    play_until(&in, 350);
    assert_pixel(&in, 0, 50, 25, 0);
    order(&in, LIGHTS, DROM_STRIP_OFF, 0);
    order(&in, LIGHTS, DROM_STRIP_BRIGHTER, 20); /* fades in from dark */
    order(&in, HOUSE, DROM_LAMP_BRIGHTER, 20);
    play_until(&in, 400);
    assert_pixel(&in, 0, 24, 12, 0);
    ck_assert_uint_gt(sim_bench_duty(in.bench, 5), 0);
    sim_bench_free(in.bench);
}

/* Presses keys while the strip refreshes without pause. Counts the presses received and the wrong pixels. */
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

/* All results of a second of an evening, to the last bit of each figure. */
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

/* An edge at every other poll, for two seconds. */
TEST(strip_goes_on_in_noise_that_never_ends)
{
    const drom_port port = {
        .facts = {.pins = 20},
        .clock = &(drom_port_clock){.now = noisy_clock},
        .pins = &(drom_port_pins){.write = no_pin},
        .pwm = &(drom_port_pwm){.write = no_duty, .bits = 8},
        .edges = &(drom_port_edges){one_bit, no_carrier, no_alarm, no_stop},
        .pixels = &(drom_port_pixels){.begin = count_refresh, .can_slice = true},
    };
    drom_engine engine;
    ck_assert_int_eq(drom_engine_init(&engine, &plan, &port, NULL), DROM_OK);
    (void)drom_engine_poll(&engine);
    ck_assert_int_eq(drom_engine_order(&engine, LIGHTS, DROM_STRIP_EFFECT, 0), DROM_OK);
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
    sim_processor open_bits = ours; /* interrupts stay on: reception corrupts the strip */
    open_bits.pixels = SIM_PIXELS_OPEN;
    ck_assert_uint_eq(presses_heard(&open_bits, &wrong), 40);
    ck_assert_uint_gt(wrong, 100);
}

/* A strip of foreign code that masks interrupts for a whole refresh each 3 ms corrupts reception. */
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

/* A port that can't slice: our strip then waits for silence, and the decoder tolerates the error of a press's
 * first edge. */
TEST(port_that_cannot_slice_refreshes_in_quiet_air)
{
    sim_processor masked = ours;
    unsigned wrong = 0;
    masked.pixels = SIM_PIXELS_MASKED;
    masked.stamp = DROM_STAMP_INTERRUPT;
    ck_assert_uint_ge(presses_heard(&masked, &wrong), 39);
    ck_assert_uint_eq(wrong, 0);
}

/* If a timer latches the times of edges, masked interrupts move no edge, and none may be corrected. */
TEST(edges_that_hardware_latched_are_taken_as_they_are)
{
    enum { PRESSES = 400, APART_US = 61000 };
    static const drom_protocol_ref sirc[] = {&drom_sirc12};
    static const drom_code codes[] = {{DROM_SIRC12, 11, 37}};
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

/* When the strip showed a picture. */
typedef struct stillness {
    uint64_t shown_us;
    uint64_t longest_us;
} stillness;

static void note_refresh(void *context, uint64_t at_us, const sim_strip *strip)
{
    stillness *const still = context;
    (void)strip;
    if (still->shown_us > 0 && at_us - still->shown_us > still->longest_us) {
        still->longest_us = at_us - still->shown_us;
    }
    still->shown_us = at_us;
}

/* With bursts, steps and keys at once, and decoders for eight protocols that keep main busy. */
TEST(strip_never_stands_still_for_long)
{
    static const drom_protocol_ref eight[] = {&drom_nec,    &drom_samsung32, &drom_jvc,  &drom_kaseikyo,
                                              &drom_sirc12, &drom_rc5,       &drom_lg28, &drom_rca};
    static drom_decoder eight_decoders[8];
    static const drom_strip_settings restless = {.bytes = bytes,
                                                 .count = PIXELS,
                                                 .pin = 6,
                                                 .order = {1, 0, 2},
                                                 .effects = DROM_ROWS(effects),
                                                 .palettes = DROM_ROWS(palettes)};
    static const drom_output all[] = {DROM_STEPPER(revolve, revolve_state),
                                      DROM_STRIP(restless, lights_state), DROM_LAMP(house, house_state),
                                      DROM_SENDER(horn, horn_state)};
    drom_plan tables = plan;
    tables.receive.protocols = (drom_receive_plan){.protocols = DROM_ROWS(eight)}.protocols;
    tables.receive.decoders = eight_decoders;
    tables.outputs = (drom_outputs_plan){.outputs = DROM_ROWS(all)};
    sim_processor slow = ours;
    slow.poll_us = 170;
    stillness still = {0};
    stage in;
    open_plan(&in, &tables, &slow, 375);
    sim_bench_observe(in.bench, &(sim_observer){.context = &still, .refresh = note_refresh});
    (void)sim_bench_wire_target(in.bench, horn.pin);
    order(&in, LIGHTS, DROM_STRIP_EFFECT, 0);
    order(&in, REVOLVE, DROM_STEPPER_RUN, 1);
    order(&in, HORN, DROM_SENDER_HOLD, 0);
    for (unsigned press = 0; press < 40; press++) {
        ck_assert(
            sim_bench_press_once(in.bench, &drom_nec_waveform, &wand[0], 200000 + press * UINT64_C(290000)));
    }
    play_until(&in, 12000);
    ck_assert_uint_eq(in.presses, 40);
    ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
    ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
    ck_assert_msg(still.longest_us <= 20000, "%g ms", (double)still.longest_us / 1000);
    sim_bench_free(in.bench);
}

/* Three strips, of which the first two never rest: each gets its turn, shows its picture, and is dark after a
 * stop. */
TEST(strips_take_turns_and_all_are_dark_after_a_stop)
{
    enum { STRIPS = 3, FEW = 12, FIRST_PIN = 4 };
    static uint8_t own_bytes[STRIPS][3 * FEW];
    static drom_strip_state states[STRIPS];
    static const sim_pixels ways[] = {SIM_PIXELS_SLICED, SIM_PIXELS_MASKED, SIM_PIXELS_BY_HARDWARE};
    for (size_t i = 0; i < G_N_ELEMENTS(ways) * 3; i++) {
        drom_strip_settings settings[STRIPS];
        drom_output rows[STRIPS];
        const sim_strip *shown[STRIPS];
        sim_processor processor = ours;
        const unsigned restless = (unsigned)i % 3; /* the first two refresh without pause, or run an effect */
        stage in = {.bench = sim_bench_new(3)};
        for (uint8_t j = 0; j < STRIPS; j++) {
            settings[j] = (drom_strip_settings){.bytes = own_bytes[j],
                                                .count = FEW,
                                                .pin = (uint8_t)(FIRST_PIN + j),
                                                .order = {0, 1, 2},
                                                .every_ms = j == 2 || restless == 0 ? 5 : 0,
                                                .effects = DROM_ROWS(effects),
                                                .palettes = DROM_ROWS(palettes)};
            rows[j] = (drom_output)DROM_STRIP(settings[j], states[j]);
            shown[j] = sim_bench_wire_strip(in.bench, settings[j].pin, FEW, 9);
        }
        const drom_plan three = {.outputs = {.outputs = DROM_ROWS(rows)}};
        processor.pixels = ways[i / 3];
        sim_bench_set_processor(in.bench, &processor);
        ck_assert_int_eq(drom_engine_init(&in.engine, &three, sim_bench_port(in.bench), NULL), DROM_OK);
        sim_bench_wire_engine(in.bench, &in.engine);
        for (uint8_t j = 0; j < 2 && restless != 1; j++) {
            order(&in, j, DROM_STRIP_EFFECT, 0);
        }
        order(&in, 2, DROM_STRIP_FILL, 0x102030);
        play_until(&in, 1000);
        ck_assert_msg(memcmp(sim_strip_pixel(shown[2], FEW - 1), "\x10\x20\x30", 3) == 0, "case %zu", i);
        for (uint8_t j = 0; j < 2 && restless != 1; j++) {
            ck_assert_msg(sim_strip_refreshes(shown[j]) >= 30, "case %zu: %u refreshes of strip %u", i,
                          sim_strip_refreshes(shown[j]), j);
        }
        drom_engine_stop(&in.engine);
        play_until(&in, 1060);
        ck_assert_msg(in.engine.state == DROM_STOPPED, "case %zu: it never stops", i);
        for (uint8_t j = 0; j < STRIPS; j++) {
            for (unsigned pixel = 0; pixel < FEW; pixel++) {
                ck_assert(memcmp(sim_strip_pixel(shown[j], pixel), "\0\0\0", 3) == 0);
            }
            ck_assert_uint_eq(sim_strip_wrong(shown[j]), 0);
        }
        sim_bench_free(in.bench);
    }
}

SUITE("strip")
