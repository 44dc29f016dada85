/* A plan on the bench, from its start to its end. */
#include "cli/rehearse/rehearsal.h"

#include "cli/io/io.h"

#include "cli/io/progress.h"
#include "cli/rehearse/inputs.h"

/* The rehearsal waits for what the input has begun, and ends this time after it. What ends by itself has a
 * minute, as it may begin again: a timer that restarts itself, a scene in a loop. */
static const uint64_t ENDLESS_US = 3000000;
static const uint64_t LINGERS_US = 60000000;
static const uint64_t LONGEST_ORDER_US = 1800000000;
enum {
    LOOK_US = 1000, /* while an expectation has time left */
    STRETCH_US = 20000
};

uint64_t rehearsal_last_us(const rehearsal *run)
{
    size_t count = 0;
    const sim_edge *const edges = sim_bench_edges(run->bench, &count);
    uint64_t last = count > 0 ? edges[count - 1].at_us : 0;
    for (guint i = 0; run->script != NULL && i < run->script->len; i++) {
        const script_press *const press = &g_array_index(run->script, script_press, i);
        last = MAX(last, (press->at_ms + (uint64_t)press->held_ms) * 1000);
    }
    for (guint i = 0; i < run->expected->len; i++) {
        const script_expectation *const row = &g_array_index(run->expected, script_expectation, i);
        last = MAX(last, (row->at_ms + (uint64_t)expectation_within_ms(row->expected)) * 1000);
    }
    return last;
}

/* Shows the progress now and then, and the time left. */
static void report_progress(const rehearsal *run, uint64_t last_us)
{
    enum { MOMENTS = 2000 }; /* between two looks at the computer's clock */
    static unsigned moments;
    const uint64_t now_us = sim_bench_now(run->bench);
    if (now_us >= last_us || ++moments % MOMENTS != 0) {
        return;
    }
    const unsigned last_s = (unsigned)(last_us / 1000000);
    g_autofree char *text =
        g_strdup_printf("rehearsing %u:%02u:%02u", last_s / 3600, last_s / 60 % 60, last_s % 60);
    progress_share(text, (double)now_us / (double)last_us);
}

/* The latest end; known once the input has ended. */
typedef struct time_limit {
    uint64_t over_us; /* end of the input; 0: not yet */
    uint64_t latest_us;
    bool is_ending; /* since then an output was always busy with something that ends by itself */
} time_limit;

static bool is_within(time_limit *limit, const rehearsal *run, bool is_input_over)
{
    const uint64_t now_us = sim_bench_now(run->bench);
    if (!is_input_over) {
        return true;
    }
    if (limit->over_us == 0) {
        uint64_t left_us = 0;
        (void)plan_waits(run->plan, &run->engine, &left_us);
        *limit = (time_limit){now_us, now_us + left_us + LINGERS_US, true};
    }
    limit->is_ending &= plan_is_ending(run->plan);
    if (limit->is_ending && now_us < limit->over_us + LONGEST_ORDER_US) {
        limit->latest_us = MAX(limit->latest_us, now_us + LINGERS_US);
    }
    return now_us < limit->latest_us;
}

static script_expectation *next_expected(const rehearsal *run)
{
    return run->expected_done < run->expected->len
               ? &g_array_index(run->expected, script_expectation, run->expected_done)
               : NULL;
}

/* Evaluates the expectations that are due, or, at the end, all that are left: nothing will change any more.
 */
static void check_expected(rehearsal *run, bool is_end)
{
    const uint64_t now_us = sim_bench_now(run->bench);
    for (const script_expectation *row = next_expected(run); row != NULL; row = next_expected(run)) {
        const uint64_t from_us = row->at_ms * UINT64_C(1000);
        const uint64_t until_us = from_us + expectation_within_ms(row->expected) * UINT64_C(1000);
        const bool is_met = timeline_is_met(run->view, row, &run->engine);
        if (!is_end && (now_us < from_us || (!is_met && now_us < until_us))) {
            return;
        }
        timeline_put_expected(run->view, row, &run->engine);
        run->expected_done++;
    }
}

