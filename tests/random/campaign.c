/* campaign SECONDS [SEED]: random plans with random events, until the time is over or a violation occurs.
 * Prints its seed, so that it can be repeated. */
#include "run.h"

#include "cli/io/progress.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

typedef struct tally {
    unsigned plans;
    unsigned noisy;
    unsigned statements;
    unsigned left_out;
    unsigned lives[LIFE_BREAKS];
    run_events events;
    GHashTable *heads; /* how many statements began with each word */
    double lived_s;
} tally;

static const char *const breaks[LIFE_BREAKS] = {[LIFE_GOES_ON] = "went on",
                                                [LIFE_STOPS] = "were stopped",
                                                [LIFE_RESTS] = "were stopped and started again",
                                                [LIFE_HANGS] = "hung",
                                                [LIFE_IS_CUT] = "had their power cut"};

static sim_processor draw_processor(GRand *dice)
{
    static const sim_processor processors[] = {
        {0},
        {.latency_us = 1, .capture_us = 5, .alarm_us = 6.4, .poll_us = 130},
        {.latency_us = 1, .capture_us = 5, .alarm_us = 6.4, .poll_us = 60, .call_us = 2, .pwm_bits = 8},
        {.latency_us = 2, .capture_us = 3, .alarm_us = 4, .poll_us = 30, .pixels = SIM_PIXELS_MASKED},
        {.stamp = DROM_STAMP_INTERRUPT, .latency_us = 1, .capture_us = 4, .alarm_us = 6, .poll_us = 110},
        {.latency_us = 1, .capture_us = 1, .alarm_us = 1, .poll_us = 12, .pixels = SIM_PIXELS_BY_HARDWARE},
        {.latency_us = 1,
         .capture_us = 1,
         .alarm_us = 1,
         .poll_us = 12,
         .pixels = SIM_PIXELS_BY_HARDWARE,
         .has_burst = true},
    };
    return processors[g_rand_int_range(dice, 0, G_N_ELEMENTS(processors))];
}

/* True once in `count` times. */
static bool one_of(GRand *dice, gint32 count)
{
    return g_rand_int_range(dice, 0, count) == 0;
}

static bench_run draw_life(GRand *dice, const plan *loaded, unsigned keys, guint32 seed)
{
    enum { LASTS_MS = 8000 };
    static const uint32_t naps_us[] = {0, 0, 10000, 1000, 150};
    static const life_break all[] = {LIFE_GOES_ON, LIFE_GOES_ON, LIFE_STOPS,  LIFE_STOPS,
                                     LIFE_RESTS,   LIFE_HANGS,   LIFE_IS_CUT, LIFE_GOES_ON};
    const bool is_ordinary = g_rand_boolean(dice);
    const bool has_noise = one_of(dice, 4);
    return (bench_run){
        .presses = draw_presses(dice, loaded, keys, LASTS_MS, !is_ordinary),
        .touches = draw_touches(dice, loaded, LASTS_MS),
        .lasts_ms = LASTS_MS,
        .asleep_ms = one_of(dice, 4) ? (uint32_t)g_rand_int_range(dice, 300, LASTS_MS) : 0,
        .break_ms = (uint32_t)g_rand_int_range(dice, 300, LASTS_MS),
        .hang_ms = (uint32_t)g_rand_int_range(dice, 30, 2000),
        .nap_us = naps_us[g_rand_int_range(dice, 0, G_N_ELEMENTS(naps_us))],
        .breaks = all[g_rand_int_range(dice, 0, G_N_ELEMENTS(all))],
        .posts = one_of(dice, 8) ? (life_posts)g_rand_int_range(dice, 0, LIFE_POSTERS) : LIFE_POSTS_SELDOM,
        .processor = draw_processor(dice),
        .noise = has_noise ? (sim_noise)g_rand_int_range(dice, 0, SIM_NOISES) : SIM_NOISES,
        .seed = seed,
        .clock_start = g_rand_boolean(dice) ? (drom_us)g_rand_int(dice) : UINT32_MAX - 3000000,
        .is_ordinary = is_ordinary,
    };
}

static void print_life(guint32 seed, const char *violation, const drawn_plan *drawn, const bench_run *run)
{
    progress_hide();
    printf("seed %u: %s\n%s\n%s\n%s\n", seed, violation, drawn->plan, drawn->hand, drawn->hall);
    for (guint i = 0; run->presses != NULL && i < run->presses->len; i++) {
        const run_press *const press = &g_array_index(run->presses, run_press, i);
        printf("key %u of handset %u at %u ms for %u ms\n", press->key, press->handset, press->at_ms,
               press->held_ms);
    }
    for (guint i = 0; run->touches != NULL && i < run->touches->len; i++) {
        const life_touch *const touch = &g_array_index(run->touches, life_touch, i);
        printf("pin %u %s at %u ms\n", touch->pin, touch->is_closed ? "closes" : "opens", touch->at_ms);
    }
    printf(
        "it %s at %u ms (a hang lasts %u ms); noise %d, posts %d, polls of %g us, pixels %d, naps of %u us, "
        "%s\n",
        breaks[run->breaks], run->break_ms, run->hang_ms, (int)run->noise, (int)run->posts,
        run->processor.poll_us, (int)run->processor.pixels, run->nap_us,
        run->is_ordinary ? "ordinary" : "anything goes");
}

