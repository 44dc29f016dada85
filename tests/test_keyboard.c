/* A keyboard and a computer on the bench, which tracks the keys that are down. */
#include "support.h"
#include "dromikos/outputs/keyboard.h"

#include "random.h"
#include "sim.h"

enum { A = 4, B = 5, VOLUME_UP = 0xe9, CTRL = 1, SHIFT = 2, ALT = 4 };

static const drom_stroke strokes[] = {{A, 0}, {B, CTRL | ALT}, {DROM_MEDIA(VOLUME_UP), 0}, {0, SHIFT}};
enum { JUST_A, CHORD, LOUDER, JUST_SHIFT };
static const drom_stroke typed[] = {{A, SHIFT}, {A, 0}, {B, 0}, {B, 0}};
static const drom_keyboard_text texts[] = {{DROM_ROWS(typed)}};
static const drom_keyboard_settings desk = {.strokes = DROM_ROWS(strokes), .texts = DROM_ROWS(texts)};
static drom_keyboard_state desk_state;
static const drom_output outputs[] = {DROM_KEYBOARD(desk, desk_state)};
static const drom_plan plan = {.outputs = {.outputs = DROM_ROWS(outputs)}, .guard = {.ms = 250}};

typedef struct stage {
    sim_bench *bench;
    drom_engine engine;
} stage;