/* The next row of the script that isn't on the bench already: an event, the power, a cable. */
static const script_press *next_happening(rehearsal *run)
{
    for (; run->script != NULL && run->happened < run->script->len; run->happened++) {
        const script_press *const row = &g_array_index(run->script, script_press, run->happened);
        if (row->handset >= SCRIPT_NO_KEY && row->handset != SCRIPT_A_SWITCH) {
            return row;
        }
    }
    return NULL;
}

/* The board has no power for a time, and then restarts. */
static void cut_power(rehearsal *run, uint64_t until_us)
{
    const drom_rules_plan *const rules = &plan_tables(run->plan)->rules;
    const gsize bytes = rules->values.count * sizeof *rules->numbers;
    g_autofree int16_t *before = g_memdup2(rules->numbers, bytes);
    const uint8_t mode = run->engine.rules.mode;
    plan_lose_power(run->plan, &run->engine, run->bench);
    sim_bench_block(run->bench, LOOK_US); /* strips go dark */
    timeline_settle(run->view, (drom_us)LONGEST_ORDER_US);
    for (uint64_t now_us = sim_bench_now(run->bench); now_us < until_us; now_us = sim_bench_now(run->bench)) {
        check_expected(run, false);
        sim_bench_block(run->bench, (double)MIN(until_us - now_us, LOOK_US));
    }
    plan_has_power(run->bench);
    (void)rehearsal_start(run, run->view);
    timeline_put_values(run->view, before, mode);
}

/* Does what the script says by now. */
static void happen(rehearsal *run)
{
    for (const script_press *row = next_happening(run); row != NULL; row = next_happening(run)) {
        const uint64_t at_us = row->at_ms * UINT64_C(1000);
        if (sim_bench_now(run->bench) < at_us) {
            return;
        }
        if (row->handset == SCRIPT_AN_EVENT &&
            drom_engine_post(&run->engine, (uint8_t)row->key, (int16_t)row->number) != DROM_OK) {
            return; /* own code would try it again, too */
        }
        timeline_put_happening(run->view, row);
        if (row->handset == SCRIPT_POWER) {
            cut_power(run, sim_bench_now(run->bench) + row->held_ms * UINT64_C(1000));
        } else if (row->handset == SCRIPT_A_CABLE && row->closes) {
            sim_bench_set_computer(run->bench, true);
        } else if (row->handset == SCRIPT_A_CABLE) {
            sim_bench_unplug(run->bench);
        }
        run->happened++;
    }
}

/* Main also wakes for events of the script, and for expectations. */
static drom_us until_expected(rehearsal *run, drom_us asked)
{
    const script_expectation *const row = next_expected(run);
    const script_press *const happening = next_happening(run);
    const uint64_t now_us = sim_bench_now(run->bench);
    const uint64_t happens_us = happening != NULL ? happening->at_ms * UINT64_C(1000) : UINT64_MAX;
    const drom_us wait = (drom_us)MIN(asked, MAX(happens_us, now_us) - now_us);
    if (row == NULL) {
        return wait;
    }
    const uint64_t from_us = row->at_ms * UINT64_C(1000);
    const uint64_t until_us = from_us + expectation_within_ms(row->expected) * UINT64_C(1000);
    const uint64_t next_us = now_us < from_us ? from_us : MIN(now_us + LOOK_US, until_us);
    return next_us > now_us ? (drom_us)MIN(wait, next_us - now_us) : wait;
}

int rehearsal_start(rehearsal *run, timeline *view)
{
    drom_fault fault = {0};
    const drom_status status =
        drom_engine_init(&run->engine, plan_tables(run->plan), sim_bench_port(run->bench), &fault);
    if (status != DROM_OK) { /* the checker should have reported it */
        complain(run->verb, "the engine refuses the plan: table %d, row %u, item %u, reason %d",
                 (int)fault.part, fault.row, fault.item, (int)fault.reason);
        return EXIT_NO;
    }
    run->view = view;
    sim_bench_wire_engine(run->bench, &run->engine);
    timeline_observe_engine(run->view, &run->engine);
    return EXIT_DONE;
}

