/* Buttons and switches: contacts that bounce, from the pin to the event. */
#include "support.h"

#include "sim.h"

enum { WALL, TOP_PIN = 18, UP_PIN = 15, DOWN_PIN = 16 };

static const drom_code codes[] = {{.protocol = DROM_NO_PROTOCOL}, {.protocol = DROM_NO_PROTOCOL}};
static const drom_handset handsets[] = {{.codes = DROM_ROWS(codes)}};
static const drom_contact contacts[] = {{UP_PIN, WALL, 0}, {DOWN_PIN, WALL, 1}, {TOP_PIN, DROM_NONE, 0}};
static const uint16_t hold_ms[] = {300};

typedef struct wall {
    drom_hold hold;
    drom_last_press last_press;
    drom_touch touches[3];
    drom_deadline look_at;
    drom_ticking tick;
    bool is_closed;
    drom_plan plan;
    drom_engine engine;
    drom_observer observer;
    sim_bench *bench;
    GString *log;
} wall;

static void on_key(void *context, const drom_key_event *event)
{
    static const char *const names[] = {"press", "repeat", "hold", "release", "tap", "double"};
    wall *const in = context;
    g_string_append_printf(in->log, "%u %s%u ", (unsigned)(sim_bench_now(in->bench) / 1000),
                           names[g_bit_nth_lsf(event->gesture, -1)], event->key);
}

static void on_event(void *context, const drom_event *event)
{
    wall *const in = context;
    if (event->source == DROM_SOURCE_SWITCH) {
        g_string_append_printf(in->log, "%u %s ", (unsigned)(sim_bench_now(in->bench) / 1000),
                               event->key == DROM_CLOSES ? "closes" : "opens");
    }
}

static void open_wall(wall *in, uint64_t seed)
{
    *in = (wall){.plan = {.keys = {.handsets = DROM_ROWS(handsets), .hold_ms = DROM_ROWS(hold_ms)},
                          .contacts = {.contacts = DROM_ROWS(contacts)}}};
    in->plan.keys.holds = &in->hold;
    in->plan.contacts.touches = in->touches;
    in->plan.contacts.next = &in->look_at;
    in->plan.rules.last_presses.rows = &in->last_press;
    in->plan.rules.last_presses.count = 1;
    in->plan.rules.switches.rows = &in->is_closed;
    in->plan.rules.switches.count = 1;
    in->log = g_string_new(NULL);
    in->bench = sim_bench_new(seed);
    sim_bench_set_processor(in->bench, &(sim_processor){.poll_us = 100});
}

static void start(wall *in)
{
    drom_fault fault = {0};
    in->observer = (drom_observer){.context = in, .key = on_key, .event = on_event};
    ck_assert_msg(drom_engine_init(&in->engine, &in->plan, sim_bench_port(in->bench), &fault) == DROM_OK,
                  "part %d, row %u, reason %d", (int)fault.part, fault.row, (int)fault.reason);
    sim_bench_wire_engine(in->bench, &in->engine);
    drom_engine_observe(&in->engine, &in->observer);
}

static void run_until(wall *in, unsigned ms)
{
    while (sim_bench_now(in->bench) < ms * UINT64_C(1000)) {
        (void)sim_bench_sleep(in->bench, MIN(drom_engine_poll(&in->engine), 1000));
    }
}

static void close_wall(const wall *in)
{
    g_string_free(in->log, TRUE);
    sim_bench_free(in->bench);
}

static void run(wall *in, unsigned until_ms, const char *expected)
{
    start(in);
    run_until(in, until_ms);
    ck_assert_str_eq(g_strchomp(in->log->str), expected);
    close_wall(in);
}

TEST(button_is_a_key_with_all_its_gestures)
{
    wall in;
    open_wall(&in, 1);
    sim_bench_touch(in.bench, UP_PIN, 100000, true);
    sim_bench_touch(in.bench, UP_PIN, 550000, false);
    sim_bench_touch(in.bench, DOWN_PIN, 700000, true);
    sim_bench_touch(in.bench, DOWN_PIN, 800000, false);
    run(&in, 1000,
        "112 press0 220 repeat0 328 repeat0 412 hold0 436 repeat0 544 repeat0 572 release0 572 tap0 712 "
        "press1 "
        "812 release1 812 tap1");
}

