/* Each clause of a rule as docs/plan-language.md has it: presses, and the results. */
#include "support.h"

#include "plans.h"
#include "sim.h"

#include <stdio.h>
#include <string.h>

/* Returns the results: "0.6 spot on, 0.6 cue is 1". */
typedef struct watched {
    plan *stage;
    sim_bench *bench;
    GString *log;
} watched;

static void note(watched *in, char *text)
{
    g_string_append_printf(in->log, "%s%.1f %s", in->log->len > 0 ? ", " : "",
                           (double)sim_bench_now(in->bench) / 1e6, text);
    g_free(text);
}

static void on_event(void *context, const drom_event *event)
{
    watched *const in = context;
    char *const text = plan_event_text(in->stage, event);
    if (text != NULL) {
        note(in, text);
    }
}

static void on_action(void *context, const drom_action *action)
{
    watched *const in = context;
    note(in, plan_action_text(in->stage, action));
}

static void touch(const watched *in, char **parts)
{
    const int which = plan_find_switch(in->stage, parts[0]);
    const int pin = which >= 0
                        ? plan_switch_pin(in->stage, (unsigned)which)
                        : plan_button_pin(in->stage, 1, (unsigned)plan_find_key(in->stage, 1, parts[0]));
    const double from = g_ascii_strtod(parts[1], NULL);
    const double lasts = parts[2] != NULL ? g_ascii_strtod(parts[2], NULL) : 0.1;
    ck_assert_int_ge(pin, 0);
    sim_bench_touch(in->bench, (uint8_t)pin, (uint64_t)(from * 1e6), true);
    sim_bench_touch(in->bench, (uint8_t)pin, (uint64_t)((from + lasts) * 1e6), false);
}

/* "play 0.5, up 1+0.8": presses, each with its time in seconds and its duration (default 0.1 s). Names that
 * aren't keys of the wand are buttons of the second handset, or switches, which close for that time. */
static void press_all(const watched *in, const char *presses)
{
    g_auto(GStrv) each = g_strsplit(presses, ", ", -1);
    for (int i = 0; each[i] != NULL && each[i][0] != '\0'; i++) {
        g_auto(GStrv) parts = g_strsplit_set(each[i], " +", -1);
        const int key = plan_find_key(in->stage, 0, parts[0]);
        if (key < 0) {
            touch(in, parts);
            continue;
        }
        const drom_code code = plan_tables(in->stage)->keys.handsets.rows[0].codes.rows[key];
        ck_assert(sim_bench_press(
            in->bench,
            &(sim_press){
                .waveform = plan_waveform(in->stage, code.protocol),
                .code = code,
                .at_us = (uint64_t)(g_ascii_strtod(parts[1], NULL) * 1e6),
                .held_us = parts[2] != NULL ? (uint64_t)(g_ascii_strtod(parts[2], NULL) * 1e6) : 100000,
            }));
    }
}

typedef struct clause {
    const char *lines;
    const char *presses;
    const char *expected;
} clause;

static void check_clause(const clause *given)
{
    drom_engine engine;
    g_autofree char *reported = NULL;
    watched in = {.stage = load_stage(given->lines, &reported), .log = g_string_new(NULL)};
    const drom_observer observer = {.context = &in, .event = on_event, .action = on_action};
    drom_fault fault = {0};
    ck_assert_msg(in.stage != NULL, "%s", reported);
    in.bench = sim_bench_new(1);
    ck_assert_msg(drom_engine_init(&engine, plan_tables(in.stage), sim_bench_port(in.bench), &fault) ==
                      DROM_OK,
                  "%s: part %d, row %u, item %u, reason %d", given->lines, (int)fault.part, fault.row,
                  fault.item, (int)fault.reason);
    sim_bench_wire_engine(in.bench, &engine);
    drom_engine_observe(&engine, &observer);
    press_all(&in, given->presses);
    while (sim_bench_sleep(in.bench, drom_engine_poll(&engine)) && sim_bench_now(in.bench) < 20000000) {
    }
    ck_assert_msg(strcmp(in.log->str, given->expected) == 0, "%s\npressed: %s\nexpected: %s\ncame:     %s",
                  given->lines, given->presses, given->expected, in.log->str);
    g_string_free(in.log, TRUE);
    sim_bench_free(in.bench);
    plan_free(in.stage);
}

