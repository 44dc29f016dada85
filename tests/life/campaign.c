/* campaign SECONDS [SEED]: random plans, presses, noise and stops, until the time is over or something
 * happens that must not. Says which seed it was, so that it can be had again. */
#include "life.h"

#include "progress.h"

#include <stdio.h>
#include <stdlib.h>

typedef struct tally {
    unsigned plans;
    unsigned stops;
    unsigned noisy;
    unsigned events; /* presses, and touches of a switch */
    double lived_s;
} tally;

static sim_processor draw_processor(GRand *dice)
{
    static const sim_processor processors[] = {
        {0},
        {.latency_us = 1, .capture_us = 5, .alarm_us = 6.4, .poll_us = 130},
        {.latency_us = 1, .capture_us = 5, .alarm_us = 6.4, .poll_us = 60, .call_us = 2, .pwm_bits = 8},
        {.latency_us = 2, .capture_us = 3, .alarm_us = 4, .poll_us = 30, .pixels = SIM_PIXELS_MASKED},
        {.stamp = DROM_STAMP_INTERRUPT, .latency_us = 1, .capture_us = 4, .alarm_us = 6, .poll_us = 110},
    };
    return processors[g_rand_int_range(dice, 0, G_N_ELEMENTS(processors))];
}

/* One plan and its life. False, and reported, when something was wrong. */
static bool live_one(guint32 seed, const char *folder, tally *in)
{
    enum { LASTS_MS = 8000 };
    g_autoptr(GRand) dice = g_rand_new_with_seed(seed);
    g_autofree char *reported = NULL;
    g_autofree char *violation = NULL;
    drawn_plan drawn = draw_plan(dice);
    life lived = {
        .presses = draw_presses(dice, drawn.keys, LASTS_MS),
        .touches = draw_touches(dice, LASTS_MS),
        .lasts_ms = LASTS_MS,
        .asleep_ms = g_rand_int_range(dice, 0, 4) == 0 ? (uint32_t)g_rand_int_range(dice, 300, LASTS_MS) : 0,
        .stopped_ms = g_rand_boolean(dice) ? (uint32_t)g_rand_int_range(dice, 300, LASTS_MS) : 0,
        .processor = draw_processor(dice),
        .noise =
            g_rand_int_range(dice, 0, 3) == 0 ? (sim_noise)g_rand_int_range(dice, 0, SIM_NOISES) : SIM_NOISES,
        .seed = seed,
        .clock_start = g_rand_boolean(dice) ? (drom_us)g_rand_int(dice) : UINT32_MAX - 3000000,
    };
    plan *const loaded = load_drawn(&drawn, folder, &reported);
    violation =
        loaded != NULL ? life_check(loaded, &lived) : g_strdup_printf("the plan is refused: %s", reported);
    if (violation != NULL) {
        progress_hide();
        printf("seed %u: %s\n%s\n%s\n%s\nstopped at %u ms, noise %d, polls of %g us, pixels %d\n", seed,
               violation, drawn.plan, drawn.hand, drawn.hall, lived.stopped_ms, (int)lived.noise,
               lived.processor.poll_us, (int)lived.processor.pixels);
        for (guint i = 0; i < lived.presses->len; i++) {
            const life_press *const press = &g_array_index(lived.presses, life_press, i);
            printf("k%u at %u ms for %u ms\n", press->key, press->at_ms, press->held_ms);
        }
        for (guint i = 0; i < lived.touches->len; i++) {
            const life_touch *const touch = &g_array_index(lived.touches, life_touch, i);
            printf("tip %s at %u ms\n", touch->is_closed ? "closes" : "opens", touch->at_ms);
        }
    }
    in->plans++;
    in->stops += lived.stopped_ms > 0;
    in->noisy += lived.noise != SIM_NOISES;
    in->lived_s += (lived.stopped_ms > 0 ? lived.stopped_ms : LASTS_MS + 12000) / 1e3;
    plan_free(loaded);
    in->events += lived.presses->len + lived.touches->len;
    g_array_unref(lived.presses);
    g_array_unref(lived.touches);
    drawn_plan_clear(&drawn);
    return violation == NULL;
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
    tally in = {0};
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
    printf("%u random plans lived %.1f hours of their own time, with %u events; %u were stopped, %u had "
           "noise: %s\n",
           in.plans, in.lived_s / 3600, in.events, in.stops, in.noisy,
           is_good ? "nothing happened that must not" : "see above");
    g_autofree char *command = g_strdup_printf("rm -rf '%s'", folder);
    (void)g_spawn_command_line_sync(command, NULL, NULL, NULL, NULL);
    return is_good ? 0 : 1;
}
