/* play: the bench live on a terminal, with keys to press and conditions to change. */
#include "cli/io/io.h"

#include "cli/io/here.h"
#include "cli/io/files.h"
#include "cli/rehearse/conditions.h"
#include "cli/rehearse/inputs.h"
#include "cli/rehearse/keypad.h"
#include "cli/rehearse/recording.h"
#include "cli/verbs/verbs.h"

#include "live/outputs.h"
#include "live/page.h"

#include <errno.h>
#include <math.h>
#include <string.h>
#include <unistd.h>

enum {
    FRAME_US = 16000,
    BUDGET_US = 4000,   /* of the computer's time, for the bench in one frame */
    SLICE_US = 2000,    /* of the bench's time, between two looks at the computer's clock */
    LATEST_US = 100000, /* a stopped program doesn't catch up */
    LOOK_US = 200000,   /* between two looks at the state */
    STILL_US = 700000,  /* after a key, until the state counts */
    AFTER_US = 3000000, /* end of a script */
};

typedef struct playing {
    rehearsal run;
    timeline *view;
    GArray *rows;
    GArray *outputs;
    journal *journal;
    keypad *keypad;
    recording *recording; /* NULL: no recording */
    live_page page;
    conditions conditions;
    char *state;
    char *reception;
    uint64_t ends_us; /* of a script; UINT64_MAX: by hand */
    uint64_t looked_us;
    unsigned frames;
    int mouse_key; /* held by the mouse; -1: none */
    gint64 clock_us;
    double due_us; /* where the bench's time should be */
} playing;

/* Applies the changed settings to the simulation. */
static void feel_conditions(playing *at)
{
    const sim_place there = conditions_place(&at->conditions);
    keypad_go(at->keypad, &there);
    at->run.own_code_us = conditions_own_code_us(&at->conditions);
}

static void turn(playing *at, int steps)
{
    conditions_turn(&at->conditions, at->page.condition, steps);
    feel_conditions(at);
}

/* Takes what has happened since the last call. */
static void take_rows(playing *at)
{
    for (guint i = 0; i < at->rows->len; i++) {
        const timeline_row *const taken = rows_at(at->rows, i);
        if (taken->kind == ROW_FRAME && taken->data.frame.protocol != &drom_unknown) {
            at->page.margin = drom_frame_margin(&taken->data.frame);
            at->frames++;
        }
        live_outputs_take(at->outputs, taken);
        journal_take(at->journal, taken);
    }
    g_array_set_size(at->rows, 0);
}

static void look_at_states(playing *at)
{
    GPtrArray *const states = timeline_states(at->view, &at->run.engine, false);
    g_ptr_array_add(states, NULL);
    g_free(at->state);
    g_autofree char *texts = g_strjoinv("   ", (char **)states->pdata);
    g_auto(GStrv) parts = g_strsplit(texts, " not runs", -1);
    at->state = g_strjoinv(" stopped", parts);
    g_ptr_array_unref(states);
    g_free(at->reception);
    at->reception = g_strdup_printf("%u frames   polls %.1f ms apart at most", at->frames,
                                    chip_watch_take(&at->run.chip, at->run.bench).poll_us / 1000);
    if (at->recording != NULL && keypad_is_still(at->keypad, STILL_US)) {
        recording_look(at->recording, &at->run);
    }
}