#define CHECK(...)                                                                                           \
    do {                                                                                                     \
        static const clause given[] = {__VA_ARGS__};                                                         \
        for (size_t i = 0; i < G_N_ELEMENTS(given); i++) {                                                   \
            check_clause(&given[i]);                                                                         \
        }                                                                                                    \
    } while (0)

TEST(keys_and_gestures_of_a_rule)
{
    CHECK({"when wand.up or wand.down pressed: spot toggle", "up 0.5, down 1, red 1.5",
           "0.6 spot toggle, 1.1 spot toggle"},
          {"when wand.up or wand.down pressed or released: spot toggle", "down 0.5",
           "0.6 spot toggle, 0.8 spot toggle"},
          {"when wand.up pressed or wand.down held for 300 ms: spot on while held", "down 0.5+0.8, up 2",
           "0.8 spot on, 1.5 spot off, 2.1 spot on, 2.3 spot off"},
          {"when wand.n8 to wand.n9 pressed: foot show digit", "n9 0.5", "0.6 foot show 9"},
          {"when any other wand key pressed: spot toggle\nwhen wand.red pressed: bell off", "red 0.5, up 1",
           "0.6 bell off, 1.1 spot toggle"});
}

TEST(modes_begin_end_and_fall_back)
{
    CHECK({"mode show\nmode rigging, back after 2 s\n"
           "when wand.play pressed: mode rigging\n"
           "when wand.up pressed in rigging: spot on\n"
           "when wand.up pressed in show: spot off\n"
           "when rigging begins: bell off\nwhen rigging ends: bell on",
           "up 0.5, play 1, up 2, up 6",
           "0.6 spot off, 1.1 show ends, 1.1 rigging begins, 1.1 bell off, 2.1 spot on, 4.3 rigging ends, "
           "4.3 bell on, 4.3 show begins, 6.1 spot off"},
          {"mode show\nmode rigging\n"
           "in rigging:\n"
           "    when wand.up pressed: spot on\n"
           "    when wand.down pressed if spot is on: spot off\n"
           "        otherwise: bell off\n"
           "when wand.play pressed: mode rigging",
           "up 0.5, play 1, down 1.5, up 2, down 2.5",
           "1.1 show ends, 1.1 rigging begins, 1.6 bell off, 2.1 spot on, 2.6 spot off"});
}

TEST(values_count_and_stand_for_numbers)
{
    CHECK({"value cue from 0 to 2\nwhen wand.up pressed: cue up\nwhen cue changes: foot show cue",
           "up 0.5, up 1, up 1.5", "0.6 cue is 1, 0.6 foot show 1, 1.1 cue is 2, 1.1 foot show 2"},
          {"value shade from -5 to 5, starts at 4, wraps\nwhen wand.up pressed: shade up 3\n"
           "when wand.down pressed: shade to -2\nwhen wand.red pressed if shade < 0 and spot is off: spot on",
           "red 0.5, up 1, red 1.5, down 2", "1.1 shade is -4, 1.6 spot on, 2.1 shade is -2"},
          {"value up_to from -5 to 5, starts at -3\nvalue cue from -9 to 9\nwhen wand.up pressed: cue to "
           "up_to; cue up up_to",
           "up 0.5", "0.6 cue is -6"},
          {"value level from 0 to 100, starts at 30\nwhen wand.up pressed: house fade to level % over 1 s; "
           "level up 20",
           "up 0.5, up 2",
           "0.6 house fade to 30 % over 1000 ms, 0.6 level is 50, "
           "2.1 house fade to 50 % over 1000 ms, 2.1 level is 70"},
          {"value cue from 0 to 9\nwhen wand.n8 to wand.n9 pressed: cue to digit\nwhen wand.red pressed if "
           "cue = 8: spot on\n"
           "    otherwise: spot off",
           "n8 0.5, red 1, n9 1.5, red 2", "0.6 cue is 8, 1.1 spot on, 1.6 cue is 9, 2.1 spot off"});
}