/* Polls once; returns the time until the next poll. */
static drom_us poll_once(rehearsal *run)
{
    chip_watch_poll(&run->chip, run->bench);
    happen(run);
    const drom_us wait = until_expected(run, drom_engine_poll(&run->engine));
    check_expected(run, false);
    if (wait > 0) {
        timeline_settle(run->view, wait);
    }
    return wait;
}

void rehearsal_pass(rehearsal *run, uint64_t until_us)
{
    uint64_t now_us = sim_bench_now(run->bench);
    while (now_us < until_us) {
        const drom_us wait = poll_once(run);
        if (run->own_code_us > 0) {
            sim_bench_block(run->bench, (double)run->own_code_us);
        }
        (void)sim_bench_sleep(run->bench, (drom_us)MIN(wait, until_us - now_us));
        now_us = sim_bench_now(run->bench);
    }
}

/* Reports the chip's load, each STRETCH_US, and at the end. */
static void look_at_chip(rehearsal *run, bool is_end)
{
    const uint64_t lasted_us = sim_bench_now(run->bench) - run->chip.now.from_us;
    if (run->is_on_chip && lasted_us >= (is_end ? 1 : STRETCH_US)) {
        const chip_stretch stretch = chip_watch_take(&run->chip, run->bench);
        timeline_put_chip(run->view, &stretch);
    }
}

/* On the board's own chip, own code takes its longest time after each poll. */
static void run_own_code(const rehearsal *run)
{
    const double masks_us = plan_own_masks_us(run->plan);
    const double blocks_us = plan_own_blocks_us(run->plan);
    if (run->is_on_chip && masks_us > 0) {
        sim_bench_mask(run->bench, sim_bench_now(run->bench), masks_us);
    }
    if (run->is_on_chip && MAX(blocks_us, masks_us) > 0) {
        sim_bench_block(run->bench, MAX(blocks_us, masks_us));
    }
}

static void play_to_the_end(rehearsal *run)
{
    enum { MANY_POLLS = 1024 };
    bool goes_on = true;
    unsigned polls = 0;
    uint64_t quiet_at_us = 0;
    time_limit limit = {0};
    const uint64_t last_us = rehearsal_last_us(run);
    while (goes_on && sim_bench_now(run->bench) < quiet_at_us + ENDLESS_US) {
        const drom_us wait = poll_once(run);
        run_own_code(run);
        look_at_chip(run, false);
        if (wait == 0) { /* there is more to do at this time */
            (void)sim_bench_sleep(run->bench, 0);
            if (++polls % MANY_POLLS != 0) {
                continue;
            }
        } else {
            report_progress(run, last_us);
            goes_on = sim_bench_sleep(run->bench, wait) && output_is_good();
        }
        goes_on = goes_on && !progress_is_stopped();
        size_t edges = 0;
        uint64_t left_us = 0;
        (void)sim_bench_edges(run->bench, &edges);
        const bool is_listening_only = edges == 0 && !sim_bench_has_touches(run->bench) &&
                                       next_happening(run) == NULL &&
                                       run->expected_done == run->expected->len;
        const bool is_over = is_listening_only && !plan_is_ending(run->plan) &&
                             !plan_waits(run->plan, &run->engine, &left_us) &&
                             (plan_never_sleeps(run->plan) || plan_is_endless(run->plan));
        quiet_at_us = is_over ? quiet_at_us : sim_bench_now(run->bench);
        goes_on = goes_on && is_within(&limit, run, is_listening_only);
    }
    look_at_chip(run, true);
    if (!progress_is_stopped()) {
        check_expected(run, true);
    }
    g_autofree char *going_on = plan_going_on(run->plan, &run->engine);
    timeline_end(run->view, going_on);
}

