/* A run on the bench, from its start to its end: events, and the turns of own code. */
#include "watch.h"
#include "dromikos/outputs/call.h"
#include "dromikos/outputs/sender.h"

#include <string.h>

/* The run whose functions a plan calls. */
static check_run *called;

static unsigned own_events(const check_run *in)
{
    return in->plan->source->events->len;
}

/* The program does something else, as long as the plan's own code may take. */
static void block(check_run *in)
{
    const unsigned most_ms = in->plan->source->own_blocks_ms;
    if (!in->run->is_ordinary && most_ms > 0 && g_rand_int_range(in->dice, 0, 400) == 0) {
        sim_bench_block(in->bench, g_rand_double_range(in->dice, 0, most_ms * 1e3 / 2));
    }
}

static void post(check_run *in)
{
    const uint8_t row = (uint8_t)g_rand_int_range(in->dice, 0, (gint32)own_events(in));
    in->posted +=
        drom_engine_post(&in->engine, row, (int16_t)g_rand_int_range(in->dice, -40, 120)) == DROM_OK;
}

static void own_function(int16_t value)
{
    (void)value;
    if (called->run->posts == LIFE_POSTS_ITSELF && own_events(called) > 0 &&
        sim_bench_now(called->bench) < called->run->lasts_ms * UINT64_C(1000)) {
        post(called);
    }
    block(called);
}

/* A turn of the program's loop, without the poll. */
static void take_own_turn(check_run *in)
{
    enum { MOST = 6 };
    const bool is_young = sim_bench_now(in->bench) < in->run->lasts_ms * UINT64_C(1000);
    unsigned posts = 0;
    if (own_events(in) > 0 && is_young) {
        posts = in->run->posts == LIFE_POSTS_EACH_TURN
                    ? MOST
                    : in->run->posts != LIFE_POSTS_NOTHING && g_rand_int_range(in->dice, 0, 300) == 0;
    }
    for (unsigned i = 0; i < posts; i++) {
        post(in);
    }
    if (posts == MOST) {
        sim_bench_block(in->bench, 20);
    }
    block(in);
}

static void add_press(check_run *in, const run_press *press)
{
    const drom_code code = plan_tables(in->plan)->keys.handsets.rows[press->handset].codes.rows[press->key];
    const drom_waveform *const waveform = plan_waveform(in->plan, code.protocol);
    const int button = plan_button_pin(in->plan, press->handset, press->key);
    const uint64_t at_us = press->at_ms * UINT64_C(1000);
    if (button >= 0) {
        sim_bench_touch(in->bench, (uint8_t)button, at_us, true);
        sim_bench_touch(in->bench, (uint8_t)button, at_us + MAX(press->held_ms, 40) * UINT64_C(1000), false);
    } else if (waveform != NULL && waveform->pack != NULL) {
        (void)sim_bench_press(in->bench, &(sim_press){.waveform = waveform,
                                                      .code = code,
                                                      .at_us = at_us,
                                                      .held_us = press->held_ms * UINT64_C(1000),
                                                      .room = {.jitter_us = 10, .stretch_us = 20}});
    }
}

static void add_all(check_run *in)
{
    const bench_run *const run = in->run;
    const uint32_t masks_us = in->plan->source->own_masks_us;
    for (guint i = 0; i < run->presses->len; i++) {
        add_press(in, &g_array_index(run->presses, run_press, i));
    }
    for (guint i = 0; run->touches != NULL && i < run->touches->len; i++) {
        const life_touch *const touch = &g_array_index(run->touches, life_touch, i);
        if (in->homes[touch->pin] == 0) {
            sim_bench_touch(in->bench, touch->pin, touch->at_ms * UINT64_C(1000), touch->is_closed);
        }
    }
    if (run->noise != SIM_NOISES) {
        sim_bench_add_noise(in->bench, run->noise, 1000, run->lasts_ms * UINT64_C(1000));
    }
    for (uint64_t at_us = 5000; masks_us > 0 && !run->is_ordinary && at_us < run->lasts_ms * UINT64_C(1000);
         at_us += (uint64_t)g_rand_int_range(in->dice, 3000, 90000)) {
        sim_bench_mask(in->bench, at_us, masks_us);
    }
}

static void look_at_computer(const check_run *in)
{
    enum { SLEEPS_MS = 1000 };
    const uint64_t asleep_us = in->run->asleep_ms * UINT64_C(1000);
    const uint64_t now_us = sim_bench_now(in->bench);
    const bool is_asleep = asleep_us > 0 && now_us >= asleep_us && now_us < asleep_us + SLEEPS_MS * MS;
    sim_bench_set_computer(in->bench, !is_asleep);
}

/* The end of the newest press. */
static void look_at_hands(check_run *in)
{
    const uint64_t now_us = sim_bench_now(in->bench);
    for (guint i = 0; i < in->run->presses->len; i++) {
        const run_press *const press = &g_array_index(in->run->presses, run_press, i);
        if (press->at_ms * UINT64_C(1000) <= now_us) {
            in->pressed_us = MAX(in->pressed_us, (press->at_ms + press->held_ms) * UINT64_C(1000));
        }
    }
    in->pressed_us = MAX(in->pressed_us, in->born_us);
}

