/* A port's optional capabilities on the bench: pixels and bursts sent by hardware, intervals that a machine
 * measures, inputs, bytes, USB, a store, and the guard. */
#include "timed.h"
#include "dromikos/outputs/lamp.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/outputs/sender.h"
#include "dromikos/outputs/stepper.h"
#include "dromikos/outputs/strip.h"

static drom_interval_ring measured;

/* The stage of timed.h, for machines that measure. */
static drom_plan measuring(void)
{
    drom_plan with = plan;
    with.receive.intervals = &measured;
    measured = (drom_interval_ring){0};
    return with;
}

static const sim_processor apart = {.pixels = SIM_PIXELS_BY_HARDWARE, .poll_us = 20};

TEST(pixels_that_go_out_by_themselves_are_left_alone_until_they_are_out)
{
    stage in;
    open_stage(&in, &apart, 375);
    order(&in, LIGHTS, DROM_STRIP_FILL, 0xff8000);
    for (unsigned ms = 5; ms < 200; ms++) { /* a new picture each ms, while a refresh takes 1.8 ms */
        play_until(&in, ms);
        order(&in, LIGHTS, DROM_STRIP_FILL, ms % 2 == 0 ? 0xff8000 : 0x0000ff);
    }
    play_until(&in, 210);
    assert_pixel(&in, 0, 0, 0, 0xff);
    assert_pixel(&in, PIXELS - 1, 0, 0, 0xff);
    ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
    ck_assert_uint_ge(sim_strip_refreshes(in.strip), 40);
    sim_bench_free(in.bench);
}

TEST(stop_while_pixels_go_out_ends_in_the_dark)
{
    for (unsigned i = 0; i < 60; i++) {
        stage in;
        open_stage(&in, &apart, 375);
        order(&in, LIGHTS, DROM_STRIP_EFFECT, 0);
        play_until(&in, 100);
        sim_bench_block(in.bench, 97 * i);
        drom_engine_stop(&in.engine);
        play_until(&in, 120);
        ck_assert_uint_eq(in.engine.state, DROM_STOPPED);
        for (unsigned pixel = 0; pixel < PIXELS; pixel++) {
            assert_pixel(&in, pixel, 0, 0, 0);
        }
        ck_assert_uint_eq(sim_strip_wrong(in.strip), 0);
        sim_bench_free(in.bench);
    }
}

TEST(bursts_that_go_out_by_themselves_are_understood)
{
    stage in;
    open_stage(&in, &(sim_processor){.has_burst = true, .poll_us = 20}, 375);
    sim_target *const amplifier = sim_bench_wire_target(in.bench, horn.pin);
    order(&in, HORN, DROM_SENDER_SEND, DROM_SEND(0, 5));
    order(&in, REVOLVE, DROM_STEPPER_RUN, 1); /* its steps are still timed edges */
    play_until(&in, 900);
    ck_assert_uint_eq(sim_target_frames(amplifier), 5);
    ck_assert_uint_eq(sim_target_unknown(amplifier), 0);
    ck_assert(!drom_sender.is_busy(&horn_state));
    ck_assert_uint_eq(sim_stepper_lost(in.motor), 0);
    ck_assert_int_gt(sim_stepper_position(in.motor), 100);
    order(&in, HORN, DROM_SENDER_SEND, DROM_SEND(0, 5));
    play_until(&in, 930);
    drom_engine_stop(&in.engine);
    play_until(&in, 1500);
    ck_assert_uint_eq(sim_target_frames(amplifier), 5);
    sim_bench_free(in.bench);
}