TEST(of_two_buttons_the_newer_one_counts)
{
    wall in;
    open_wall(&in, 1);
    sim_bench_touch(in.bench, UP_PIN, 100000, true);
    sim_bench_touch(in.bench, DOWN_PIN, 150000, true);
    sim_bench_touch(in.bench, DOWN_PIN, 200000, false);
    sim_bench_touch(in.bench, UP_PIN, 900000, false);
    run(&in, 1200, "112 press0 172 release0 172 tap0 172 press1 212 release1 212 tap1");
}

TEST(switch_reports_when_it_opens_and_closes_and_once_at_start)
{
    wall in;
    open_wall(&in, 3);
    sim_bench_close(in.bench, TOP_PIN, true);
    sim_bench_touch(in.bench, TOP_PIN, 100000, false);
    sim_bench_touch(in.bench, TOP_PIN, 200000, true);
    run(&in, 400, "16 closes 112 opens 212 closes");
}

TEST(all_that_change_at_one_look_are_reported)
{
    wall in;
    open_wall(&in, 1);
    start(&in);
    run_until(&in, 50);
    sim_bench_close(in.bench, TOP_PIN, true);
    sim_bench_close(in.bench, UP_PIN, true);
    run_until(&in, 90);
    sim_bench_close(in.bench, DOWN_PIN, true);
    sim_bench_close(in.bench, TOP_PIN, false);
    run_until(&in, 130);
    ck_assert_str_eq(g_strchomp(in.log->str),
                     "64 press0 64 closes 104 release0 104 tap0 104 press1 104 opens");
    ck_assert(in.touches[1].is_closed && !in.touches[2].is_closed);
    close_wall(&in);
}

TEST(bounces_are_one_press_whatever_they_are)
{
    for (uint64_t seed = 1; seed <= 200; seed++) {
        wall in;
        open_wall(&in, seed);
        unsigned presses = 0;
        for (unsigned i = 0; i < 10; i++) {
            sim_bench_touch(in.bench, UP_PIN, 100000 + i * 200000 + seed * 37, true);
            sim_bench_touch(in.bench, UP_PIN, 180000 + i * 200000 + seed * 37, false);
        }
        start(&in);
        run_until(&in, 2500);
        for (const char *at = strstr(in.log->str, "press0"); at != NULL; at = strstr(at + 1, "press0")) {
            presses++;
        }
        ck_assert_msg(presses == 10, "%s", in.log->str);
        close_wall(&in);
    }
}

TEST(scrap_of_a_touch_is_none)
{
    wall in;
    open_wall(&in, 1);
    start(&in);
    for (unsigned ms = 0; ms < 2000; ms++) { /* 11 ms of each 20 */
        sim_bench_close(in.bench, UP_PIN, ms % 20 < 11);
        run_until(&in, ms);
    }
    ck_assert_str_eq(in.log->str, "");
    close_wall(&in);
}

/* The switch is closed when the engine stops, and open when it starts again. */
TEST(switch_is_open_as_far_as_is_known_after_another_start)
{
    wall in;
    open_wall(&in, 1);
    sim_bench_close(in.bench, TOP_PIN, true);
    start(&in);
    run_until(&in, 100);
    ck_assert(in.is_closed);
    drom_engine_stop(&in.engine);
    sim_bench_close(in.bench, TOP_PIN, false);
    start(&in);
    ck_assert(!in.is_closed);
    run_until(&in, 200);
    ck_assert_str_eq(in.log->str, "16 closes ");
    close_wall(&in);
}

TEST(ticks_come_by_the_clock_while_a_button_is_down)
{
    wall in;
    open_wall(&in, 1);
    in.plan.keys.repeat_after_ms = 200;
    in.plan.keys.repeat_every_ms = 50;
    in.plan.keys.ticks = &in.tick;
    sim_bench_touch(in.bench, UP_PIN, 100000, true);
    sim_bench_touch(in.bench, UP_PIN, 460000, false);
    run(&in, 700,
        "112 press0 312 repeat0 362 repeat0 412 hold0 412 repeat0 462 repeat0 480 release0 480 tap0");
}

TEST(port_without_inputs_is_refused)
{
    wall in;
    open_wall(&in, 1);
    drom_port port = *sim_bench_port(in.bench);
    drom_port_pins pins = *port.pins;
    pins.read = NULL;
    port.pins = &pins;
    ck_assert_int_eq(drom_engine_init(&in.engine, &in.plan, &port, NULL), DROM_BAD_PORT);
    close_wall(&in);
}

SUITE("contacts")
