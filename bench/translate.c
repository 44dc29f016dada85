/* './run bench translate [CODES]' prints whether one press of a handset becomes one press of another, for
 * each received and each sent protocol: a line per received one, and one per pair that isn't right. */
#include "trial.h"

#include "plan/model/plan.h"

#include "dromikos/outputs/sender.h"

#include <glib.h>
#include <glib/gstdio.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum {
    LED = 3,
    BEGIN_US = 50000,
    AFTER_US = 1200000,
    AROUND_US = 1000,
    SECOND_US = 150000,
    SILENT_US = 40000
};

/* A gesture: holds a key for a time; 0: taps it twice, the second time after the first press began or ended.
 */
static const unsigned held_ms[] = {60, 100, 300, 1000, 0, 0};
enum { HANDS = G_N_ELEMENTS(held_ms), LONG_HOLD = 3, TWICE = 4, AGAIN = 5 };

/* The results of one try: an appliance, and times. */
typedef struct tried {
    unsigned presses;
    unsigned torn;
    unsigned frames;
    double first_us;  /* from the end of the frame that reported the press to our first edge */
    double last_us;   /* our newest edge since the press */
    double off;       /* the frame farthest from its time, in parts of a period */
    drom_us heard_at; /* the newest frame */
    drom_us lasted_us;
    sim_listener listener;
    double began_us;
    double ended_us;
    double second_us[2]; /* the second press, from its first edge to its last */
    bool is_covered;     /* by our light */
    bool is_lit;
    double lit_us;
    bool looks_held; /* it comes when a held key would have repeated */
} tried;

static void note_frame(void *context, const drom_frame *frame)
{
    tried *const all = context;
    if (frame->kind == DROM_FRAME_BOUNDARY) {
        return;
    }
    const drom_protocol *const protocol = frame->protocol;
    const double period_us =
        protocol->period_us != 0 ? protocol->period_us : all->lasted_us + (double)protocol->gap_us;
    const double since_us = (drom_us)(frame->at - all->heard_at);
    if (all->frames > 0 && (frame->kind != DROM_FRAME_WHOLE || since_us < 1.5 * period_us)) {
        all->off = MAX(all->off, ABS(since_us - period_us) / period_us);
    }
    all->frames++;
    all->heard_at = frame->at;
    all->lasted_us = frame->kind == DROM_FRAME_REPEAT ? all->lasted_us : frame->lasted_us;
}

static void note_light(void *context, uint64_t at_us, bool is_on)
{
    tried *const all = context;
    sim_listener_edge(&all->listener, (drom_us)at_us, is_on);
    if (all->began_us == 0) {
        all->began_us = (double)at_us;
    }
    all->ended_us = (double)at_us;
    all->lit_us = is_on ? (double)at_us : all->lit_us;
    all->is_covered |= !is_on && (double)at_us > all->second_us[0] && all->lit_us < all->second_us[1];
}

static uint64_t last_edge_us(sim_bench *bench)
{
    size_t count = 0;
    const sim_edge *const edges = sim_bench_edges(bench, &count);
    return count > 0 ? edges[count - 1].at_us : 0;
}

/* Returns the duration of a press's first frame, up to its last edge. */
static double first_frame_us(const drom_waveform *waveform, const drom_code *code)
{
    drom_encoder encoder;
    double us = waveform->boundary_gap_us;
    if (drom_encode_begin(&encoder, waveform, code, DROM_SEND_FIRST, false) == DROM_OK) {
        for (uint16_t run = drom_encode_next(&encoder); run != 0; run = drom_encode_next(&encoder)) {
            us += run;
        }
    }
    return us;
}

static void press(sim_bench *bench, const drom_waveform *waveform, const drom_code *code, unsigned held,
                  tried *all)
{
    const sim_press first = {
        .waveform = waveform, .code = *code, .at_us = BEGIN_US, .held_us = held_ms[held] * UINT64_C(1000)};
    (void)sim_bench_press(bench, &first);
    if (held >= TWICE) {
        sim_press second = first;
        second.at_us = held == AGAIN ? last_edge_us(bench) + SECOND_US
                                     : MAX(BEGIN_US + SECOND_US, last_edge_us(bench) + SILENT_US);
        (void)sim_bench_press(bench, &second);
        const drom_protocol *const protocol = waveform->protocol;
        const bool leads_once = (protocol->needs & DROM_USES(SINGLE_LEADER)) != 0;
        const drom_us before_us = protocol->lead_in_us + AROUND_US; /* which must be silent */
        all->second_us[0] = (double)(second.at_us - before_us);
        all->second_us[1] = (double)last_edge_us(bench);
        const double period_us =
            protocol->period_us != 0
                ? protocol->period_us
                : first_frame_us(waveform, code) + (leads_once ? -400.0 : (double)protocol->gap_us);
        const double periods = (double)(second.at_us - BEGIN_US) / period_us;
        all->looks_held = !protocol->has_toggle && fabs(periods - round(periods)) < 0.08 * round(periods);
    }
}