static void pass_until(check_run *in, uint64_t until_us)
{
    enum { MAX_POLLS = 4000 }; /* at one moment */
    const uint32_t nap_us = in->run->nap_us > 0 ? in->run->nap_us : UINT32_MAX;
    unsigned polls = 0;
    uint64_t before_us = 0;
    while (sim_bench_now(in->bench) < until_us && in->violation == NULL) {
        take_own_turn(in);
        const drom_us wait = drom_engine_poll(&in->engine);
        const uint64_t now_us = sim_bench_now(in->bench);
        const uint64_t left_us = until_us > now_us ? until_us - now_us : 0;
        (void)sim_bench_sleep(in->bench, (drom_us)MIN(MIN(wait, left_us), nap_us));
        polls = sim_bench_now(in->bench) == before_us ? polls + 1 : 0;
        before_us = sim_bench_now(in->bench);
        if (polls > MAX_POLLS) {
            violate(in, "the engine never comes to rest");
        }
        look_at_hands(in);
        look_at_outputs(in);
        look_at_all(in);
        look_at_computer(in);
    }
}

/* Starts the engine, the first time or again. */
static void start(check_run *in)
{
    drom_fault fault = {0};
    in->stopped_us = 0;
    if (drom_engine_init(&in->engine, plan_tables(in->plan), sim_bench_port(in->bench), &fault) != DROM_OK) {
        violate(in, "the engine refuses the plan: table %d, row %u, item %u, reason %d", (int)fault.part,
                fault.row, fault.item, (int)fault.reason);
    }
    watch_anew(in);
}

/* How long the outputs may take to rest: strips, a keyboard whose computer sleeps, values that are written,
 * and the pause of an interlock with an output that rests on. */
static uint64_t settles_us(const check_run *in)
{
    enum { SETTLES_MS = 60, UNHEARD_MS = 100 };
    const drom_outputs_plan *const outputs = &plan_tables(in->plan)->outputs;
    uint64_t pause_ms = 0;
    for (uint8_t i = 0; i < outputs->interlocks.count; i++) {
        pause_ms = MAX(pause_ms, outputs->interlocks.rows[i].pause_ms);
    }
    return (SETTLES_MS + pause_ms + (in->run->asleep_ms > 0 ? UNHEARD_MS : 0)) * UINT64_C(1000) +
           (uint64_t)late_us(in);
}

/* All outputs are at rest soon after a stop of the engine, and stay so. */
static void come_to_rest(check_run *in, uint8_t state)
{
    in->is_stopping = true;
    in->stopped_us = sim_bench_now(in->bench);
    pass_until(in, in->stopped_us + settles_us(in));
    if (in->engine.state != state) {
        violate(in, "the engine hasn't come to rest");
    }
    check_rest(in);
    pass_until(in, sim_bench_now(in->bench) + 400 * MS);
    check_rest(in);
}

/* Guarded outputs are at rest while the program hangs, and all outputs when it goes on. */
static void hang(check_run *in)
{
    enum { GUARD_LATE_MS = 60 };
    const drom_guard_plan *const guard = &plan_tables(in->plan)->guard;
    const double for_us = in->run->hang_ms * 1e3;
    const bool is_guarded = guard->ms > 0;
    in->hung_us = for_us;
    in->is_stopping = is_guarded; /* perhaps */
    sim_bench_block(in->bench, for_us);
    for (uint8_t i = 0;
         is_guarded && for_us > (guard->ms * 1.03 + GUARD_LATE_MS) * 1e3 && i < guard->pins.count; i++) {
        const drom_rest_pin *const pin = &guard->pins.rows[i];
        if (sim_bench_is_high(in->bench, pin->pin) != pin->is_high &&
            sim_bench_duty(in->bench, pin->pin) != (pin->is_high ? UINT16_MAX : 0)) {
            violate(in, "pin %u isn't at rest though the program hangs", pin->pin);
        }
    }
    if (!is_guarded || !sim_bench_port(in->bench)->guard->has_acted(sim_bench_port(in->bench)->context)) {
        in->is_stopping = false;
        return;
    }
    (void)drom_engine_poll(&in->engine);
    come_to_rest(in, DROM_FAULT);
    start(in);
}

static void stop(check_run *in)
{
    in->is_stopping = true;
    drom_engine_stop(&in->engine);
    come_to_rest(in, DROM_STOPPED);
}

static void break_in(check_run *in)
{
    switch (in->run->breaks) {
    case LIFE_STOPS:
        stop(in);
        break;
    case LIFE_RESTS:
        stop(in);
        start(in);
        check_kept(in, true);
        break;
    case LIFE_HANGS:
        hang(in);
        break;
    case LIFE_IS_CUT:
        in->is_stopping = true;
        in->was_cut = true;
        sim_bench_cut_power(in->bench);
        start(in);
        check_kept(in, false);
        break;
    default:
        break;
    }
}