/* Runs the bench up to where it should be, or as far as the computer manages. */
static void go_on(playing *at)
{
    enum { DISTURB_US = 100000 };
    const gint64 now_us = g_get_monotonic_time();
    const gint64 passed_us = MIN(now_us - at->clock_us, LATEST_US);
    uint64_t bench_us = sim_bench_now(at->run.bench);
    at->clock_us = now_us;
    at->due_us += at->page.is_paused ? 0 : (double)passed_us * at->page.speed;
    while (bench_us < MIN((uint64_t)at->due_us, at->ends_us) && g_get_monotonic_time() < now_us + BUDGET_US) {
        const uint64_t until_us = MIN(bench_us + SLICE_US, MIN((uint64_t)at->due_us, at->ends_us));
        conditions_disturb(&at->conditions, at->run.bench, (until_us / DISTURB_US + 1) * DISTURB_US);
        keypad_pass(at->keypad, until_us);
        rehearsal_pass(&at->run, until_us);
        bench_us = sim_bench_now(at->run.bench);
        take_rows(at);
        if (bench_us >= at->looked_us + LOOK_US) {
            at->looked_us = bench_us;
            look_at_states(at);
        }
    }
    at->page.is_late = bench_us + SLICE_US < (uint64_t)at->due_us;
    at->due_us = at->page.is_late ? (double)bench_us : at->due_us;
}

/* Shows a script's presses as well. */
static void show_script(const playing *at)
{
    GArray *const keys = keypad_keys(at->keypad);
    const GArray *const script = at->run.script;
    const uint64_t now_ms = sim_bench_now(at->run.bench) / 1000;
    for (guint i = 0; script != NULL && at->ends_us < UINT64_MAX && i < keys->len; i++) {
        live_key *const key = &g_array_index(keys, live_key, i);
        bool is_down = false;
        for (guint j = 0; j < script->len; j++) {
            const script_press *const press = &g_array_index(script, script_press, j);
            if (press->at_ms > now_ms || !keypad_has(at->keypad, i, press)) {
                continue;
            }
            is_down =
                key->is_switch ? press->closes : is_down || now_ms < press->at_ms + (uint64_t)press->held_ms;
        }
        key->is_down = is_down;
    }
}

static void draw(playing *at)
{
    const sim_load load = sim_bench_load(at->run.bench);
    show_script(at);
    at->page.now_us = sim_bench_now(at->run.bench);
    at->page.lost_edges = load.merged + load.overrun;
    at->page.state = at->state != NULL ? at->state : "";
    at->page.reception = at->reception != NULL ? at->reception : "";
    live_page_draw(&at->page);
}

static void change_speed(playing *at, double factor)
{
    at->page.speed = CLAMP(at->page.speed * factor, 1.0 / 16, 64);
}

/* A letter: a key's, or one of the screen's. Keys are letters and digits only. */
static void type(playing *at, uint32_t letter)
{
    const bool is_key = letter < 128 && g_ascii_isalnum((char)letter);
    const int key = is_key ? keypad_find(at->keypad, g_ascii_tolower((char)letter)) : -1;
    if (key >= 0 && at->ends_us == UINT64_MAX) {
        if (g_ascii_isupper((char)letter)) {
            keypad_press(at->keypad, (unsigned)key);
        } else {
            keypad_tap(at->keypad, (unsigned)key);
        }
        return;
    }
    switch (letter) {
    case ' ':
        at->page.is_paused = !at->page.is_paused;
        break;
    case '?':
        at->page.is_helping = !at->page.is_helping;
        break;
    case '+':
        change_speed(at, 2);
        break;
    case '-':
        change_speed(at, 0.5);
        break;
    case '<':
        at->page.first_output -= MIN(at->page.first_output, 1);
        break;
    case '>':
        at->page.first_output++;
        break;
    case '\t':
        at->page.first_key += live_page_keys(&at->page);
        break;
    default:
        break;
    }
}

static void click(playing *at, const screen_event *event)
{
    const int key = live_page_key_at(&at->page, event->row, event->column);
    const int condition = live_page_condition_at(&at->page, event->row, event->column);
    if (key >= 0 && at->ends_us == UINT64_MAX) {
        keypad_press(at->keypad, (unsigned)key);
        at->mouse_key = key;
    }
    at->page.condition = condition >= 0 ? (unsigned)condition : at->page.condition;
}