static tried *try_hand(const plan *loaded, const drom_waveform *waveform, const drom_code *code,
                       unsigned held)
{
    tried *const all = g_new0(tried, 1);
    sim_bench *const bench = sim_bench_new(1);
    drom_engine engine;
    drom_fault fault;
    const output_kind *const kind = plan_output_kind(loaded, 0);
    const drom_sender_settings *const settings = plan_output(loaded, 0)->settings;
    sim_target *const target = kind->bench.wire(bench, loaded, 0);
    const drom_protocol_ref only = settings->keys.rows[0].waveform->protocol;
    sim_listener_open_with(&all->listener, &only, 1, note_frame, all);
    sim_target_follow(target, note_light, all);
    sim_bench_hear_itself(bench, true);
    press(bench, waveform, code, held, all);
    const uint64_t until_us = MAX(last_edge_us(bench), BEGIN_US + held_ms[held] * UINT64_C(1000)) + AFTER_US;
    if (drom_engine_init(&engine, plan_tables(loaded), sim_bench_port(bench), &fault) == DROM_OK) {
        sim_bench_wire_engine(bench, &engine);
        while (sim_bench_now(bench) < until_us) {
            const drom_us wait = drom_engine_poll(&engine);
            (void)sim_bench_sleep(bench, MIN(wait, 1000));
        }
    }
    sim_listener_pass(&all->listener, (drom_us)until_us);
    all->presses = sim_target_presses(target, 0);
    all->torn = sim_target_torn(target);
    all->first_us = all->began_us - BEGIN_US - first_frame_us(waveform, code);
    all->last_us = all->ended_us - BEGIN_US;
    all->is_covered |= all->second_us[0] < all->began_us + settings->keys.rows[0].press_ms * 1000.0;
    sim_bench_free(bench);
    return all;
}

/* The sum of a pair's tries. */
typedef struct pair {
    unsigned min[HANDS];
    unsigned max[HANDS];
    unsigned torn;
    unsigned taps;      /* second ones */
    unsigned covered;   /* those that weren't counted: our light was on, or about to be; */
    unsigned like_held; /* they came at the times of a held key's repeats; */
    unsigned lost;      /* or neither */
    double first_us;
    double off;
    double min_passed_us; /* the duration that is passed on of a second */
} pair;

static void add_up(pair *sum, unsigned held, const tried *all)
{
    sum->min[held] = MIN(sum->min[held], all->presses);
    sum->max[held] = MAX(sum->max[held], all->presses);
    sum->torn += held < TWICE ? all->torn : 0; /* a second tap may cut the first one short */
    sum->taps += held >= TWICE;
    if (held >= TWICE && all->presses != 2) {
        sum->covered += all->is_covered;
        sum->like_held += !all->is_covered && all->looks_held;
        sum->lost += !all->is_covered && !all->looks_held;
    }
    sum->first_us = MAX(sum->first_us, all->first_us);
    sum->off = held < TWICE ? MAX(sum->off, all->off) : sum->off;
    if (held == LONG_HOLD) {
        sum->min_passed_us = MIN(sum->min_passed_us, all->last_us);
    }
}

/* 'translate hand to hall on horn: a as a', as files in a folder. */
static plan *make_plan(const char *folder, const drom_waveform *in_hand, const drom_code *heard,
                       const drom_waveform *as_sent, const drom_code *sent)
{
    g_autofree char *path = g_build_filename(folder, "pair.plan", NULL);
    g_autofree char *hand = g_build_filename(folder, "hand.csv", NULL);
    g_autofree char *hall = g_build_filename(folder, "hall.csv", NULL);
    g_autofree char *heard_row = g_strdup_printf("key,protocol,address,command\na,%s,%u,%u\n",
                                                 in_hand->protocol->id, heard->address, heard->command);
    g_autofree char *sent_row = g_strdup_printf("key,protocol,address,command\na,%s,%u,%u\n",
                                                as_sent->protocol->id, sent->address, sent->command);
    static const char text[] =
        "plan \"Pair\"\nboard mega328\nreceiver on pin 8\nhandset hand from \"hand.csv\"\n"
        "handset hall from \"hall.csv\"\nsender horn on pin 3\n"
        "translate hand to hall on horn: a as a\n";
    report *const faults = report_new();
    plan *loaded = NULL;
    if (g_file_set_contents(path, text, -1, NULL) && g_file_set_contents(hand, heard_row, -1, NULL) &&
        g_file_set_contents(hall, sent_row, -1, NULL)) {
        loaded = plan_load(path, faults);
    }
    if (loaded == NULL) {
        report_print(faults, stderr);
    }
    report_free(faults);
    return loaded;
}