/* True if each press of the first handset must be received. Not with noise, own code that masks interrupts,
 * our own light, a frame that must come twice, or a strip that masks interrupts. */
static bool must_hear_all(const check_run *in)
{
    const bench_run *const run = in->run;
    bool must = run->is_ordinary && run->noise == SIM_NOISES && run->breaks == LIFE_GOES_ON &&
                run->processor.pixels != SIM_PIXELS_MASKED &&
                !g_array_index(in->plan->source->handsets, handset_line, 0).is_confirmed;
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        const drom_sender_settings *const sender = plan_output(in->plan, i)->settings;
        must &= kind_of(in, i) != &drom_sender || sender->is_shielded;
    }
    return must;
}

/* The number of presses of the first handset. A press of the same key soon after may count as the same press,
 * if its frames come when the next ones of the first would have; `least` leaves those out. */
static unsigned presses_of_hand(const bench_run *run, unsigned *least)
{
    enum { SOON_MS = 600 };
    unsigned all = 0;
    unsigned alone = 0;
    const run_press *before = NULL;
    for (guint i = 0; i < run->presses->len; i++) {
        const run_press *const press = &g_array_index(run->presses, run_press, i);
        if (press->handset == 0) {
            alone += before == NULL || before->key != press->key ||
                     press->at_ms > before->at_ms + before->held_ms + SOON_MS;
            all++;
            before = press;
        }
    }
    *least = alone;
    return all;
}

static void check_presses(check_run *in)
{
    unsigned least = 0;
    const unsigned most = presses_of_hand(in->run, &least);
    if (must_hear_all(in) && (in->hand_presses < least || in->hand_presses > most)) {
        violate(in, "the handset was pressed %u times, and heard %u times", most, in->hand_presses);
    }
}

static void give_functions(const check_run *in)
{
    for (unsigned i = 0; i < plan_output_count(in->plan); i++) {
        if (kind_of(in, i) == &drom_call) {
            ((drom_call_settings *)(uintptr_t)plan_output(in->plan, i)->settings)->function = own_function;
        }
    }
}

static void count(const check_run *in, run_events *events)
{
    unsigned alone = 0;
    events->presses += in->run->presses->len;
    events->touches += in->run->touches != NULL ? in->run->touches->len : 0;
    events->posts += in->posted;
    events->breaks += in->run->breaks != LIFE_GOES_ON;
    (void)presses_of_hand(in->run, &alone);
    events->heard += must_hear_all(in) ? alone : 0;
}

static char *live(const plan *loaded, const bench_run *run, GArray *rows, run_events *events)
{
    enum { LINGERS_MS = 12000 };
    if (plan_output_count(loaded) > MAX_OUTPUTS) {
        return NULL;
    }
    check_run in = {.plan = loaded,
                    .run = run,
                    .bench = sim_bench_new(run->seed),
                    .dice = g_rand_new_with_seed((guint32)run->seed),
                    .kept = g_array_new(FALSE, FALSE, sizeof(kept_row)),
                    .reported = rows};
    called = &in;
    give_functions(&in);
    sim_bench_start_clock_at(in.bench, run->clock_start);
    sim_bench_set_processor(in.bench, &run->processor);
    watch(&in);
    start(&in);
    sim_bench_wire_engine(in.bench, &in.engine);
    sim_bench_set_computer(in.bench, true);
    add_all(&in);
    if (run->breaks != LIFE_GOES_ON) {
        pass_until(&in, run->break_ms * UINT64_C(1000));
        break_in(&in);
    }
    if (run->breaks != LIFE_STOPS) {
        pass_until(&in, (run->lasts_ms + (uint64_t)LINGERS_MS) * MS);
        check_let_go(&in);
        check_posts(&in);
    }
    check_devices(&in);
    check_presses(&in);
    if (events != NULL) {
        count(&in, events);
    }
    sim_bench_free(in.bench);
    g_rand_free(in.dice);
    g_array_unref(in.kept);
    return in.violation;
}

char *run_check(const plan *loaded, const bench_run *run, run_events *events)
{
    return live(loaded, run, NULL, events);
}

static gint compare_rows(gconstpointer a, gconstpointer b)
{
    const done_row *const left = a;
    const done_row *const right = b;
    return left->at_us != right->at_us ? (left->at_us < right->at_us ? -1 : 1)
                                       : (left->number < right->number ? -1 : 1);
}

char *run_timeline(const plan *loaded, const bench_run *run)
{
    GString *const text = g_string_new(NULL);
    g_autoptr(GArray) rows = g_array_new(FALSE, TRUE, sizeof(done_row));
    g_autofree char *violation = live(loaded, run, rows, NULL);
    g_array_sort(rows, compare_rows);
    for (guint i = 0; i < rows->len; i++) {
        const done_row *const row = &g_array_index(rows, done_row, i);
        g_string_append_printf(text, "%.3f %s %s\n", (double)row->at_us / 1e6,
                               plan_output_name(loaded, row->output), row->text);
    }
    if (violation != NULL) {
        g_string_append_printf(text, "VIOLATION %s\n", violation);
    }
    return g_string_free(text, FALSE);
}