TEST(timers_and_scenes)
{
    CHECK({"timer nap\nwhen wand.up pressed: nap start 2 s\nwhen wand.down pressed: nap add 1 s\n"
           "when wand.red pressed: nap cancel\nwhen nap ends: spot off\nwhen wand.exit pressed if nap runs: "
           "bell off",
           "up 0.5, down 1, exit 1.5, up 5, red 5.5, exit 6", "1.6 bell off, 3.6 nap ends, 3.6 spot off"},
          {"scene evening: house on; wait 1 s; spot on\nwhen wand.up pressed: evening\n"
           "when wand.down pressed: stop evening",
           "up 0.5, up 3, down 3.5", "0.6 evening, 0.6 house on, 1.6 spot on, 3.1 evening, 3.1 house on"});
}

TEST(sequences_wait_and_say_what_becomes_of_them)
{
    static const char *const rule = "%s: spot on; wait 1 s; spot off";
    static const struct {
        const char *again;
        const char *expected;
    } answers[] = {
        {"", "0.6 spot on, 1.1 spot on, 2.1 spot off"},
        {", again restarts", "0.6 spot on, 1.1 spot on, 2.1 spot off"},
        {", again ignored", "0.6 spot on, 1.6 spot off"},
        {", again queued", "0.6 spot on, 1.6 spot off, 1.6 spot on, 2.6 spot off"},
        {", again stops", "0.6 spot on"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(answers); i++) {
        g_autofree char *head = g_strdup_printf("when wand.up pressed%s", answers[i].again);
        g_autofree char *lines = g_strdup_printf(rule, head);
        check_clause(&(clause){lines, "up 0.5, up 1", answers[i].expected});
    }
    CHECK({"when wand.up pressed: house fade to 50 % over 1 s; wait for house; spot on; wait for house at "
           "most 2 s; spot off",
           "up 0.5", "0.6 house fade to 50 % over 1000 ms, 1.6 spot on, 1.6 spot off"},
          {"when wand.up pressed: house blink 100 ms; wait for house at most 2 s; everything rests", "up 0.5",
           "0.6 house blink 100 ms, 2.6 spot off, 2.6 bell on, 2.6 house off, 2.6 foot off"});
}

/* Three presses are three whole frames of nec, one period apart; one press of three is a frame and two
 * dittos. */
TEST(key_is_sent_in_presses_or_in_frames)
{
    static const struct {
        const char *order;
        unsigned frames;
    } orders[] = {{"3 times", 3}, {"3 frames", 3}, {"1 times", 1}, {"5 times", 5}};
    for (size_t i = 0; i < G_N_ELEMENTS(orders); i++) {
        g_autofree char *lines = g_strdup_printf(
            "sender horn on pin 3\nhandset hall from \"wand.csv\"\nat start: horn send hall.n9 %s",
            orders[i].order);
        g_autofree char *reported = NULL;
        drom_engine engine;
        plan *const stage = load_stage(lines, &reported);
        ck_assert_msg(stage != NULL, "%s", reported);
        sim_bench *const bench = sim_bench_new(1);
        sim_target *const target = sim_bench_wire_target(bench, 3);
        ck_assert_int_eq(drom_engine_init(&engine, plan_tables(stage), sim_bench_port(bench), NULL), DROM_OK);
        sim_bench_wire_engine(bench, &engine);
        while (sim_bench_sleep(bench, drom_engine_poll(&engine)) && sim_bench_now(bench) < 3000000) {
        }
        ck_assert_uint_eq(sim_target_frames(target), orders[i].frames);
        ck_assert_int_eq(strcmp(sim_target_heard(target), "the same again") == 0,
                         strstr(orders[i].order, "3 frames") != NULL);
        sim_bench_free(bench);
        plan_free(stage);
    }
}

TEST(any_code_is_heard_before_its_key)
{
    CHECK({"call readout\nwhen wand.up pressed: spot on\nwhen any code heard: call readout",
           "up 0.5, red 1+0.3",
           "0.6 any code heard, 0.6 readout 0, 0.6 spot on, 1.1 any code heard, 1.1 readout 0, 1.1 any code "
           "heard, "
           "1.1 readout 0, 1.2 any code heard, 1.2 readout 0"},
          {"when any code heard or wand.up pressed: bell off", "up 0.5",
           "0.6 any code heard, 0.6 bell off, 0.6 bell off"});
}

TEST(function_of_ones_own_is_called)
{
    CHECK({"call announce\nvalue cue from 0 to 9\nwhen wand.up pressed: cue up; call announce cue; call "
           "announce -3\n"
           "when wand.down pressed: call announce; announce 7",
           "up 0.5, down 1", "0.6 announce 1, 0.6 announce -3, 0.6 cue is 1, 1.1 announce 0, 1.1 announce 7"},
          {"call announce\nvalue cue from -5 to 5, starts at -2\nwhen wand.up pressed: call announce cue",
           "up 0.5", "0.6 announce -2"});
}

/* A kept value and one that isn't; a press, and a power cut long after it. */
TEST(value_that_is_kept_outlasts_a_power_cut)
{
    drom_engine engine;
    g_autofree char *reported = NULL;
    watched in = {.stage =
                      load_stage("value act from 1 to 9, starts at 4, wraps, kept\nvalue cue from 0 to 9\n"
                                 "when wand.up pressed: act up 2; cue up",
                                 &reported)};
    ck_assert_msg(in.stage != NULL, "%s", reported);
    const drom_rules_plan *const rules = &plan_tables(in.stage)->rules;
    in.bench = sim_bench_new(1);
    for (unsigned life = 0; life < 2; life++) {
        ck_assert_int_eq(drom_engine_init(&engine, plan_tables(in.stage), sim_bench_port(in.bench), NULL),
                         DROM_OK);
        sim_bench_wire_engine(in.bench, &engine);
        ck_assert_int_eq(rules->numbers[0], life == 0 ? 4 : 6);
        ck_assert_int_eq(rules->numbers[1], 0);
        press_all(&in, life == 0 ? "up 0.5" : "");
        while (sim_bench_sleep(in.bench, drom_engine_poll(&engine)) && sim_bench_now(in.bench) < 6000000) {
        }
        sim_bench_cut_power(in.bench);
    }
    sim_bench_free(in.bench);
    plan_free(in.stage);
}

TEST(orders_last_for_a_time)
{
    CHECK({"when wand.up pressed: house on for 2 s; spot on for 1 s\nwhen wand.down pressed: house on",
           "up 0.5", "0.6 spot pulse for 1000 ms, 0.6 house on for 2 s, 0.6 house on, 2.6 house let go"},
          {"when wand.up pressed: house on for 2 s\nwhen wand.down pressed: house on", "up 0.5, down 1",
           "0.6 house on for 2 s, 0.6 house on, 1.1 house on"},
          {"all lights: house, foot\nwhen wand.up pressed: lights on for 1 s\n"
           "when wand.down pressed: house blink 300 ms for 500 ms",
           "up 0.5, down 1, up 3",
           "0.6 house on for 1 s, 0.6 house on, 0.6 foot on for 1 s, 0.6 foot on, 1.1 house blink 300 ms for "
           "500 ms, "
           "1.1 house blink 300 ms, 1.6 foot off, 1.6 house let go, 3.1 house on for 1 s, 3.1 house on, 3.1 "
           "foot on for 1 s, "
           "3.1 foot on, 4.1 house let go, 4.1 foot off"});
}

TEST(handset_is_translated_key_by_key)
{
    CHECK({"sender horn on pin 3, shielded\nhandset hall from \"wand.csv\"\n"
           "translate wand to hall on horn: up as n8, down, red as n9\nwhen wand.red pressed: spot on",
           "up 0.5+0.3, down 1.5, red 2.5",
           "0.6 horn hold hall.n8, 1.0 horn let go, 1.6 horn hold hall.down, 1.8 horn let go, 2.6 spot on, "
           "2.6 horn hold hall.n9, 2.8 horn let go"});
}

TEST(buttons_and_switches)
{
    CHECK(
        {"buttons wall: up on pin A1, 1 on pin A2\nwhen wand.up or wall.up pressed: spot on while held\n"
         "when wall.1 held for 300 ms: bell off\nwhen wall.1 tapped: bell on",
         "up 0.5, up 1", "0.6 spot on, 0.8 spot off, 1.1 spot on, 1.3 spot off"},
        {"buttons wall: ring on pin A1, 1 on pin A2\nwhen wall.ring pressed: spot on while held\n"
         "when wall.1 held for 300 ms: bell off\nwhen wall.1 tapped: bell on\nwhen wand.up pressed: spot off",
         "ring 0.5+0.3, 1 1+0.5, 1 2", "0.5 spot on, 0.8 spot off, 1.3 bell off, 2.1 bell on"},
        {"switch top on pin A4\nwhen top closes: spot on\nwhen top opens: spot off\n"
         "when wand.up pressed if top is closed: bell off\n    otherwise: bell on",
         "up 0.5, top 1+1, up 1.5, up 3",
         "0.6 bell on, 1.0 top closes, 1.0 spot on, 1.6 bell off, 2.0 top opens, 2.0 spot off, 3.1 bell on"});
}

/* A held key of one protocol is translated to a key of another. */
typedef struct passed {
    const char *from;
    const char *into;
    unsigned frames;     /* least number of presses that the appliance counts */
    unsigned late_ms;    /* most time from the press to the end of our first frame */
    unsigned release_ms; /* most time from the release to the end of our last frame; 0: it ends before */
} passed;

static void check_passed(const passed *given)
{
    enum { FROM_US = 500000, HELD_US = 1500000 };
    g_autofree char *csv =
        g_strdup_printf("key,protocol,address,command\nup,%s,5,18\nout,%s,5,19\n", given->from, given->into);
    char *reported = NULL;
    plan *const stage =
        load_plan("plan \"Stage\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
                  "sender horn on pin 3\ntranslate wand to wand on horn: up as out\n",
                  csv, &reported);
    ck_assert_msg(stage != NULL, "%s", reported);
    sim_bench *const bench = sim_bench_new(1);
    sim_target *const appliance = sim_bench_wire_target(bench, 3);
    const drom_code code = plan_tables(stage)->keys.handsets.rows[0].codes.rows[0];
    drom_engine engine;
    uint64_t first_us = 0;
    uint64_t last_us = 0;
    unsigned frames = 0;
    ck_assert_int_eq(drom_engine_init(&engine, plan_tables(stage), sim_bench_port(bench), NULL), DROM_OK);
    sim_bench_wire_engine(bench, &engine);
    sim_bench_hear_itself(bench, true);
    ck_assert(sim_bench_press(bench, &(sim_press){.waveform = plan_waveform(stage, code.protocol),
                                                  .code = code,
                                                  .at_us = FROM_US,
                                                  .held_us = HELD_US}));
    while (sim_bench_sleep(bench, drom_engine_poll(&engine))) {
        if (sim_target_frames(appliance) > frames) {
            frames = sim_target_frames(appliance);
            last_us = sim_bench_now(bench);
            first_us = first_us == 0 ? last_us : first_us;
        }
    }
    ck_assert_msg(frames >= given->frames && sim_target_unknown(appliance) == 0,
                  "%s to %s: %u frames, %u unread", given->from, given->into, frames,
                  sim_target_unknown(appliance));
    ck_assert_msg(first_us <= FROM_US + given->late_ms * UINT64_C(1000), "%s to %s: %u ms", given->from,
                  given->into, (unsigned)(first_us - FROM_US) / 1000);
    const bool goes_on = last_us >= FROM_US + HELD_US - 200000;
    ck_assert_msg(goes_on == (given->release_ms > 0) &&
                      last_us <= FROM_US + HELD_US + given->release_ms * UINT64_C(1000),
                  "%s to %s: %d ms", given->from, given->into,
                  (int)((int64_t)last_us - FROM_US - HELD_US) / 1000);
    sim_bench_free(bench);
    plan_free(stage);
    free(reported);
}

TEST(held_key_passes_on_in_the_others_form)
{
    static const passed pairs[] = {
        {"sirc12", "nec", 10, 120, 300},
        {"nec", "lg28", 10, 250, 350},
        {"nec", "samsung32", 10, 250, 300},
        {"nec_unchecked", "nec", 10, 230, 350},
        {"samsung32", "nec", 10, 250, 300},
        {"sirc12", "samsung32", 4, 120, 0},    /* too many repeats are covered */
        {"samsung32", "samsung32", 1, 250, 0}, /* no gap is long enough for a repeat */
    };
    for (size_t i = 0; i < G_N_ELEMENTS(pairs); i++) {
        check_passed(&pairs[i]);
    }
}

/* In a pair without a gap, a held key is one press, or a press at intervals; both end at the release. */
TEST(held_key_passes_on_in_presses)
{
    static const char csv[] = "key,protocol,address,command\nup,samsung32,4,1\nout,samsung32,7,11\n";
    static const struct {
        const char *pair;
        unsigned least;
        unsigned most;
    } cases[] = {
        {"up as out", 1, 1}, {"up as out again each 300 ms", 6, 8}, {"up as out again each 1 s", 2, 3}};
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *reported = NULL;
        g_autofree char *text = g_strdup_printf(
            "plan \"Stage\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
            "sender horn on pin 3\ntranslate wand to wand on horn: %s\n",
            cases[i].pair);
        plan *const stage = load_plan(text, csv, &reported);
        ck_assert_msg(stage != NULL, "%s", reported);
        sim_bench *const bench = sim_bench_new(1);
        const drom_sender_settings *const settings = plan_output(stage, 0)->settings;
        sim_target *const appliance = sim_bench_wire_target(bench, 3);
        sim_target_learn(appliance, settings->keys.rows, settings->keys.count);
        const drom_code code = plan_tables(stage)->keys.handsets.rows[0].codes.rows[0];
        drom_engine engine;
        ck_assert_int_eq(drom_engine_init(&engine, plan_tables(stage), sim_bench_port(bench), NULL), DROM_OK);
        sim_bench_wire_engine(bench, &engine);
        sim_bench_hear_itself(bench, true);
        ck_assert(sim_bench_press(bench, &(sim_press){.waveform = plan_waveform(stage, code.protocol),
                                                      .code = code,
                                                      .at_us = 100000,
                                                      .held_us = 2000000}));
        while (sim_bench_sleep(bench, drom_engine_poll(&engine))) {
        }
        const unsigned presses = sim_target_presses(appliance, 0);
        ck_assert_msg(presses >= cases[i].least && presses <= cases[i].most, "%s: %u", cases[i].pair,
                      presses);
        ck_assert_uint_eq(sim_target_torn(appliance), 0);
        sim_bench_free(bench);
        plan_free(stage);
        free(reported);
    }
}