/* False when it is to end. */
static bool obey(playing *at, const screen_event *event)
{
    const unsigned lines = live_page_lines(&at->page);
    switch (event->doing) {
    case SCREEN_LEAVE:
        return false;
    case SCREEN_TYPED:
        type(at, event->letter);
        break;
    case SCREEN_MOUSE_DOWN:
        click(at, event);
        break;
    case SCREEN_MOUSE_UP:
        if (at->mouse_key >= 0) {
            keypad_release(at->keypad, (unsigned)at->mouse_key);
        }
        at->mouse_key = -1;
        break;
    case SCREEN_LEFT:
        at->page.condition = (at->page.condition + CONDITIONS - 1) % CONDITIONS;
        break;
    case SCREEN_RIGHT:
        at->page.condition = (at->page.condition + 1) % CONDITIONS;
        break;
    case SCREEN_UP:
        turn(at, 1);
        break;
    case SCREEN_DOWN:
        turn(at, -1);
        break;
    case SCREEN_PAGE_UP:
        at->page.back += lines - 1;
        break;
    case SCREEN_PAGE_DOWN:
        at->page.back -= MIN(at->page.back, lines - 1);
        break;
    case SCREEN_HOME:
        at->page.back = journal_count(at->journal);
        break;
    case SCREEN_END:
        at->page.back = 0;
        break;
    case SCREEN_NOTHING:
    case SCREEN_OTHER:
        break;
    }
    return true;
}

static void play_on(playing *at)
{
    bool goes_on = true;
    at->clock_us = g_get_monotonic_time();
    while (goes_on && sim_bench_now(at->run.bench) < at->ends_us) {
        go_on(at);
        draw(at);
        const gint64 left_us = at->clock_us + FRAME_US - g_get_monotonic_time();
        screen_wait(left_us > 0 ? (int)(left_us / 1000) : 0);
        for (screen_event event = screen_next(); goes_on && event.doing != SCREEN_NOTHING;
             event = screen_next()) {
            goes_on = obey(at, &event);
        }
    }
}

/* Prints the summary, when the terminal is restored. */
static int sum_up(const playing *at, const char *plan_path, const char *into)
{
    const sim_load load = sim_bench_load(at->run.bench);
    const unsigned met = timeline_met(at->view);
    const unsigned missed = timeline_missed(at->view);
    const unsigned presses = timeline_presses(at->view);
    put_text("%u press%s heard in %.1f s, %u edges lost\n", presses, presses == 1 ? "" : "es",
             (double)sim_bench_now(at->run.bench) / 1e6, load.merged + load.overrun);
    if (met + missed > 0) {
        put_text("%u of %u expectations met\n", met, met + missed);
    }
    if (at->recording != NULL) {
        unsigned expected = 0;
        const GArray *const done = keypad_done(at->keypad);
        g_autofree char *text = recording_text(at->recording, &at->run, done, &expected);
        if (!write_text("play", into, text)) {
            put_text("%s", text); /* so that it isn't lost */
            return EXIT_FILE;
        }
        put_text("%u press%s and %u expectation%s in %s; 'dromikos rehearse %s %s' plays them again\n",
                 done->len, done->len == 1 ? "" : "es", expected, expected == 1 ? "" : "s", into, plan_path,
                 into);
    }
    return missed > 0 ? EXIT_NO : EXIT_DONE;
}