/* With each delay, from 0 to a whole frame. */
TEST(intervals_that_a_machine_measures_are_heard_as_edges_are)
{
    static const double late_us[] = {1, 500, 3000, 15000, 100000};
    const drom_plan tables = measuring();
    for (size_t i = 0; i < G_N_ELEMENTS(late_us); i++) {
        stage in;
        open_plan(&in, &tables, &(sim_processor){.interval_late_us = late_us[i], .poll_us = 20}, 375);
        order(&in, LIGHTS, DROM_STRIP_EFFECT, 0);
        for (unsigned press = 0; press < 20; press++) {
            ck_assert(sim_bench_press(in.bench, &(sim_press){.waveform = &drom_nec_waveform,
                                                             .code = wand[0],
                                                             .at_us = 100000 + press * UINT64_C(600000),
                                                             .held_us = press % 2 == 0 ? 0 : 300000}));
        }
        play_until(&in, 13000);
        ck_assert_msg(in.presses == 20, "%u of 20 with %g us", in.presses, late_us[i]);
        ck_assert_uint_eq(holds[0].state, DROM_KEY_UP);
        ck_assert_uint_ge(sim_strip_refreshes(in.strip), 500);
        sim_bench_free(in.bench);
    }
}

/* A frame has begun, and no interval of it has been passed on yet. */
TEST(sender_waits_for_a_frame_that_is_still_being_measured)
{
    static const drom_sender_settings open_horn = {.keys = DROM_ROWS(horn_keys), .pin = 3};
    static const drom_output heard_outputs[] = {
        DROM_STEPPER(revolve, revolve_state), DROM_STRIP(lights, lights_state), DROM_LAMP(house, house_state),
        DROM_SENDER(open_horn, horn_state)};
    drom_plan tables = measuring();
    tables.outputs.outputs.rows = heard_outputs;
    stage in;
    open_plan(&in, &tables, &(sim_processor){.interval_late_us = 70000, .poll_us = 20}, 375);
    sim_bench_hear_itself(in.bench, true);
    sim_target *const amplifier = sim_bench_wire_target(in.bench, horn.pin);
    for (unsigned press = 0; press < 20; press++) {
        ck_assert(
            sim_bench_press_once(in.bench, &drom_nec_waveform, &wand[0], 100000 + press * UINT64_C(700000)));
    }
    for (unsigned press = 0; press < 20; press++) { /* requested while the frame is in the air */
        play_until(&in, 110 + 700 * press);
        order(&in, HORN, DROM_SENDER_SEND, DROM_SEND(0, 1));
    }
    play_until(&in, 15000);
    ck_assert_uint_eq(in.presses, 20);
    ck_assert_uint_eq(sim_target_frames(amplifier), 20);
    sim_bench_free(in.bench);
}

TEST(plan_without_memory_for_intervals_is_refused)
{
    drom_engine engine;
    sim_bench *const bench = sim_bench_new(1);
    sim_bench_set_processor(bench, &(sim_processor){.interval_late_us = 100});
    ck_assert_int_eq(drom_engine_init(&engine, &plan, sim_bench_port(bench), NULL), DROM_BAD_PLAN);
    sim_bench_free(bench);
}

TEST(input_rests_high_and_a_contact_pulls_it_low)
{
    sim_bench *const bench = sim_bench_new(1);
    const drom_port *const port = sim_bench_port(bench);
    ck_assert(port->pins->read(port->context, 15));
    sim_bench_close(bench, 15, true);
    ck_assert(!port->pins->read(port->context, 15));
    sim_bench_close(bench, 15, false);
    ck_assert(port->pins->read(port->context, 15));
    sim_bench_free(bench);
}