TEST(motors_run_and_steer)
{
    CHECK({"motor left on pins A0 and A1, speed on pin 9, at most 2 s\nmotor right on pins A2 and A3, speed "
           "on pin 10\n"
           "drive wagon of left and right\n"
           "when wand.up pressed: wagon forward 60 % while held\n"
           "when wand.down pressed: left run back; right faster 10 %; wait for left; spot on\n"
           "when wand.red pressed if wagon is on: wagon stop\n    otherwise: right run 40 % for 1 s",
           "up 0.5+0.5, down 2, red 5",
           "0.6 wagon forward 60 %, 1.2 wagon stop, 2.1 left run back 100 %, 2.1 right faster 10 %, "
           "4.1 spot on, 5.1 right run 40 % for 1 s, 5.1 right run 40 %, 6.1 right stop"});
}

TEST(keyboard_types_and_holds)
{
    CHECK({"keyboard desk, layout de\nwhen wand.up pressed: desk type 'Z: \"@\"'; desk tap ctrl+y; wait for "
           "desk; spot on\n"
           "when wand.down pressed: desk hold volume_up while held",
           "up 0.5, down 2+0.5",
           "0.6 desk type 'Z: \"@\"', 0.6 desk tap ctrl+y, 0.6 spot on, 2.1 desk hold volume_up, 2.7 desk "
           "let go"});
}