/* Returns the longest time from a row's press to the end of its last frame. */
static uint64_t ends_at_us(const script_press *row)
{
    enum { LAST_FRAME_US = 120000 };
    return (row->at_ms + (uint64_t)row->held_ms) * 1000 + LAST_FRAME_US;
}

/* True if it is a handset's press. */
static bool is_frame(const rehearsal *run, const script_press *row)
{
    return row->handset < SCRIPT_NO_KEY && plan_button_pin(run->plan, row->handset, row->key) < 0;
}

/* Returns why a row may not have been received. To be freed. */
static char *why_unheard(const rehearsal *run, guint index)
{
    const script_press *const row = &g_array_index(run->script, script_press, index);
    for (guint i = 0; i < run->script->len; i++) {
        const script_press *const other = &g_array_index(run->script, script_press, i);
        const bool is_at_once = other->at_ms * UINT64_C(1000) < ends_at_us(row) &&
                                row->at_ms < other->at_ms + (uint64_t)other->held_ms;
        if (other->handset == SCRIPT_POWER && is_at_once) {
            return g_strdup_printf("the power was cut then (line %d)", other->line);
        }
        if (i != index && is_frame(run, other) && other->at_ms * UINT64_C(1000) < ends_at_us(row) &&
            row->at_ms * UINT64_C(1000) < ends_at_us(other)) {
            return g_strdup_printf("%s.%s (line %d) was on the air at the same time",
                                   plan_handset_name(run->plan, other->handset),
                                   plan_key_name(run->plan, other->handset, other->key), other->line);
        }
    }
    return g_strdup(run->jitter_us > 0
                        ? "its frame didn't come through; try less --jitter"
                        : "its frame didn't come through, or counts as part of the press before");
}

/* Reports each row that was not received. The answer is no if some input had no effect. */
static int report_unheard(const rehearsal *run, const char *path)
{
    enum { LATEST_US = 500000 }; /* a second frame may be needed, or silence */
    bool is_good = true;
    for (guint i = 0; run->script != NULL && i < run->script->len; i++) {
        const script_press *const row = &g_array_index(run->script, script_press, i);
        if (row->handset < SCRIPT_NO_KEY &&
            !timeline_has_heard(run->view, row->handset, row->key, row->at_ms * UINT64_C(1000),
                                ends_at_us(row) + LATEST_US)) {
            g_autofree char *why = why_unheard(run, i);
            timeline_put_unheard(run->view, row, why);
            is_good = false;
        }
    }
    if (run->script == NULL && timeline_presses(run->view) == 0) {
        complain(run->verb,
                 "%s: no key of this plan's handsets is in this capture; 'dromikos listen %s' shows what is",
                 path, path);
        is_good = false;
    }
    return is_good ? EXIT_DONE : EXIT_NO;
}

static int load_plan(rehearsal *run, const char *path)
{
    report *const faults = report_new();
    run->plan = plan_load(path, faults);
    report_print(faults, stderr);
    const int code = run->plan != NULL ? EXIT_DONE : report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    return code;
}

/* What is missing then is no fault of the plan. */
static int report_stopped(const rehearsal *run)
{
    complain(run->verb, "ended by Ctrl-C after %.3f s; %u of what is expected wasn't looked at",
             (double)sim_bench_now(run->bench) / 1e6, run->expected->len - run->expected_done);
    return EXIT_NO;
}

int rehearsal_load(rehearsal *run, const char *path)
{
    const int code = load_plan(run, path);
    if (code != EXIT_DONE) {
        return code;
    }
    run->bench = sim_bench_new(run->seed);
    sim_bench_show_handset(run->bench, run->is_in_sight);
    run->expected = script_expectations_new();
    if (run->is_on_chip) {
        chip_use(run->bench, run->plan);
    } else {
        sim_bench_set_processor(run->bench, &(sim_processor){.pwm_bits = plan_board(run->plan)->pwm_bits});
    }
    return EXIT_DONE;
}