/* The number of statements of each kind that were used. */
static void count_heads(GHashTable *heads, const char *text)
{
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    for (guint i = 0; lines[i] != NULL; i++) {
        g_auto(GStrv) words = g_strsplit(g_strchug(lines[i]), " ", 2);
        if (words[0] != NULL && words[0][0] != '\0') {
            const guint before = GPOINTER_TO_UINT(g_hash_table_lookup(heads, words[0]));
            g_hash_table_replace(heads, g_strdup(words[0]), GUINT_TO_POINTER(before + 1));
        }
    }
}

/* One plan and its run. False, and reported, if something was wrong. */
static bool live_one(guint32 seed, const char *folder, tally *in)
{
    enum { LINGERS_S = 12 };
    g_autoptr(GRand) dice = g_rand_new_with_seed(seed);
    g_autofree char *reported = NULL;
    g_autofree char *violation = NULL;
    bench_run run = {0};
    drawn_plan drawn = draw_plan(dice);
    plan *const loaded = load_what_fits(&drawn, folder, &reported);
    if (loaded == NULL) {
        violation = g_strdup_printf("the plan is refused: %s", reported);
    } else {
        run = draw_life(dice, loaded, drawn.keys, seed);
        violation = run_check(loaded, &run, &in->events);
        g_clear_pointer(&run.touches, g_array_unref);
        in->lives[run.breaks]++;
        in->noisy += run.noise != SIM_NOISES;
        in->lived_s += run.breaks == LIFE_STOPS ? run.break_ms / 1e3 : run.lasts_ms / 1e3 + LINGERS_S;
    }
    if (violation != NULL) {
        print_life(seed, violation, &drawn, &run);
    }
    in->plans++;
    in->statements += drawn.statements;
    in->left_out += drawn.left_out;
    count_heads(in->heads, drawn.plan);
    plan_free(loaded);
    g_clear_pointer(&run.presses, g_array_unref);
    drawn_plan_clear(&drawn);
    return violation == NULL;
}

static void print_tally(const tally *in)
{
    GList *heads = g_list_sort(g_hash_table_get_keys(in->heads), (GCompareFunc)strcmp);
    const uint64_t events = in->events.presses + in->events.touches + in->events.posts + in->events.breaks;
    printf("%u random plans run %.1f hours of their own time, with %" G_GUINT64_FORMAT " events:\n",
           in->plans, in->lived_s / 3600, events);
    printf("  %" G_GUINT64_FORMAT " presses of keys and buttons (of %" G_GUINT64_FORMAT
           " none could be missed), %" G_GUINT64_FORMAT " touches of switches, %" G_GUINT64_FORMAT
           " posts of own code\n",
           in->events.presses, in->events.heard, in->events.touches, in->events.posts);
    printf("  ");
    for (unsigned i = 0; i < LIFE_BREAKS; i++) {
        printf("%u %s, ", in->lives[i], breaks[i]);
    }
    printf("%u had noise\n  statements, but for %.0f %% that the checker refused:", in->noisy,
           in->statements > 0 ? 100.0 * in->left_out / in->statements : 0);
    for (GList *head = heads; head != NULL; head = head->next) {
        printf(" %s %u", (const char *)head->data,
               GPOINTER_TO_UINT(g_hash_table_lookup(in->heads, head->data)));
    }
    printf("\n");
    g_list_free(heads);
}

int main(int argc, char **argv)
{
    enum { REPORT_EACH_US = 60 * 1000 * 1000 };
    const double seconds = argc > 1 ? g_ascii_strtod(argv[1], NULL) : 0;
    const guint32 first = argc > 2 ? (guint32)g_ascii_strtoull(argv[2], NULL, 10) : 1;
    g_autofree char *folder = g_dir_make_tmp("dromikos-campaign-XXXXXX", NULL);
    const gint64 from_us = g_get_monotonic_time();
    gint64 reported_us = from_us;
    bool is_good = true;
    tally in = {.heads = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL)};
    if (!(seconds > 0)) {
        fprintf(stderr, "campaign: say for how many seconds, more than 0, and which seed is the first\n");
        return 2;
    }
    double share = 0;
    progress_may_stop();
    for (guint32 seed = first; is_good && share < 1 && !progress_is_stopped(); seed++) {
        is_good = live_one(seed, folder, &in);
        share = (double)(g_get_monotonic_time() - from_us) / (seconds * 1e6);
        progress_share("random plans", share);
        if (g_get_monotonic_time() - reported_us > REPORT_EACH_US) {
            reported_us = g_get_monotonic_time();
            progress_hide();
            printf("%u plans so far\n", in.plans);
            fflush(stdout);
        }
    }
    progress_hide();
    if (progress_is_stopped()) {
        printf("ended by Ctrl-C\n");
    }
    print_tally(&in);
    printf("%s\n", is_good ? "nothing happened that must not" : "see above");
    g_hash_table_unref(in.heads);
    g_autofree char *command = g_strdup_printf("rm -rf '%s'", folder);
    (void)g_spawn_command_line_sync(command, NULL, NULL, NULL, NULL);
    return is_good ? 0 : 1;
}