static int play(playing *at, const char *plan_path, const char *into, bool is_light)
{
    g_autofree char *why = NULL;
    at->view = timeline_new(at->run.plan, at->run.bench, FORMAT_JSONL);
    at->rows = rows_new();
    timeline_keep(at->view, at->rows);
    at->outputs = live_outputs_new(at->run.plan);
    at->journal = journal_new();
    at->keypad = keypad_new(&at->run);
    at->recording = into != NULL ? recording_new() : NULL;
    at->page = (live_page){.title = plan_title(at->run.plan),
                           .speed = at->page.speed,
                           .margin = -1,
                           .is_recording = into != NULL,
                           .has_script = at->ends_us < UINT64_MAX,
                           .outputs = at->outputs,
                           .keys = keypad_keys(at->keypad),
                           .conditions = at->conditions.shown,
                           .condition_count = CONDITIONS,
                           .journal = at->journal};
    feel_conditions(at);
    int code = rehearsal_start(&at->run, at->view);
    if (code == EXIT_DONE && at->recording != NULL) { /* the state at the start is no result */
        recording_look(at->recording, &at->run);
        recording_look(at->recording, &at->run);
    }
    if (code == EXIT_DONE && !screen_open(is_light, &why)) {
        complain("play", "%s", why);
        code = EXIT_NO;
    }
    if (code == EXIT_DONE) {
        play_on(at);
        screen_close();
        take_rows(at);
        code = sum_up(at, plan_path, into);
    }
    if (at->recording != NULL) {
        recording_free(at->recording);
    }
    keypad_free(at->keypad);
    journal_free(at->journal);
    g_array_unref(at->outputs);
    g_array_unref(at->rows);
    timeline_free(at->view);
    g_free(at->state);
    g_free(at->reception);
    return code;
}

int play_verb(int argc, char **argv)
{
    g_autofree char *script = NULL;
    g_autofree char *into = NULL;
    gdouble speed = 1;
    gint64 seed = 1;
    gboolean is_light = FALSE;
    const GOptionEntry entries[] = {
        {"script", 0, 0, G_OPTION_ARG_FILENAME, &script, "Play a script or a capture, then end", "FILE"},
        {"into", 0, 0, G_OPTION_ARG_FILENAME, &into,
         "Record your presses and the results as a script with expectations", "FILE"},
        {"speed", 0, 0, G_OPTION_ARG_DOUBLE, &speed, "Speed of time, 1/16 to 64", "X"},
        {"light", 0, 0, G_OPTION_ARG_NONE, &is_light, "Use colours for a light background", NULL},
        {"seed", 0, 0, G_OPTION_ARG_INT64, &seed, "Seed of all random values; 1 by default", "N"},
        {0},
    };
    int code = EXIT_WRONG;
    if (!take_options(
            "PLAN",
            "Runs a plan on the simulated bench, live on this terminal: letters press the handset's keys,\n"
            "and the arrows change distance, light and load. The screen shows all keys.",
            entries, 0, 1, &argc, argv, &code)) {
        return code;
    }
    g_autoptr(GPtrArray) words = words_with_plan("play", argc, argv, false);
    if (words == NULL) {
        return EXIT_WRONG;
    }
    argv = (char **)words->pdata;
    if (!isfinite(speed) || speed < 1.0 / 16 || speed > 64) {
        complain("play", "--speed is %g; it must be 0.0625 to 64", speed);
        return EXIT_WRONG;
    }
    if (into != NULL && script != NULL) {
        complain("play", "a script plays by itself: there is nothing to write with --into");
        return EXIT_WRONG;
    }
    if (is_an_input("play", into, argv + 1)) {
        return EXIT_WRONG;
    }
    if (into != NULL && !can_be_written("play", into)) {
        return EXIT_FILE;
    }
    playing at = {.run = {.verb = "play", .seed = (uint64_t)seed, .is_on_chip = true},
                  .page = {.speed = speed},
                  .ends_us = UINT64_MAX,
                  .mouse_key = -1};
    conditions_begin(&at.conditions);
    code = rehearsal_load(&at.run, argv[1]);
    if (code == EXIT_DONE && is_read_by_plan("play", into, at.run.plan)) {
        code = EXIT_WRONG;
    }
    if (code == EXIT_DONE && script != NULL && !g_file_test(script, G_FILE_TEST_EXISTS)) {
        complain("play", "%s: there is no such file", script);
        code = EXIT_FILE;
    }
    if (code == EXIT_DONE && script != NULL) {
        code = inputs_take(&at.run, (char *[]){script, NULL}, NULL, false);
        at.ends_us = rehearsal_last_us(&at.run) + AFTER_US;
    }
    code = code == EXIT_DONE ? play(&at, argv[1], into, is_light) : code;
    rehearsal_close(&at.run);
    return finish("play", code);
}
