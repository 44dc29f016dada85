/* The engine on the bench, from a press to a pin; and plans that it refuses. */
#include "stage.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/internal/outputs.h"
#include "support.h"

typedef struct theatre {
    sim_bench *bench;
    drom_engine engine;
    GString *pins; /* "1067 4 low": ms, pin, level */
    uint64_t last_pin_at_us;
} theatre;

static void note_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    theatre *const opened = context;
    opened->last_pin_at_us = at_us;
    g_string_append_printf(opened->pins, "%s%u %u %s", opened->pins->len > 0 ? ", " : "",
                           (unsigned)(at_us / 1000), pin, is_high ? "high" : "low");
}

static void open_theatre(theatre *opened, const drom_plan *plan, drom_us clock_start)
{
    opened->bench = sim_bench_new(1);
    opened->pins = g_string_new(NULL);
    sim_bench_start_clock_at(opened->bench, clock_start);
    sim_bench_observe(opened->bench, &(sim_observer){.context = opened, .pin = note_pin});
    ck_assert_int_eq(drom_engine_init(&opened->engine, plan, sim_bench_port(opened->bench), NULL), DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
}

static void press(theatre *in, unsigned key, unsigned at_ms, unsigned held_ms)
{
    const sim_press finger = {
        .waveform = &drom_nec_waveform,
        .code = wand[key],
        .at_us = at_ms * UINT64_C(1000),
        .held_us = held_ms * UINT64_C(1000),
        .room = {.clock_error = 0.02, .stretch_us = 40, .jitter_us = 30},
    };
    ck_assert(sim_bench_press(in->bench, &finger));
}

static void play(theatre *in)
{
    while (sim_bench_sleep(in->bench, drom_engine_poll(&in->engine))) {
    }
}

static void close_theatre(theatre *closed)
{
    g_string_free(closed->pins, TRUE);
    sim_bench_free(closed->bench);
}

TEST(keys_reach_the_relays)
{
    static const drom_us starts[] = {0, UINT32_C(0xffffffff) - 1030000, UINT32_C(0x7fffffff) - 1030000};
    for (size_t i = 0; i < G_N_ELEMENTS(starts); i++) {
        theatre lantern;
        open_theatre(&lantern, &stage, starts[i]);
        press(&lantern, POWER, 1000, 90);
        press(&lantern, PLAY, 2000, 90);
        press(&lantern, POWER, 4000, 90);
        play(&lantern);
        ck_assert_str_eq(lantern.pins->str,
                         "0 4 high, 0 7 low, 1069 4 low, 2069 7 high, 2869 7 low, 4069 4 high");
        close_theatre(&lantern);
    }
}

TEST(hold_and_release_fire_their_own_rules)
{
    theatre lantern;
    open_theatre(&lantern, &stage, 0);
    press(&lantern, GREEN, 1000, 1900); /* too short for the rule's 2 s */
    press(&lantern, GREEN, 4000, 2500);
    play(&lantern);
    ck_assert_str_eq(lantern.pins->str,
                     "0 4 high, 0 7 low, 6104 4 low, 6104 7 high, 6674 4 high, 6674 7 low");
    close_theatre(&lantern);
}

TEST(press_acts_within_a_millisecond_of_its_last_informative_edge)
{
    theatre lantern;
    open_theatre(&lantern, &stage, 0);
    const sim_press finger = {.waveform = &drom_nec_waveform, .code = wand[POWER], .at_us = 1000000};
    ck_assert(sim_bench_press(lantern.bench, &finger));
    size_t count = 0;
    const sim_edge *const line = sim_bench_edges(lantern.bench, &count);
    const uint64_t stop_mark_at_us = line[count - 2].at_us;
    play(&lantern);
    ck_assert_uint_ge(lantern.last_pin_at_us, stop_mark_at_us);
    ck_assert_uint_lt(lantern.last_pin_at_us, stop_mark_at_us + 1000);
    close_theatre(&lantern);
}

/* Counts of an observer during a poll. */
typedef struct action_counter {
    GString *all;     /* "a0 " an action */
    unsigned actions; /* in this poll */
    unsigned max;     /* in any poll */
} action_counter;

static void count_action(void *context, const drom_action *action)
{
    action_counter *const counter = context;
    counter->actions++;
    counter->max = MAX(counter->max, counter->actions);
    g_string_append_printf(counter->all, "%u%c ", action->row, "-+!p"[action->verb]);
}

/* However many rules fire at once, with however many actions, a poll does one action, in the plan's order. */
static void check_actions(unsigned rule_count, const char *expected)
{
    static const drom_action scene[] = {
        DROM_ORDER(SPOT, DROM_RELAY_ON, 0), DROM_ORDER(BELL, DROM_RELAY_ON, 0),
        DROM_ORDER(SPOT, DROM_RELAY_OFF, 0), DROM_ORDER(BELL, DROM_RELAY_OFF, 0)};
    drom_rule many[DROM_MAX_ANSWERS + 1];
    for (size_t i = 0; i < rule_count; i++) {
        many[i] = (drom_rule)DROM_WHEN_KEY(WAND, PLAY, DROM_PRESS, ring);
    }
    many[0].actions.rows = scene;
    many[0].actions.count = G_N_ELEMENTS(scene);
    drom_plan plan = stage;
    plan.rules.rules.rows = many;
    plan.rules.rules.count = (uint8_t)(rule_count + 1);
    many[rule_count] = (drom_rule)DROM_AT_START(light);
    theatre lantern;
    g_autoptr(GString) all = g_string_new(NULL);
    action_counter counter = {.all = all};
    open_theatre(&lantern, &plan, 0);
    drom_engine_observe(&lantern.engine, &(drom_observer){.context = &counter, .action = count_action});
    press(&lantern, PLAY, 1000, 0);
    drom_us wait = 0;
    do {
        counter.actions = 0;
        wait = drom_engine_poll(&lantern.engine);
    } while (sim_bench_sleep(lantern.bench, wait));
    ck_assert_str_eq(counter.all->str, expected);
    ck_assert_uint_eq(counter.max, 1);
    close_theatre(&lantern);
}

TEST(poll_does_one_action)
{
    check_actions(1, "0+ 1+ 0+ 1+ 0- 1- ");
    check_actions(5, "0+ 1+ 0+ 1+ 0- 1- 1p 1p 1p 1p ");
    check_actions(DROM_MAX_ANSWERS, "0+ 1+ 0+ 1+ 0- 1- 1p 1p 1p 1p 1p 1p 1p 1p 1p 1p 1p 1p 1p 1p 1p ");
}

TEST(start_rules_run_once_after_the_rest_states)
{
    static const drom_rule start[] = {DROM_AT_START(ring)};
    drom_plan plan = stage;
    plan.rules.rules.rows = start;
    plan.rules.rules.count = 1;
    theatre lantern;
    open_theatre(&lantern, &plan, 0);
    ck_assert_str_eq(lantern.pins->str, "0 4 high, 0 7 low");
    play(&lantern);
    ck_assert_str_eq(lantern.pins->str, "0 4 high, 0 7 low, 0 7 high, 800 7 low");
    close_theatre(&lantern);
}

/* The second action follows when the first output is done, and nothing else wakes the engine. */
TEST(deadline_armed_after_its_outputs_turn_is_kept)
{
    static const drom_action late[] = {DROM_ORDER(BELL, DROM_RELAY_ON, 0),
                                       DROM_ORDER(SPOT, DROM_RELAY_PULSE, 2000)};
    static const drom_action early[] = {DROM_ORDER(SPOT, DROM_RELAY_PULSE, 2000),
                                        DROM_ORDER(BELL, DROM_RELAY_ON, 0)};
    static const struct {
        drom_rule start;
        const char *pins;
    } starts[] = {
        {DROM_AT_START(late), "0 4 high, 0 7 low, 0 7 high, 0 4 low, 2000 4 high"},
        {DROM_AT_START(early), "0 4 high, 0 7 low, 0 4 low, 0 7 high, 2000 4 high"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(starts); i++) {
        drom_plan plan = stage;
        plan.rules.rules.rows = &starts[i].start;
        plan.rules.rules.count = 1;
        theatre lantern;
        open_theatre(&lantern, &plan, 0);
        play(&lantern);
        ck_assert_str_eq(lantern.pins->str, starts[i].pins);
        close_theatre(&lantern);
    }
}

/* Edges arrive faster than they are processed, for longer than a key is held. */
TEST(releases_and_time_limits_come_in_noise_that_never_ends)
{
    enum { NOISE_FROM_MS = 3150, NOISE_TO_MS = 6000, LATEST_MS = 20 };
    static const drom_action spot_on[] = {DROM_ORDER(SPOT, DROM_RELAY_ON, 0)};
    static const drom_action spot_off[] = {DROM_ORDER(SPOT, DROM_RELAY_OFF, 0)};
    static const drom_action long_ring[] = {DROM_ORDER(BELL, DROM_RELAY_PULSE, 4000)};
    static const drom_rule while_held[] = {DROM_WHEN_HELD(WAND, GREEN, 1, spot_on),
                                           DROM_WHEN_KEY(WAND, GREEN, DROM_RELEASE, spot_off),
                                           DROM_AT_START(long_ring)};
    theatre lantern;
    drom_plan plan = stage;
    GRand *const dice = g_rand_new_with_seed(5);
    plan.rules = (drom_rules_plan){.rules = DROM_ROWS(while_held), .last_presses = DROM_ROWS(last_presses)};
    open_theatre(&lantern, &plan, 0);
    sim_bench_set_processor(lantern.bench, &(sim_processor){.poll_us = 200});
    press(&lantern, GREEN, 1000, 2200);
    bool is_mark = true;
    for (uint64_t at_us = NOISE_FROM_MS * UINT64_C(1000); at_us < NOISE_TO_MS * UINT64_C(1000) || !is_mark;
         at_us += (uint64_t)g_rand_int_range(dice, 100, 400)) {
        sim_bench_add_edge(lantern.bench, at_us, is_mark);
        is_mark = !is_mark;
    }
    while (sim_bench_now(lantern.bench) < NOISE_TO_MS * UINT64_C(1000)) {
        (void)sim_bench_sleep(lantern.bench, drom_engine_poll(&lantern.engine));
    }
    /* The last repeat frame is at 3093 ms; the release is known two periods and a repeat frame later, with
     * their margins. */
    unsigned released_ms = 0;
    unsigned rung_ms = 0;
    ck_assert_int_eq(sscanf(lantern.pins->str, "0 4 high, 0 7 low, 0 7 high, 3105 4 low, %u 4 high, %u 7 low",
                            &released_ms, &rung_ms),
                     2);
    ck_assert_uint_ge(released_ms, 3344);
    ck_assert_uint_le(released_ms, 3344 + LATEST_MS);
    ck_assert_uint_ge(rung_ms, 4000);
    ck_assert_uint_le(rung_ms, 4000 + LATEST_MS);
    g_rand_free(dice);
    close_theatre(&lantern);
}

/* Polls until the engine has nothing to do, since each poll does one thing. */
static drom_us settled_wait(theatre *in)
{
    drom_us wait = 0;
    for (int i = 0; i < 20 && wait == 0; i++) {
        wait = drom_engine_poll(&in->engine);
    }
    return wait;
}

/* A port whose clock stands still, for poll loops that must end by themselves. */
static drom_us still_now;

static drom_us still(void *context)
{
    (void)context;
    return still_now;
}

static void no_pin(void *context, uint8_t pin, bool is_high)
{
    (void)context;
    (void)pin;
    (void)is_high;
}

/* Random edges, several at a time: everything that is due is done in a bounded number of polls. Each poll
 * reports that more is due, until the last one returns the wait. */
TEST(engine_comes_to_rest_at_every_moment)
{
    const drom_port port = {.facts = {.pins = 20},
                            .clock = &(drom_port_clock){.now = still},
                            .pins = &(drom_port_pins){.write = no_pin}};
    drom_engine engine;
    GRand *const dice = g_rand_new_with_seed(7);
    still_now = UINT32_MAX - 5000000;
    ck_assert_int_eq(drom_engine_init(&engine, &stage, &port, NULL), DROM_OK);
    drom_us at = still_now;
    bool is_mark = false;
    for (unsigned moment = 0; moment < 4000; moment++) {
        const int edges = g_rand_int_range(dice, 0, 6);
        for (int i = 0; i < edges; i++) {
            at += (drom_us)(g_rand_boolean(dice) ? g_rand_int_range(dice, 1, 400)
                                                 : g_rand_int_range(dice, 400, 10000));
            is_mark = !is_mark;
            drom_engine_edge(&engine, at, is_mark);
        }
        at += (drom_us)g_rand_int_range(dice, 0, moment % 50 == 0 ? 900000 : 3000);
        still_now = at;
        unsigned polls = 1;
        while (drom_engine_poll(&engine) == 0) {
            polls++;
            ck_assert_msg(polls < 150, "moment %u: it never comes to rest", moment);
        }
    }
    g_rand_free(dice);
}

TEST(idle_engine_needs_no_wake_up_but_an_edge)
{
    theatre lantern;
    open_theatre(&lantern, &stage, 0);
    ck_assert_uint_eq(settled_wait(&lantern), DROM_LONG);
    press(&lantern, POWER, 1000, 0);
    play(&lantern);
    ck_assert_uint_eq(settled_wait(&lantern), DROM_LONG);
    close_theatre(&lantern);
}

TEST(stopped_engine_rests_and_hears_nothing)
{
    theatre lantern;
    open_theatre(&lantern, &stage, 0);
    press(&lantern, POWER, 1000, 0);
    while (sim_bench_now(lantern.bench) < 1500000 &&
           sim_bench_sleep(lantern.bench, drom_shorter(drom_engine_poll(&lantern.engine), 100000))) {
    }
    drom_engine_stop(&lantern.engine);
    press(&lantern, PLAY, 3000, 0);
    play(&lantern);
    ck_assert_str_eq(lantern.pins->str, "0 4 high, 0 7 low, 1069 4 low, 1500 4 high");
    ck_assert_uint_eq(drom_engine_poll(&lantern.engine), DROM_LONG);
    close_theatre(&lantern);
}

/* Each letter is a call: frame, key, rule, action. */
static void see_frame(void *context, const drom_frame *frame)
{
    g_string_append(context, frame->kind == DROM_FRAME_REPEAT ? "d" : "f");
}

static void see_key(void *context, const drom_key_event *event)
{
    g_string_append_printf(context, "k%u", event->gesture);
}

static void see_rule(void *context, uint8_t row)
{
    g_string_append_printf(context, "r%u", row);
}

static void see_action(void *context, const drom_action *action)
{
    g_string_append_printf(context, "a%u ", action->row);
}

TEST(observer_sees_each_step)
{
    theatre lantern;
    g_autoptr(GString) seen = g_string_new(NULL);
    const drom_observer observer = {
        .context = seen, .frame = see_frame, .key = see_key, .rule = see_rule, .action = see_action};
    const drom_observer blind = {0};
    open_theatre(&lantern, &stage, 0);
    drom_engine_observe(&lantern.engine, &observer);
    press(&lantern, PLAY, 1000, 130);
    play(&lantern);
    ck_assert_str_eq(seen->str, "fk1r1a1 dk2r1a1 k8k16");
    drom_engine_observe(&lantern.engine, &blind);
    press(&lantern, PLAY, 3000, 0);
    play(&lantern);
    drom_engine_observe(&lantern.engine, NULL);
    press(&lantern, PLAY, 5000, 0);
    play(&lantern);
    ck_assert_str_eq(seen->str, "fk1r1a1 dk2r1a1 k8k16");
    close_theatre(&lantern);
}

/* test_check.c tests faulty plans. */
TEST(refused_plan_drives_nothing)
{
    drom_engine engine;
    drom_plan bad = stage;
    drom_fault fault = {0};
    theatre lantern = {.bench = sim_bench_new(1), .pins = g_string_new(NULL)};
    sim_bench_observe(lantern.bench, &(sim_observer){.context = &lantern, .pin = note_pin});
    bad.rules.rules.rows = NULL;
    ck_assert_int_eq(drom_engine_init(&engine, &bad, sim_bench_port(lantern.bench), &fault), DROM_BAD_PLAN);
    ck_assert_int_eq(fault.part, DROM_PART_RULES);
    ck_assert_uint_eq(lantern.pins->len, 0);
    ck_assert_uint_eq(drom_engine_poll(&engine), DROM_LONG);
    close_theatre(&lantern);
}

TEST(missing_arguments_are_refused)
{
    drom_engine engine;
    sim_bench *const bench = sim_bench_new(1);
    const drom_port *const port = sim_bench_port(bench);
    const drom_port no_clock = {.facts = port->facts, .pins = port->pins};
    const drom_port no_pins = {.facts = port->facts, .clock = port->clock};
    ck_assert_int_eq(drom_engine_init(NULL, &stage, port, NULL), DROM_BAD_ARGUMENT);
    ck_assert_int_eq(drom_engine_init(&engine, NULL, port, NULL), DROM_BAD_ARGUMENT);
    ck_assert_int_eq(drom_engine_init(&engine, &stage, NULL, NULL), DROM_BAD_ARGUMENT);
    ck_assert_int_eq(drom_engine_init(&engine, &stage, &no_clock, NULL), DROM_BAD_PORT);
    ck_assert_int_eq(drom_engine_init(&engine, &stage, &no_pins, NULL), DROM_BAD_PORT);
    sim_bench_free(bench);
}

static unsigned sleeps;
static drom_wait slept;

static void note_sleep(void *context, drom_wait wait)
{
    (void)context;
    sleeps++;
    slept = wait;
}

/* The engine sleeps while nothing is due; not while an edge waits, nor if the poll reports more work. */
TEST(idle_engine_sleeps_where_the_port_can)
{
    const drom_port port = {.facts = {.pins = 20},
                            .clock = &(drom_port_clock){.now = still, .sleep = note_sleep},
                            .pins = &(drom_port_pins){.write = no_pin}};
    drom_engine engine;
    sleeps = 0;
    ck_assert_int_eq(drom_engine_init(&engine, &stage, &port, NULL), DROM_OK);
    drom_engine_idle(&engine, 12345);
    ck_assert_uint_eq(sleeps, 0); /* the rules of the start haven't been looked for yet */
    while (drom_engine_poll(&engine) == 0) {
    }
    drom_engine_idle(&engine, 0);
    ck_assert_uint_eq(sleeps, 0);
    drom_engine_idle(&engine, 12345);
    ck_assert_uint_eq(sleeps, 1);
    ck_assert_uint_eq(slept, 12345);
    drom_engine_edge(&engine, still_now, true);
    drom_engine_idle(&engine, 12345);
    ck_assert_uint_eq(sleeps, 1);
    while (drom_engine_poll(&engine) == 0) {
    }
    drom_engine_idle(&engine, 500);
    ck_assert_uint_eq(sleeps, 2);
    drom_engine_stop(&engine);
    drom_engine_idle(&engine, DROM_LONG);
    ck_assert_uint_eq(sleeps, 3);
}

/* Outputs whose timed edges the test chooses. */
typedef struct clockwork {
    drom_us at;
    drom_us every_us; /* 0: once */
    drom_us made_at;
    bool is_on;
} clockwork;

static void wind(const void *settings, void *state, drom_timing *timing)
{
    (void)settings;
    (void)state;
    (void)timing;
}

static bool next_tick(const void *state, drom_us *at)
{
    const clockwork *const mine = state;
    *at = mine->at;
    return mine->is_on;
}

static uint32_t take_tick(const void *settings, void *state, drom_timing *timing, drom_us at)
{
    clockwork *const mine = state;
    (void)settings;
    (void)timing;
    mine->made_at = at;
    mine->at += mine->every_us;
    mine->is_on = mine->every_us != 0;
    return 1;
}

static void ignore_alarm(void *context, const drom_timed_edges *timed_edges)
{
    (void)context;
    (void)timed_edges;
}

/* Edges made ahead for one output stay when another begins in that time: its edge follows at once. */
TEST(timed_edge_comes_after_those_that_are_made)
{
    static const drom_output_kind kind = {
        .needs = DROM_USES(TIMED_EDGES), .rest = wind, .next_edge = next_tick, .take_edge = take_tick};
    const drom_port port = {.facts = {.pins = 20}, .edges = &(drom_port_edges){.arm = ignore_alarm}};
    static clockwork steady;
    static clockwork late;
    static const drom_output rows[] = {{&kind, &spot, &steady}, {&kind, &spot, &late}};
    static const drom_outputs_plan plan = {.outputs = DROM_ROWS(rows)};
    drom_timing timing = {.port = &port, .now = 1000000, .edges_from = DROM_ANY_OUTPUT};
    steady = (clockwork){.at = 1001000, .every_us = 2000, .is_on = true};
    late = (clockwork){0};
    while (drom_outputs_poll(&plan, &timing) == 0) {
    }
    const drom_us newest = steady.made_at;
    ck_assert_uint_ge(newest, 1005000); /* the edges were made ahead */
    late = (clockwork){.at = 1002500, .is_on = true};
    timing.edges_from = DROM_ANY_OUTPUT;
    while (drom_outputs_poll(&plan, &timing) == 0) {
    }
    ck_assert_uint_eq(late.made_at, newest);
    drom_us before = 1000000;
    while (!drom_timed_edges_are_empty(&timing.timed_edges)) {
        const drom_us at =
            before + (uint16_t)(drom_timed_edges_first(&timing.timed_edges)->at - (uint16_t)before);
        ck_assert_uint_le(at, 1010000); /* in order: no edge precedes the one before */
        before = at;
        drom_timed_edges_take(&timing.timed_edges);
    }
}

static unsigned wakes;

static void note_wake(void *context)
{
    (void)context;
    wakes++;
}

/* A post of own code is an event like any other: from main, or from an interrupt, which wakes the engine. */
TEST(post_is_an_event_behind_those_that_wait)
{
    static drom_posts posts[2];
    static const drom_action bell_on[] = {DROM_ORDER(BELL, DROM_RELAY_ON, 0)};
    static const drom_action off[] = {DROM_ORDER(BELL, DROM_RELAY_OFF, 0)};
    static const drom_rule posted[] = {
        {.source = DROM_SOURCE_POSTED, .row = 0, .actions = DROM_ROWS(bell_on)},
        {.source = DROM_SOURCE_POSTED, .row = 1, .actions = DROM_ROWS(off)}};
    drom_plan with = stage;
    with.rules = (drom_rules_plan){.rules = DROM_ROWS(posted), .last_presses = stage.rules.last_presses};
    with.events = (drom_events_plan){.posts = DROM_ROWS(posts)};
    const drom_port port = {.facts = {.pins = 20},
                            .clock = &(drom_port_clock){.now = still, .wake = note_wake},
                            .pins = &(drom_port_pins){.write = no_pin}};
    drom_engine engine = {0};
    wakes = 0;
    ck_assert_int_eq(drom_engine_init(&engine, &with, &port, NULL), DROM_OK);
    while (drom_engine_poll(&engine) == 0) {
    }
    ck_assert_int_eq(drom_engine_post(&engine, 0, 7), DROM_OK);
    ck_assert(!bell_state.is_on);
    while (drom_engine_poll(&engine) == 0) {
    }
    ck_assert(bell_state.is_on);
    for (unsigned i = 0; i < DROM_POSTS; i++) {
        ck_assert_int_eq(drom_engine_post_from(&engine, 1, i % 2 == 0 ? 0 : 1, 0), DROM_OK);
    }
    ck_assert_int_eq(drom_engine_post_from(&engine, 1, 0, 0), DROM_FULL);
    ck_assert_int_eq(drom_engine_post_from(&engine, 0, 0, 0), DROM_OK);
    ck_assert_int_eq(drom_engine_post_from(&engine, 2, 0, 0), DROM_BAD_ARGUMENT);
    ck_assert_uint_eq(wakes, DROM_POSTS + 1);
    while (drom_engine_poll(&engine) == 0) {
    }
    ck_assert(!bell_state.is_on); /* first source on; second source on, off, on and off */
    for (unsigned i = 0; i < DROM_POSTS; i++) {
        ck_assert_int_eq(drom_engine_post(&engine, 0, 0), DROM_OK);
        ck_assert_int_eq(drom_engine_post_from(&engine, 0, 0, 0), DROM_OK);
    }
    ck_assert_int_eq(drom_engine_post(&engine, 0, 0), DROM_FULL);
    ck_assert_int_eq(drom_engine_post_from(&engine, 0, 0, 0), DROM_FULL);
    drom_engine_stop(&engine);
    ck_assert_int_eq(drom_engine_post(&engine, 0, 0), DROM_NOT_RUNNING);
    ck_assert_int_eq(drom_engine_post_from(&engine, 0, 0, 0), DROM_NOT_RUNNING);
    ck_assert_int_eq(drom_engine_init(&engine, &with, &port, NULL),
                     DROM_OK); /* no event of the run before is left */
    while (drom_engine_poll(&engine) == 0) {
    }
    ck_assert(!bell_state.is_on);
}

TEST(own_code_orders_outputs_while_the_engine_runs)
{
    const drom_port port = {.facts = {.pins = 20},
                            .clock = &(drom_port_clock){.now = still, .sleep = note_sleep, .wake = note_wake},
                            .pins = &(drom_port_pins){.write = no_pin}};
    drom_engine engine = {0};
    ck_assert_int_eq(drom_engine_order(&engine, BELL, DROM_RELAY_ON, 0), DROM_NOT_RUNNING);
    ck_assert_int_eq(drom_engine_init(&engine, &stage, &port, NULL), DROM_OK);
    ck_assert_int_eq(drom_engine_order(&engine, BELL, DROM_RELAY_ON, 0), DROM_OK);
    ck_assert(bell_state.is_on);
    while (drom_engine_poll(&engine) == 0) {
    }
    sleeps = 0;
    drom_engine_idle(&engine, DROM_LONG);
    ck_assert_uint_eq(sleeps, 1);
    ck_assert_int_eq(drom_engine_order(&engine, BELL, DROM_RELAY_PULSE, 300), DROM_OK);
    drom_engine_idle(&engine, DROM_LONG); /* the wait was computed before the order */
    ck_assert_uint_eq(sleeps, 1);
    while (drom_engine_poll(&engine) == 0) {
    }
    ck_assert_uint_le(drom_engine_poll(&engine), 300000);
    ck_assert_int_eq(drom_engine_order(&engine, BELL, DROM_RELAY_PULSE + 1, 0), DROM_BAD_ARGUMENT);
    ck_assert_int_eq(drom_engine_order(&engine, BELL, DROM_RELAY_PULSE, 0), DROM_BAD_ARGUMENT);
    ck_assert_int_eq(drom_engine_order(&engine, stage.outputs.outputs.count, DROM_RELAY_ON, 0),
                     DROM_BAD_ARGUMENT);
    ck_assert(bell_state.is_on);
    drom_engine_stop(&engine);
    ck_assert_int_eq(drom_engine_order(&engine, BELL, DROM_RELAY_ON, 0), DROM_NOT_RUNNING);
    ck_assert(!bell_state.is_on);
}

/* An interrupt may come before the engine is started, while the loop already runs. */
TEST(engine_that_was_never_started_does_nothing)
{
    static drom_engine engine;
    ck_assert_uint_eq(drom_engine_poll(&engine), DROM_LONG);
    drom_engine_idle(&engine, DROM_LONG);
    drom_engine_idle(&engine, 0);
    ck_assert_int_eq(drom_engine_post(&engine, 0, 0), DROM_NOT_RUNNING);
    ck_assert_int_eq(drom_engine_post_from(&engine, 0, 0, 0), DROM_NOT_RUNNING);
    drom_engine_stop(&engine);
    ck_assert_uint_eq(engine.state, DROM_STOPPED);
}

SUITE("engine")