TEST(bytes_go_both_ways_and_what_finds_no_room_is_noted)
{
    static uint8_t memory[4][16];
    drom_line lines[2] = {{.in = {memory[0], 16, 0, 0}, .out = {memory[1], 16, 0, 0}},
                          {.in = {memory[2], 16, 0, 0}, .out = {memory[3], 16, 0, 0}}};
    sim_bench *const bench = sim_bench_new(1);
    const drom_port *const port = sim_bench_port(bench);
    ck_assert(!port->bytes->open(port->context, 2, &lines[0], 9600));
    ck_assert(!port->bytes->open(port->context, 0, &lines[0], 5));
    ck_assert(port->bytes->open(port->context, 0, &lines[0], 9600));
    ck_assert(port->bytes->open(port->context, 1, &lines[1], 9600));
    for (uint8_t i = 0; i < 10; i++) {
        ck_assert(drom_bytes_put(&lines[0].out, i));
        ck_assert(drom_bytes_put(&lines[1].out, (uint8_t)(100 + i)));
    }
    port->bytes->send(port->context, 0);
    port->bytes->send(port->context, 1);
    sim_bench_block(bench, 9.5 * 1042);
    ck_assert_uint_eq(drom_bytes_room(&lines[1].in), 16 - 9); /* a byte in 1.04 ms */
    sim_bench_block(bench, 2000);
    for (uint8_t i = 0; i < 10; i++) {
        uint8_t byte = 0;
        ck_assert(drom_bytes_take(&lines[1].in, &byte) && byte == i);
        ck_assert(drom_bytes_take(&lines[0].in, &byte) && byte == 100 + i);
    }
    for (uint8_t i = 0; i < 20; i++) {
        ck_assert(drom_bytes_put(&lines[0].out, i));
        port->bytes->send(port->context, 0);
        sim_bench_block(bench, 1100);
    }
    ck_assert(lines[1].has_lost && !lines[0].has_lost);
    ck_assert_uint_eq(drom_bytes_room(&lines[1].in), 0);
    while (drom_bytes_put(&lines[0].out, 1)) {
    }
    ck_assert_uint_eq(drom_bytes_room(&lines[0].out), 0);
    sim_bench_free(bench);
}

TEST(reports_go_to_a_computer_that_listens_one_at_a_time)
{
    static const uint8_t a[8] = {0, 0, 4};
    sim_bench *const bench = sim_bench_new(1);
    const drom_port *const port = sim_bench_port(bench);
    size_t count = 0;
    ck_assert(!port->hid->is_ready(port->context));
    ck_assert(!port->hid->send(port->context, a, sizeof a));
    sim_bench_set_computer(bench, true);
    ck_assert(!port->hid->is_ready(port->context));
    port->hid->attach(port->context);
    ck_assert(port->hid->is_ready(port->context));
    ck_assert(port->hid->send(port->context, a, sizeof a));
    ck_assert(!port->hid->send(port->context, a, sizeof a)); /* on its way */
    sim_bench_block(bench, 1000);
    ck_assert(port->hid->send(port->context, a, sizeof a));
    port->hid->detach(port->context);
    const sim_report *const reports = sim_bench_reports(bench, &count);
    ck_assert_uint_eq(count, 4);
    ck_assert_uint_eq(reports[1].bytes[2], 4);
    ck_assert(reports[2].bytes[2] == 0 && reports[2].count == 8);
    ck_assert(reports[3].bytes[0] == 0 && reports[3].count == 2);
    ck_assert(!port->hid->is_ready(port->context));
    sim_bench_free(bench);
}

TEST(store_keeps_what_is_programmed_and_a_cut_spoils_only_what_was_begun)
{
    static const uint8_t words[4] = {1, 2, 3, 4};
    sim_bench *const bench = sim_bench_new(1);
    const drom_port *const port = sim_bench_port(bench);
    uint8_t read[4];
    port->store->program(port->context, 130, words, 4);
    ck_assert(port->store->is_busy(port->context));
    sim_bench_block(bench, 300);
    ck_assert(!port->store->is_busy(port->context));
    port->store->program(port->context, 300, words, 4);
    sim_bench_block(bench, 300);
    unsigned spoilt = 0;
    for (unsigned i = 0; i < 20; i++) {
        port->store->erase(port->context, 300);
        sim_bench_block(bench, 1000);
        sim_bench_cut_power(bench);
        port->store->read(port->context, 300, read, 4);
        spoilt += memcmp(read, words, 4) != 0 && memcmp(read, "\xff\xff\xff\xff", 4) != 0;
        port->store->read(port->context, 130, read, 4);
        ck_assert_mem_eq(read, words, 4);
        port->store->erase(port->context, 300);
        sim_bench_block(bench, 5000);
        port->store->program(port->context, 300, words, 4);
        sim_bench_block(bench, 300);
    }
    ck_assert_uint_ge(spoilt, 10);
    sim_bench_free(bench);
}