static bool try_pair(const char *folder, const drom_waveform *in_hand, const drom_waveform *as_sent,
                     unsigned codes, pair *sum)
{
    for (unsigned i = 0; i < codes; i++) {
        const drom_code heard = sim_random_code(in_hand, 100 + i);
        const drom_code sent = sim_random_code(as_sent, 300 + i);
        plan *const loaded = make_plan(folder, in_hand, &heard, as_sent, &sent);
        if (loaded == NULL) {
            return false;
        }
        for (unsigned held = 0; held < HANDS; held++) {
            tried *const all = try_hand(loaded, in_hand, &heard, held);
            add_up(sum, held, all);
            g_free(all);
        }
        plan_free(loaded);
    }
    return true;
}

/* One press per hold, none split; and no quick tap is missed without a reason. */
static bool is_exact(const pair *sum)
{
    bool is_good = sum->torn == 0 && sum->lost == 0;
    for (unsigned i = 0; i < TWICE; i++) {
        is_good = is_good && sum->min[i] == 1 && sum->max[i] == 1;
    }
    return is_good;
}

static void join(pair *all, const pair *one)
{
    for (unsigned i = 0; i < TWICE; i++) {
        all->min[i] = MIN(all->min[i], one->min[i]);
        all->max[i] = MAX(all->max[i], one->max[i]);
    }
    all->torn += one->torn;
    all->taps += one->taps;
    all->covered += one->covered;
    all->like_held += one->like_held;
    all->lost += one->lost;
    all->first_us = MAX(all->first_us, one->first_us);
    all->off = MAX(all->off, one->off);
}

static pair nothing(void)
{
    pair sum = {.min_passed_us = INFINITY};
    for (unsigned i = 0; i < HANDS; i++) {
        sum.min[i] = UINT_MAX;
    }
    return sum;
}

static void print_pair(const char *in_hand, const char *as_sent, const pair *sum)
{
    printf("%-14s %-14s", in_hand, as_sent);
    for (unsigned i = 0; i < TWICE; i++) {
        g_autofree char *count = sum->min[i] == sum->max[i]
                                     ? g_strdup_printf("%u", sum->min[i])
                                     : g_strdup_printf("%u-%u", sum->min[i], sum->max[i]);
        printf(" %7s", count);
    }
    printf(" %5u %8.1f %5.1f %6u %7u %5u %5u", sum->torn, sum->first_us / 1000, sum->off * 100,
           sum->taps - sum->covered - sum->like_held - sum->lost, sum->covered, sum->like_held, sum->lost);
    if (isfinite(sum->min_passed_us)) {
        printf(" %7.0f", sum->min_passed_us / 1000);
    }
    printf("\n");
}

static void print_head(unsigned codes)
{
    printf("A press of each protocol in the hand, sent as one of each other, %u codes a pair.\n\n", codes);
    printf("%-14s %-14s %31s %5s %8s %5s %26s\n", "", "", "presses counted, held for", "", "first", "off",
           "second of two quick taps");
    printf("%-14s %-14s %7s %7s %7s %7s %5s %8s %5s %6s %7s %5s %5s\n", "in the hand", "sent", "60 ms",
           "100 ms", "300 ms", "1 s", "torn", "ms", "%", "counts", "covered", "held", "lost");
}

/* Each pair of `every`; prints all, or only those that aren't right. */
int main(int argc, char **argv)
{
    const unsigned codes = argc > 1 ? (unsigned)strtoul(argv[1], NULL, 10) : 20;
    const unsigned every = argc > 2 ? (unsigned)strtoul(argv[2], NULL, 10) : 1;
    const bool are_all_shown = argc > 3;
    g_autofree char *folder = g_dir_make_tmp("dromikos-XXXXXX", NULL);
    unsigned pairs = 0;
    unsigned exact = 0;
    pair all = nothing();
    if (folder == NULL || codes == 0 || every == 0) {
        fprintf(stderr, "bench_translate: say how many codes, of how many pairs one: bench_translate 20 1\n");
        return 2;
    }
    print_head(codes);
    for (size_t i = 0; i < drom_waveform_count; i++) {
        pair of_hand = nothing();
        for (size_t j = 0; j < drom_waveform_count; j++) {
            pair sum = nothing();
            if ((i * drom_waveform_count + j) % every != 0) {
                continue;
            }
            if (!try_pair(folder, drom_waveforms[i], drom_waveforms[j], codes, &sum)) {
                return 2;
            }
            pairs++;
            exact += is_exact(&sum);
            join(&of_hand, &sum);
            if (are_all_shown || !is_exact(&sum)) {
                print_pair(drom_waveforms[i]->protocol->id, drom_waveforms[j]->protocol->id, &sum);
            }
        }
        join(&all, &of_hand);
        if (of_hand.taps > 0) {
            print_pair(drom_waveforms[i]->protocol->id, every == 1 ? "all" : "some", &of_hand);
        }
    }
    print_pair("all", every == 1 ? "all" : "some", &all);
    printf("\n%u of %u pairs are right: one press a press, none torn, each frame at its time, no second tap "
           "lost\n"
           "without a reason: our own light covered it, or it looked like a held key.\n",
           exact, pairs);
    return exact == pairs ? 0 : 1;
}