int rehearsal_open(rehearsal *run, char **inputs, const char *signal, bool is_idle_low)
{
    const int code = rehearsal_load(run, inputs[0]);
    run->input = inputs[1];
    return code == EXIT_DONE ? inputs_take(run, inputs + 1, signal, is_idle_low) : code;
}

int rehearsal_play(rehearsal *run, timeline *view)
{
    timeline_show_fingers(view, run->script);
    int code = rehearsal_start(run, view);
    if (code == EXIT_DONE) {
        progress_may_stop();
        play_to_the_end(run);
        code = progress_is_stopped() ? report_stopped(run) : report_unheard(run, run->input);
        if (!progress_is_stopped() && !timeline_put_miscounts(view)) {
            code = EXIT_NO;
        }
    }
    return code == EXIT_DONE && timeline_missed(run->view) > 0 ? EXIT_NO : code;
}

/* The presses of the script. */
static void add_fingers(const rehearsal *run, GArray *rows)
{
    for (guint i = 0; run->script != NULL && i < run->script->len; i++) {
        const script_press *const press = &g_array_index(run->script, script_press, i);
        const uint64_t at_us = press->at_ms * UINT64_C(1000);
        if (press->handset < SCRIPT_NO_KEY) {
            const timeline_row finger = {.kind = ROW_FINGER,
                                         .at_us = at_us,
                                         .until_us = at_us + press->held_ms * UINT64_C(1000),
                                         .subject = plan_handset_name(run->plan, press->handset),
                                         .key = plan_key_name(run->plan, press->handset, press->key)};
            g_array_append_val(rows, finger);
        }
    }
}

/* The signals, separated by silence. */
static void add_air(const rehearsal *run, GArray *rows)
{
    enum { SILENCE_US = 12000 };
    size_t count = 0;
    const sim_edge *const edges = sim_bench_edges(run->bench, &count);
    for (size_t i = 0; i < count;) {
        timeline_row air = {.kind = ROW_AIR, .at_us = edges[i].at_us, .until_us = edges[i].at_us};
        for (; i < count && edges[i].at_us < air.until_us + SILENCE_US; i++) {
            air.until_us = edges[i].at_us;
        }
        g_array_append_val(rows, air);
    }
}

/* Merges the rows of two arrays by their times; rows of the first precede simultaneous rows of the second.
 * Frees the arrays. */
static GArray *merged(GArray *first, GArray *second)
{
    GArray *const both = rows_new();
    guint i = 0;
    guint j = 0;
    while (i < first->len || j < second->len) {
        const bool is_first =
            j == second->len || (i < first->len && rows_at(first, i)->at_us <= rows_at(second, j)->at_us);
        g_array_append_vals(both, is_first ? rows_at(first, i) : rows_at(second, j), 1);
        i += is_first;
        j += !is_first;
    }
    g_array_set_clear_func(first, NULL); /* what they own is in both */
    g_array_set_clear_func(second, NULL);
    g_array_unref(first);
    g_array_unref(second);
    return both;
}

GArray *rehearsal_record(rehearsal *run, int *code)
{
    GArray *const fingers = rows_new();
    GArray *const air = rows_new();
    GArray *const rows = rows_new();
    add_fingers(run, fingers);
    add_air(run, air);
    timeline *const view = timeline_new(run->plan, run->bench, FORMAT_JSONL);
    timeline_keep(view, rows);
    *code = rehearsal_play(run, view);
    timeline_free(view);
    return merged(merged(fingers, air), rows);
}

void rehearsal_close(rehearsal *run)
{
    if (run->script != NULL) {
        g_array_unref(run->script);
    }
    if (run->expected != NULL) {
        g_array_unref(run->expected);
    }
    if (run->bench != NULL) {
        sim_bench_free(run->bench);
    }
    plan_free(run->plan);
}
