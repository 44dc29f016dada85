/* The whole line on the bench, from a finger on a key to a pin; and the plans that the engine refuses. */
#include "stage.h"
#include "support.h"

typedef struct theatre {
    sim_bench *bench;
    drom_engine engine;
    GString *pins; /* "1067 4 low": ms, pin, level */
    uint64_t last_pin_at_us;
} theatre;

static void note_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    theatre *const of = context;
    of->last_pin_at_us = at_us;
    g_string_append_printf(of->pins, "%s%u %u %s", of->pins->len > 0 ? ", " : "", (unsigned)(at_us / 1000),
                           pin, is_high ? "high" : "low");
}

static void open_theatre(theatre *opened, const drom_plan *plan, drom_us clock_start)
{
    opened->bench = sim_bench_new(1);
    opened->pins = g_string_new(NULL);
    sim_bench_start_clock_at(opened->bench, clock_start);
    sim_bench_watch(opened->bench, &(sim_watch){.context = opened, .pin = note_pin});
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

START_TEST(keys_reach_the_relays)
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
END_TEST

START_TEST(hold_and_release_fire_their_own_rules)
{
    theatre lantern;
    open_theatre(&lantern, &stage, 0);
    press(&lantern, GREEN, 1000, 1900); /* too short for the 2 s that the rule asks for */
    press(&lantern, GREEN, 4000, 2500);
    play(&lantern);
    ck_assert_str_eq(lantern.pins->str,
                     "0 4 high, 0 7 low, 6104 4 low, 6104 7 high, 6674 4 high, 6674 7 low");
    close_theatre(&lantern);
}
END_TEST

START_TEST(press_acts_within_a_millisecond_of_its_last_informative_edge)
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
END_TEST

/* What a watch sees of a poll. */
typedef struct onlooker {
    GString *all;     /* "a0 " an action */
    unsigned actions; /* of this poll */
    unsigned most;    /* of any */
} onlooker;

static void count_action(void *context, const drom_action *action)
{
    onlooker *const by = context;
    by->actions++;
    by->most = MAX(by->most, by->actions);
    g_string_append_printf(by->all, "%u%c ", action->output, "-+!p"[action->verb]);
}

/* However many rules fire at once, and however many actions they have, a poll does one action, and they come
 * in the order in which the plan has them; unless more rules fire at once than can wait. */
static void check_actions(unsigned rule_count, unsigned most, const char *expected)
{
    static const drom_action scene[] = {{SPOT, DROM_RELAY_ON, 0},
                                        {BELL, DROM_RELAY_ON, 0},
                                        {SPOT, DROM_RELAY_OFF, 0},
                                        {BELL, DROM_RELAY_OFF, 0}};
    drom_rule many[2 * DROM_FIRED];
    for (size_t i = 0; i < G_N_ELEMENTS(many); i++) {
        many[i] = (drom_rule){WAND, PLAY, DROM_PRESS, DROM_ROWS(ring), 0};
    }
    many[0].actions.rows = scene;
    many[0].actions.count = G_N_ELEMENTS(scene);
    drom_plan plan = stage;
    plan.rules.rules.rows = many;
    plan.rules.rules.count = (uint8_t)rule_count;
    plan.rules.at_start.rows = light;
    plan.rules.at_start.count = G_N_ELEMENTS(light);
    theatre lantern;
    g_autoptr(GString) all = g_string_new(NULL);
    onlooker by = {.all = all};
    open_theatre(&lantern, &plan, 0);
    drom_engine_watch(&lantern.engine, &(drom_watch){.context = &by, .action = count_action});
    press(&lantern, PLAY, 1000, 0);
    drom_us wait = 0;
    do {
        by.actions = 0;
        wait = drom_engine_poll(&lantern.engine);
    } while (sim_bench_sleep(lantern.bench, wait));
    ck_assert_str_eq(by.all->str, expected);
    ck_assert_uint_eq(by.most, most);
    close_theatre(&lantern);
}

START_TEST(poll_does_one_action)
{
    check_actions(1, 1, "0+ 1+ 0+ 1+ 0- 1- ");
    check_actions(DROM_FIRED, 1, "0+ 1+ 0+ 1+ 0- 1- 1p 1p 1p 1p ");
    check_actions(DROM_FIRED + 2, 5, "0+ 1+ 0+ 1+ 0- 1- 1p 1p 1p 1p 1p 1p ");
}
END_TEST

START_TEST(start_rules_run_once_after_the_rest_states)
{
    drom_plan plan = stage;
    plan.rules.at_start.rows = ring;
    plan.rules.at_start.count = 1;
    theatre lantern;
    open_theatre(&lantern, &plan, 0);
    ck_assert_str_eq(lantern.pins->str, "0 4 high, 0 7 low");
    play(&lantern);
    ck_assert_str_eq(lantern.pins->str, "0 4 high, 0 7 low, 0 7 high, 800 7 low");
    close_theatre(&lantern);
}
END_TEST

/* What the engine says when it has done all that there is to do: a poll does one thing at a time. */
static drom_us settled_wait(theatre *in)
{
    drom_us wait = 0;
    for (int i = 0; i < 20 && wait == 0; i++) {
        wait = drom_engine_poll(&in->engine);
    }
    return wait;
}

/* A port whose clock stands still, for a poll loop that must come to an end by itself. */
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

/* Edges at random, several at a time: what is due at a moment is done in so many polls, each of which says
 * that there is more, until one says how long there is nothing to do. */
START_TEST(engine_comes_to_rest_at_every_moment)
{
    static const drom_port port = {.now = still, .write_pin = no_pin};
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
END_TEST

START_TEST(idle_engine_needs_no_wake_up_but_an_edge)
{
    theatre lantern;
    open_theatre(&lantern, &stage, 0);
    ck_assert_uint_eq(settled_wait(&lantern), DROM_NEVER);
    press(&lantern, POWER, 1000, 0);
    play(&lantern);
    ck_assert_uint_eq(settled_wait(&lantern), DROM_NEVER);
    close_theatre(&lantern);
}
END_TEST

START_TEST(stopped_engine_rests_and_hears_nothing)
{
    theatre lantern;
    open_theatre(&lantern, &stage, 0);
    press(&lantern, POWER, 1000, 0);
    while (sim_bench_now(lantern.bench) < 1500000 &&
           sim_bench_sleep(lantern.bench, drom_sooner(drom_engine_poll(&lantern.engine), 100000))) {
    }
    drom_engine_stop(&lantern.engine);
    press(&lantern, PLAY, 3000, 0);
    play(&lantern);
    ck_assert_str_eq(lantern.pins->str, "0 4 high, 0 7 low, 1069 4 low, 1500 4 high");
    ck_assert_uint_eq(drom_engine_poll(&lantern.engine), DROM_NEVER);
    close_theatre(&lantern);
}
END_TEST

/* Each letter is a call: frame, key, rule, action. */
static void see_frame(void *context, const drom_frame *frame)
{
    g_string_append(context, frame->kind == DROM_FRAME_DITTO ? "d" : "f");
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
    g_string_append_printf(context, "a%u ", action->output);
}

START_TEST(onlooker_is_told_of_each_step)
{
    theatre lantern;
    g_autoptr(GString) seen = g_string_new(NULL);
    const drom_watch watch = {seen, see_frame, see_key, see_rule, see_action};
    const drom_watch blind = {0};
    open_theatre(&lantern, &stage, 0);
    drom_engine_watch(&lantern.engine, &watch);
    press(&lantern, PLAY, 1000, 130);
    play(&lantern);
    ck_assert_str_eq(seen->str, "fk1r1a1 dk2r1a1 k8k16");
    drom_engine_watch(&lantern.engine, &blind);
    press(&lantern, PLAY, 3000, 0);
    play(&lantern);
    drom_engine_watch(&lantern.engine, NULL);
    press(&lantern, PLAY, 5000, 0);
    play(&lantern);
    ck_assert_str_eq(seen->str, "fk1r1a1 dk2r1a1 k8k16");
    close_theatre(&lantern);
}
END_TEST

/* One way of spoiling the stage's plan, and what must be said of it. */
typedef struct spoilt {
    drom_plan plan;
    drom_fault fault;
} spoilt;

static const drom_rule strange_handset[] = {{1, POWER, DROM_PRESS, DROM_ROWS(ring), 0}};
static const drom_rule strange_key[] = {{WAND, POWER, DROM_PRESS, DROM_ROWS(ring), 0},
                                        {WAND, 3, DROM_PRESS, DROM_ROWS(ring), 0}};
static const drom_rule no_gesture[] = {{WAND, POWER, 0, DROM_ROWS(ring), 0}};
static const drom_rule strange_gesture[] = {{WAND, POWER, 128, DROM_ROWS(ring), 0}};
static const drom_rule strange_hold[] = {{WAND, POWER, DROM_HOLD, DROM_ROWS(ring), 2}};
static const drom_rule idle_rule[] = {{WAND, POWER, DROM_PRESS, {NULL, 0}, 0}};
static const drom_rule null_actions[] = {{WAND, POWER, DROM_PRESS, {NULL, 1}, 0}};
static const drom_action strange_output[] = {{SPOT, DROM_RELAY_ON, 0}, {2, DROM_RELAY_ON, 0}};
static const drom_rule acts_on_nothing[] = {{WAND, POWER, DROM_PRESS, DROM_ROWS(strange_output), 0}};
static const drom_action endless_pulse[] = {{SPOT, DROM_RELAY_PULSE, 0}};
static const drom_rule pulses_for_ever[] = {{WAND, POWER, DROM_PRESS, DROM_ROWS(endless_pulse), 0}};
static const drom_protocol_ref null_protocol[] = {&drom_nec, NULL};
static const drom_protocol no_step = {.id = "odd"};
static const drom_protocol_ref half_protocol[] = {&no_step};
static const drom_code unheard_codes[] = {{&drom_nec, 1, 1}, {&no_step, 1, 1}};
static const drom_handset unheard[] = {{.codes = DROM_ROWS(unheard_codes)}};
static const drom_handset null_codes[] = {{.codes = {NULL, 3}}};
static const drom_key_ref double_of_nobody[] = {{1, 0}};
static const drom_key_ref double_of_no_key[] = {{0, 0}, {0, 3}};
static const drom_key_ref double_of_wand[] = {{0, 0}}; /* for whose taps there is no memory */
static const uint16_t falling[] = {500, 500};
static const uint16_t zero_hold[] = {0};
static const drom_relay_settings slow = {.least_on_ms = DROM_LONGEST_MS + 1};
static const drom_output slow_output[] = {DROM_RELAY(spot, spot_state), DROM_RELAY(slow, bell_state)};
static const drom_output no_kind[] = {{NULL, &spot, &spot_state}};

#define SPOIL(member, value, ...)                                                                            \
    do {                                                                                                     \
        spoilt bad = {stage, {__VA_ARGS__}};                                                                 \
        bad.plan.member = value;                                                                             \
        assert_refused(&bad);                                                                                \
    } while (0)
#define SPOIL_TABLE(member, array, ...)                                                                      \
    do {                                                                                                     \
        spoilt bad = {stage, {__VA_ARGS__}};                                                                 \
        bad.plan.member.rows = array;                                                                        \
        bad.plan.member.count = G_N_ELEMENTS(array);                                                         \
        assert_refused(&bad);                                                                                \
    } while (0)

static void assert_refused(const spoilt *bad)
{
    drom_engine engine;
    drom_fault fault = {0};
    GString *const pins = g_string_new(NULL);
    theatre lantern = {.bench = sim_bench_new(1), .pins = pins};
    sim_bench_watch(lantern.bench, &(sim_watch){.context = &lantern, .pin = note_pin});
    ck_assert_int_eq(drom_engine_init(&engine, &bad->plan, sim_bench_port(lantern.bench), &fault),
                     DROM_BAD_PLAN);
    ck_assert_int_eq(fault.part, bad->fault.part);
    ck_assert_int_eq(fault.reason, bad->fault.reason);
    ck_assert_uint_eq(fault.row, bad->fault.row);
    ck_assert_uint_eq(fault.item, bad->fault.item);
    ck_assert_uint_eq(pins->len, 0); /* nothing was driven */
    ck_assert_uint_eq(drom_engine_poll(&engine), DROM_NEVER);
    close_theatre(&lantern);
}

START_TEST(bad_plan_is_refused_with_table_and_row)
{
    SPOIL(receive.decoders, NULL, DROM_PART_PROTOCOLS, DROM_REASON_NULL, 0, 0);
    SPOIL(receive.protocols.rows, NULL, DROM_PART_PROTOCOLS, DROM_REASON_NULL, 0, 0);
    SPOIL_TABLE(receive.protocols, null_protocol, DROM_PART_PROTOCOLS, DROM_REASON_NULL, 1, 0);
    SPOIL_TABLE(receive.protocols, half_protocol, DROM_PART_PROTOCOLS, DROM_REASON_NULL, 0, 0);
    SPOIL(keys.holds, NULL, DROM_PART_HANDSETS, DROM_REASON_NULL, 0, 0);
    SPOIL_TABLE(keys.handsets, null_codes, DROM_PART_HANDSETS, DROM_REASON_NULL, 0, 0);
    SPOIL_TABLE(keys.handsets, unheard, DROM_PART_HANDSETS, DROM_REASON_UNKNOWN_PROTOCOL, 0, 1);
    SPOIL_TABLE(keys.hold_ms, falling, DROM_PART_HOLD_MS, DROM_REASON_ORDER, 1, 0);
    SPOIL_TABLE(keys.hold_ms, zero_hold, DROM_PART_HOLD_MS, DROM_REASON_ORDER, 0, 0);
    SPOIL(keys.hold_ms.rows, NULL, DROM_PART_HOLD_MS, DROM_REASON_NULL, 0, 0);
    SPOIL_TABLE(keys.doubles, double_of_nobody, DROM_PART_DOUBLES, DROM_REASON_NO_HANDSET, 0, 0);
    SPOIL_TABLE(keys.doubles, double_of_no_key, DROM_PART_DOUBLES, DROM_REASON_NO_KEY, 1, 0);
    SPOIL(keys.doubles.count, 1, DROM_PART_DOUBLES, DROM_REASON_NULL, 0, 0);
    SPOIL_TABLE(keys.doubles, double_of_wand, DROM_PART_DOUBLES, DROM_REASON_NULL, 0, 0);
    SPOIL(keys.repeat_after_ms, 300, DROM_PART_HANDSETS, DROM_REASON_NULL, 0, 0);
    SPOIL(outputs.outputs.rows, NULL, DROM_PART_OUTPUTS, DROM_REASON_NULL, 0, 0);
    SPOIL_TABLE(outputs.outputs, no_kind, DROM_PART_OUTPUTS, DROM_REASON_NULL, 0, 0);
    SPOIL_TABLE(outputs.outputs, slow_output, DROM_PART_OUTPUTS, DROM_REASON_SETTINGS, 1, 0);
    SPOIL(rules.rules.rows, NULL, DROM_PART_RULES, DROM_REASON_NULL, 0, 0);
    SPOIL_TABLE(rules.rules, strange_handset, DROM_PART_RULES, DROM_REASON_NO_HANDSET, 0, 0);
    SPOIL_TABLE(rules.rules, strange_key, DROM_PART_RULES, DROM_REASON_NO_KEY, 1, 0);
    SPOIL_TABLE(rules.rules, no_gesture, DROM_PART_RULES, DROM_REASON_GESTURES, 0, 0);
    SPOIL_TABLE(rules.rules, strange_gesture, DROM_PART_RULES, DROM_REASON_GESTURES, 0, 0);
    SPOIL_TABLE(rules.rules, strange_hold, DROM_PART_RULES, DROM_REASON_NO_HOLD, 0, 0);
    SPOIL_TABLE(rules.rules, idle_rule, DROM_PART_RULES, DROM_REASON_NO_ACTION, 0, 0);
    SPOIL_TABLE(rules.rules, null_actions, DROM_PART_RULES, DROM_REASON_NULL, 0, 0);
    SPOIL_TABLE(rules.rules, acts_on_nothing, DROM_PART_RULES, DROM_REASON_NO_OUTPUT, 0, 1);
    SPOIL_TABLE(rules.rules, pulses_for_ever, DROM_PART_RULES, DROM_REASON_VERB, 0, 0);
    SPOIL_TABLE(rules.at_start, strange_output, DROM_PART_AT_START, DROM_REASON_NO_OUTPUT, 0, 1);
}
END_TEST

START_TEST(missing_arguments_are_refused)
{
    drom_engine engine;
    sim_bench *const bench = sim_bench_new(1);
    const drom_port *const port = sim_bench_port(bench);
    const drom_port no_clock = {.context = NULL, .now = NULL, .write_pin = port->write_pin};
    const drom_port no_pins = {.context = NULL, .now = port->now, .write_pin = NULL};
    ck_assert_int_eq(drom_engine_init(NULL, &stage, port, NULL), DROM_BAD_ARGUMENT);
    ck_assert_int_eq(drom_engine_init(&engine, NULL, port, NULL), DROM_BAD_ARGUMENT);
    ck_assert_int_eq(drom_engine_init(&engine, &stage, NULL, NULL), DROM_BAD_ARGUMENT);
    ck_assert_int_eq(drom_engine_init(&engine, &stage, &no_clock, NULL), DROM_BAD_PORT);
    ck_assert_int_eq(drom_engine_init(&engine, &stage, &no_pins, NULL), DROM_BAD_PORT);
    sim_bench_free(bench);
}
END_TEST

RUN_TESTS("engine", keys_reach_the_relays, hold_and_release_fire_their_own_rules,
          press_acts_within_a_millisecond_of_its_last_informative_edge, poll_does_one_action,
          start_rules_run_once_after_the_rest_states, engine_comes_to_rest_at_every_moment,
          idle_engine_needs_no_wake_up_but_an_edge, stopped_engine_rests_and_hears_nothing,
          onlooker_is_told_of_each_step, bad_plan_is_refused_with_table_and_row,
          missing_arguments_are_refused)