TEST(lamp_dims_while_a_key_is_held)
{
    CHECK({"when wand.up pressed: house dim over 2 s while held\nwhen wand.down pressed if house is on: "
           "house dim down over 1 s "
           "for 300 ms",
           "up 0.5+0.9, up 2+0.5, down 3.5",
           "0.6 house dim over 2000 ms, 1.6 house let go, 2.1 house dim over 2000 ms, 2.7 house let go, "
           "3.6 house dim down over 1 s for 300 ms, 3.6 house dim down over 1000 ms, 3.9 house let go"});
}

TEST(strip_goes_through_its_colours)
{
    CHECK({"palette dusk: orange, purple, red\nwhen wand.up pressed: foot next colour\nwhen wand.down "
           "pressed: foot previous colour",
           "up 0.5, down 1", "0.6 foot next colour, 1.1 foot previous colour"});
}

TEST(names_may_be_of_any_script)
{
    CHECK({"relay glühlampe on pin 9\nvalue 数 from 0 to 9\nswitch верх on pin A4\n"
           "when wand.up pressed: glühlampe on; 数 up\nwhen верх closes if 数 = 1: glühlampe off",
           "up 0.5, верх 1+1",
           "0.6 glühlampe on, 0.6 数 is 1, 1.0 верх closes, 1.0 glühlampe off, 2.0 верх opens"});
}