TEST(guard_puts_pins_to_rest_where_nobody_polls)
{
    static const drom_rest_pin image[] = {{7, false}, {4, true}};
    sim_bench *const bench = sim_bench_new(1);
    const drom_port *const port = sim_bench_port(bench);
    port->pins->write(port->context, 7, true);
    port->pins->write(port->context, 4, false);
    port->guard->start(port->context, 250, image, 2);
    for (unsigned i = 0; i < 10; i++) {
        sim_bench_block(bench, 200000);
        port->guard->feed(port->context);
        ck_assert(sim_bench_is_high(bench, 7) && !sim_bench_is_high(bench, 4));
    }
    sim_bench_block(bench, 249000);
    ck_assert(sim_bench_is_high(bench, 7));
    ck_assert(!port->guard->has_acted(port->context));
    sim_bench_block(bench, 2000);
    ck_assert(!sim_bench_is_high(bench, 7) && sim_bench_is_high(bench, 4));
    ck_assert(port->guard->has_acted(port->context));
    port->guard->stop(port->context);
    ck_assert(!port->guard->has_acted(port->context));
    port->pins->write(port->context, 7, true);
    sim_bench_block(bench, 1000000);
    ck_assert(sim_bench_is_high(bench, 7));
    sim_bench_free(bench);
}

/* Ports that lack a function or a fact that outputs of a plan need. */
static void assert_port(const drom_output *output, const drom_port *port, drom_status expected)
{
    const drom_output rows[] = {*output};
    const drom_plan only = {.outputs = {.outputs = DROM_ROWS(rows)}};
    drom_engine engine;
    ck_assert_int_eq(drom_engine_init(&engine, &only, port, NULL), expected);
}

#define ASSERT_PORT_LACKS(output, member, ...)                                                               \
    do {                                                                                                     \
        drom_port less = *port;                                                                              \
        less.member = __VA_ARGS__;                                                                           \
        assert_port(output, &less, DROM_BAD_PORT);                                                           \
    } while (0)

TEST(plan_with_guarded_pins_needs_a_port_that_guards)
{
    static const drom_rest_pin pins[] = {{7, false}};
    const drom_plan only = {.guard = {.pins = DROM_ROWS(pins), .ms = 250}};
    sim_bench *const bench = sim_bench_new(1);
    drom_port port = *sim_bench_port(bench);
    drom_engine engine;
    ck_assert_int_eq(drom_engine_init(&engine, &only, &port, NULL), DROM_OK);
    port.guard = NULL;
    ck_assert_int_eq(drom_engine_init(&engine, &only, &port, NULL), DROM_BAD_PORT);
    sim_bench_free(bench);
}

TEST(port_that_lacks_what_an_output_needs_is_refused)
{
    static const drom_relay_settings bare_relay = {.pin = 4};
    static drom_relay_state bare_relay_state;
    static const drom_output relay = DROM_RELAY(bare_relay, bare_relay_state);
    sim_bench *const bench = sim_bench_new(1);
    const drom_port *const port = sim_bench_port(bench);
    for (size_t i = 0; i < G_N_ELEMENTS(outputs); i++) {
        assert_port(&outputs[i], port, DROM_OK);
        ASSERT_PORT_LACKS(&outputs[i], clock, NULL);
        ASSERT_PORT_LACKS(&outputs[i], pins, NULL);
    }
    drom_port_edges no_carrier = *port->edges;
    no_carrier.ready_carrier = NULL;
    ASSERT_PORT_LACKS(&outputs[HOUSE], pwm, NULL);
    ASSERT_PORT_LACKS(&outputs[HOUSE], pwm, &(drom_port_pwm){.bits = 0});
    ASSERT_PORT_LACKS(&outputs[HOUSE], pwm, &(drom_port_pwm){.bits = 17});
    ASSERT_PORT_LACKS(&outputs[REVOLVE], edges, NULL);
    ASSERT_PORT_LACKS(&outputs[HORN], edges, NULL);
    ASSERT_PORT_LACKS(&outputs[HORN], edges, &no_carrier);
    ASSERT_PORT_LACKS(&outputs[LIGHTS], pixels, NULL);
    const drom_port bare = {
        .facts = {.pins = 20}, .clock = port->clock, .pins = port->pins, .context = port->context};
    assert_port(&relay, &bare, DROM_OK); /* a relay needs no more */
    sim_bench_free(bench);
}

SUITE("port")