static void open_stage(stage *opened)
{
    *opened = (stage){.bench = sim_bench_new(1)};
    sim_bench_start_clock_at(opened->bench, UINT32_C(0xfff00000)); /* the clock wraps after a second */
    sim_bench_set_computer(opened->bench, true);
    ck_assert_int_eq(drom_engine_init(&opened->engine, &plan, sim_bench_port(opened->bench), NULL), DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
}

static void play_until(stage *in, unsigned ms)
{
    while (sim_bench_now(in->bench) < ms * UINT64_C(1000)) {
        const drom_us wait = drom_engine_poll(&in->engine);
        (void)sim_bench_sleep(in->bench, wait < 1000 ? wait : 1000);
    }
}

static void order(stage *in, unsigned ms, uint8_t verb, uint32_t value)
{
    play_until(in, ms);
    ck_assert_int_eq(drom_engine_order(&in->engine, 0, verb, value), DROM_OK);
}

/* Returns "shift+4 4 5 m233 (5 6)": usages in the order in which they went down, with modifiers; those that
 * are still down in brackets; repeats as "r". To be freed. */
static char *story_of(const stage *in)
{
    GString *const text = g_string_new(NULL);
    size_t count;
    g_autofree sim_key *keys = sim_bench_keys(in->bench, &count);
    for (size_t i = 0; i < count; i++) {
        const bool is_down = keys[i].until_us == UINT64_MAX;
        g_string_append_printf(text, "%s%s%s%s%u%s", i > 0 ? " " : "", is_down ? "(" : "",
                               keys[i].is_media ? "m" : "", keys[i].is_repeat ? "r" : "", keys[i].usage,
                               is_down ? ")" : "");
        if (keys[i].modifiers != 0) {
            g_string_append_printf(text, "+%u", keys[i].modifiers);
        }
    }
    return g_string_free(text, FALSE);
}

#define ASSERT_STORY(ms, expected)                                                                           \
    do {                                                                                                     \
        play_until(&in, ms);                                                                                 \
        g_autofree char *story = story_of(&in);                                                              \
        ck_assert_str_eq(story, expected);                                                                   \
    } while (0)

TEST(texts_and_chords_are_typed_key_by_key)
{
    stage in;
    size_t count;
    open_stage(&in);
    order(&in, 300, DROM_KEYBOARD_TYPE, 0);
    order(&in, 300, DROM_KEYBOARD_TAP, CHORD);
    ASSERT_STORY(306, "");
    ASSERT_STORY(385, "4+2 4 5 (5)");
    ASSERT_STORY(500, "4+2 4 5 5 5+5");
    order(&in, 500, DROM_KEYBOARD_TAP, JUST_SHIFT);
    order(&in, 500, DROM_KEYBOARD_TAP, LOUDER);
    ASSERT_STORY(700, "4+2 4 5 5 5+5 225+2 m233");
    const sim_report *const reports = sim_bench_reports(in.bench, &count);
    for (size_t i = 1; i < count; i++) {
        ck_assert_uint_ge(reports[i].at_us - reports[i - 1].at_us, 9000);
    }
    ck_assert(reports[0].count == 8 && reports[1].count == 2); /* the first report has no key down */
    ck_assert_uint_eq(desk_state.dropped, 0);
    sim_bench_free(in.bench);
}

TEST(key_is_held_until_it_is_let_go)
{
    stage in;
    open_stage(&in);
    order(&in, 300, DROM_KEYBOARD_HOLD, JUST_A);
    ASSERT_STORY(800, "(4)");
    ck_assert(drom_keyboard.is_busy(&desk_state));
    ASSERT_STORY(900, "(4) r4 r4 r4");
    order(&in, 900, DROM_KEYBOARD_LET_GO, 0);
    ASSERT_STORY(920, "4 r4 r4 r4");
    ck_assert(!drom_keyboard.is_busy(&desk_state));
    order(&in, 1000, DROM_KEYBOARD_TYPE, 0);
    order(&in, 1000, DROM_KEYBOARD_HOLD,
          LOUDER); /* released before its report was sent: pressed all the same */
    order(&in, 1001, DROM_KEYBOARD_LET_GO, 0);
    ASSERT_STORY(1300, "4 r4 r4 r4 4+2 4 5 5 m233");
    order(&in, 1300, DROM_KEYBOARD_HOLD, CHORD); /* another order ends it */
    order(&in, 1400, DROM_KEYBOARD_TAP, JUST_A);
    ASSERT_STORY(1500, "4 r4 r4 r4 4+2 4 5 5 m233 5+5 4");
    sim_bench_free(in.bench);
}

TEST(orders_that_nobody_can_take_are_counted)
{
    stage in;
    open_stage(&in);
    for (unsigned i = 0; i < 6; i++) {
        order(&in, 300, DROM_KEYBOARD_TAP, JUST_A);
    }
    ASSERT_STORY(600, "4 4 4 4");
    ck_assert_uint_eq(desk_state.dropped, 2);
    sim_bench_set_computer(in.bench, false);
    order(&in, 700, DROM_KEYBOARD_TYPE, 0);
    ASSERT_STORY(800, "4 4 4 4");
    ck_assert_uint_eq(desk_state.dropped, 3);
    sim_bench_set_computer(in.bench, true);
    order(&in, 900, DROM_KEYBOARD_TYPE, 0);
    play_until(&in, 945);
    sim_bench_set_computer(in.bench, false); /* in the middle of a text */
    play_until(&in, 1200);
    sim_bench_set_computer(in.bench, true);
    ASSERT_STORY(1300, "4 4 4 4 4+2 4 5");
    ck_assert_uint_eq(desk_state.dropped, 4);
    sim_bench_free(in.bench);
}

TEST(what_was_down_is_let_go_first_when_the_computer_is_back)
{
    for (unsigned i = 0; i < 2; i++) {
        stage in;
        size_t before;
        size_t count;
        open_stage(&in);
        order(&in, 300, DROM_KEYBOARD_HOLD, CHORD);
        play_until(&in, 400);
        if (i == 0) {
            sim_bench_set_computer(in.bench,
                                   false); /* asleep: the computer remembers the keys that are down */
        } else {
            sim_bench_unplug(in.bench);
        }
        order(&in, 600, DROM_KEYBOARD_LET_GO, 0);
        order(&in, 700, DROM_KEYBOARD_TAP, JUST_A); /* dropped */
        play_until(&in, 800);
        (void)sim_bench_reports(in.bench, &before);
        sim_bench_set_computer(in.bench, true);
        ASSERT_STORY(815, "5+5");
        const sim_report *const reports = sim_bench_reports(in.bench, &count);
        ck_assert_uint_gt(count, before);
        ck_assert(reports[before].count == 8 && reports[before].bytes[0] == 0 &&
                  reports[before].bytes[2] == 0);
        order(&in, 900, DROM_KEYBOARD_TAP, LOUDER);
        play_until(&in, 1000);
        ck_assert_uint_eq(desk_state.dropped, 2);
        const sim_report *const later = sim_bench_reports(in.bench, &count) + before;
        /* No media key is down either, whatever the computer remembers. */
        ck_assert_uint_ge(count, before + 5);
        ck_assert(later[1].count == 8 && later[2].count == 2 && later[2].bytes[0] == 0 &&
                  later[3].bytes[0] == VOLUME_UP);
        sim_bench_free(in.bench);
    }
}

TEST(stop_lets_go_or_leaves_the_bus)
{
    stage in;
    open_stage(&in);
    order(&in, 300, DROM_KEYBOARD_HOLD, JUST_A);
    play_until(&in, 400);
    drom_engine_stop(&in.engine);
    ASSERT_STORY(401, "4");
    ck_assert_uint_eq(in.engine.state, DROM_STOPPED);
    sim_bench_free(in.bench);
    open_stage(&in);
    order(&in, 300, DROM_KEYBOARD_HOLD, JUST_A);
    play_until(&in, 400);
    sim_bench_set_computer(in.bench, false);
    drom_engine_stop(&in.engine);
    ck_assert_uint_eq(in.engine.state, DROM_STOPPING);
    play_until(&in, 450);
    ck_assert_uint_eq(in.engine.state, DROM_STOPPING);
    play_until(&in, 520);
    ck_assert_uint_eq(in.engine.state, DROM_STOPPED);
    sim_bench_set_computer(in.bench, true);
    ck_assert(!sim_bench_port(in.bench)->hid->is_ready(in.bench)); /* it has left */
    ck_assert_int_eq(drom_engine_init(&in.engine, &plan, sim_bench_port(in.bench), NULL), DROM_OK);
    order(&in, 600, DROM_KEYBOARD_TAP, JUST_A);
    play_until(&in, 700);
    ck_assert_uint_eq(desk_state.dropped, 0);
    sim_bench_free(in.bench);
}

TEST(program_that_hangs_leaves_the_bus)
{
    stage in;
    open_stage(&in);
    order(&in, 300, DROM_KEYBOARD_HOLD, JUST_A);
    play_until(&in, 400);
    sim_bench_block(in.bench, 260000);
    ASSERT_STORY(400, "4");
    play_until(&in, 800);
    ck_assert_uint_eq(in.engine.state, DROM_FAULT);
    ASSERT_STORY(900, "4");
    sim_bench_free(in.bench);
}

/* Random orders, sleeps, pulled cables and stops: each key that went down comes up. */
TEST(no_key_is_ever_left_down)
{
    enum { STEPS = 3000 };
    stage in;
    size_t count;
    sim_random random = {11};
    open_stage(&in);
    double ms = 100;
    for (unsigned i = 0; i < STEPS; i++) {
        ms += sim_random_between(&random, 0, 60);
        play_until(&in, (unsigned)ms);
        const unsigned what = (unsigned)(sim_random_next(&random) % 16);
        const uint8_t verb = (uint8_t)(sim_random_next(&random) % (DROM_KEYBOARD_TYPE + 1));
        const uint32_t value = (uint32_t)(sim_random_next(&random) % 4);
        if (what == 0) {
            sim_bench_set_computer(in.bench, false);
        } else if (what == 1) {
            sim_bench_unplug(in.bench);
        } else if (what < 5) {
            sim_bench_set_computer(in.bench, true);
        } else if (what == 5) {
            drom_engine_stop(&in.engine);
            ms = MAX(ms, (double)(sim_bench_now(in.bench) / 1000)) + 130;
            play_until(&in, (unsigned)ms);
            ck_assert_uint_eq(in.engine.state, DROM_STOPPED);
            ck_assert_int_eq(drom_engine_init(&in.engine, &plan, sim_bench_port(in.bench), NULL), DROM_OK);
        } else if (what == 6 && i % 8 == 0) {
            sim_bench_block(in.bench, 300000);
            (void)drom_engine_poll(&in.engine);
            ms = (double)(sim_bench_now(in.bench) / 1000) + 130;
            play_until(&in, (unsigned)ms);
            ck_assert_uint_eq(in.engine.state, DROM_FAULT);
            ck_assert_int_eq(drom_engine_init(&in.engine, &plan, sim_bench_port(in.bench), NULL), DROM_OK);
        } else if (drom_keyboard.accepts_action(&desk, verb, value)) {
            ck_assert_int_eq(drom_engine_order(&in.engine, 0, verb, value), DROM_OK);
        }
    }
    sim_bench_set_computer(in.bench, true);
    order(&in, (unsigned)ms, DROM_KEYBOARD_LET_GO, 0);
    play_until(&in, (unsigned)ms + 1000);
    g_autofree sim_key *keys = sim_bench_keys(in.bench, &count);
    unsigned down = 0;
    for (size_t i = 0; i < count; i++) {
        down += keys[i].until_us == UINT64_MAX;
    }
    ck_assert_uint_eq(down, 0);
    ck_assert_uint_gt(count, STEPS / 10);
    sim_bench_free(in.bench);
}

static void assert_refused(const drom_keyboard_settings *given, drom_reason reason, uint8_t item)
{
    static drom_keyboard_state state;
    static drom_keyboard_settings wrong;
    wrong = *given;
    const drom_output rows[] = {DROM_KEYBOARD(wrong, state)};
    const drom_plan only = {.outputs = {.outputs = DROM_ROWS(rows)}};
    const drom_port_facts facts = {.pins = 20};
    drom_fault fault;
    ck_assert_int_eq(drom_plan_check(&only, &facts, &fault), DROM_BAD_PLAN);
    ck_assert_int_eq(fault.reason, reason);
    ck_assert_uint_eq(fault.item, item);
}

TEST(tables_that_no_keyboard_can_type_are_refused)
{
    static const drom_stroke far[] = {{A, 0}, {256, 0}};
    static const drom_stroke joined[] = {{A, 0}, {A, 0}, {DROM_MEDIA(VOLUME_UP), CTRL}};
    static const drom_keyboard_text null_text[] = {{{NULL, 2}}};
    static const drom_keyboard_text far_text[] = {{DROM_ROWS(typed)}, {DROM_ROWS(far)}};
    assert_refused(&(drom_keyboard_settings){.strokes = {NULL, 1}}, DROM_REASON_NULL, 0);
    assert_refused(&(drom_keyboard_settings){.texts = {NULL, 1}}, DROM_REASON_NULL, 0);
    assert_refused(&(drom_keyboard_settings){.strokes = DROM_ROWS(far)}, DROM_REASON_SETTINGS, 1);
    assert_refused(&(drom_keyboard_settings){.strokes = DROM_ROWS(joined)}, DROM_REASON_SETTINGS, 2);
    assert_refused(&(drom_keyboard_settings){.texts = DROM_ROWS(null_text)}, DROM_REASON_NULL, 0);
    assert_refused(&(drom_keyboard_settings){.texts = DROM_ROWS(far_text)}, DROM_REASON_SETTINGS, 1);
    ck_assert(!drom_keyboard.accepts_action(&desk, DROM_KEYBOARD_TAP, 4));
    ck_assert(!drom_keyboard.accepts_action(&desk, DROM_KEYBOARD_TYPE, 1));
    ck_assert(!drom_keyboard.accepts_action(&desk, DROM_KEYBOARD_TYPE + 1, 0));
}

TEST(port_without_usb_is_refused)
{
    sim_bench *const bench = sim_bench_new(1);
    drom_port port = *sim_bench_port(bench);
    drom_engine engine;
    port.hid = NULL;
    ck_assert_int_eq(drom_engine_init(&engine, &plan, &port, NULL), DROM_BAD_PORT);
    sim_bench_free(bench);
}

SUITE("keyboard")