TEST(one_name_for_several_outputs)
{
    CHECK({"all lights: spot, house, foot\nwhen wand.up pressed: lights on\nwhen wand.down pressed: lights "
           "dimmer 10 %",
           "up 0.5, down 1",
           "0.6 spot on, 0.6 house on, 0.6 foot on, 1.1 house dimmer 10 %, 1.1 foot dimmer 10 %"});
}

TEST(own_code_posts_events_with_a_number)
{
    g_autofree char *reported = NULL;
    drom_engine engine;
    watched in = {.log = g_string_new(NULL)};
    const drom_observer observer = {.context = &in, .event = on_event, .action = on_action};
    in.stage = load_stage("event doorbell\nevent knob\nvalue cue from 0 to 20\nwhen doorbell: bell off\n"
                          "when knob: cue to knob; house fade to knob % over 1 s",
                          &reported);
    ck_assert_msg(in.stage != NULL, "%s", reported);
    in.bench = sim_bench_new(1);
    ck_assert_int_eq(drom_engine_init(&engine, plan_tables(in.stage), sim_bench_port(in.bench), NULL),
                     DROM_OK);
    sim_bench_wire_engine(in.bench, &engine);
    drom_engine_observe(&engine, &observer);
    ck_assert_int_eq(drom_engine_post(&engine, 0, 0), DROM_OK);
    ck_assert_int_eq(drom_engine_post(&engine, 1, 70), DROM_OK);
    while (sim_bench_sleep(in.bench, drom_engine_poll(&engine))) {
    }
    ck_assert_str_eq(in.log->str,
                     "0.0 doorbell, 0.0 bell off, 0.0 knob, 0.0 house fade to 70 % over 1000 ms, "
                     "0.0 cue is 20");
    g_string_free(in.log, TRUE);
    sim_bench_free(in.bench);
    plan_free(in.stage);
}

SUITE("language")
