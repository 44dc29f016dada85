/* How well each protocol is received, and its limits: ./run bench receive prints it. */
#include "trial.h"

#include "cli/io/progress.h"

#include <glib.h>
#include <stdio.h>
#include <string.h>

enum { PRESSES = 40 };

static void lamp(sim_bench *bench, const sim_press *press)
{
    (void)press;
    sim_bench_add_noise(bench, SIM_NOISE_LAMP, 0, 700000);
}

static void sun(sim_bench *bench, const sim_press *press)
{
    (void)press;
    sim_bench_add_noise(bench, SIM_NOISE_SUN, 0, 700000);
}

static void motor(sim_bench *bench, const sim_press *press)
{
    (void)press;
    sim_bench_add_noise(bench, SIM_NOISE_MOTOR, 0, 700000);
}

/* Another handset sends at the same time, beginning within the press. */
static void another(sim_bench *bench, const sim_press *press)
{
    const drom_waveform_ref other = drom_waveforms[press->code.command % drom_waveform_count];
    const drom_code code = {other->protocol->number, other->min_address + 1, 1};
    (void)sim_bench_press(bench,
                          &(sim_press){.waveform = other,
                                       .code = code,
                                       .at_us = press->at_us + UINT64_C(4000) * (press->code.command % 16),
                                       .frames = 1});
}

static void print_share(sim_score got)
{
    if (got.right >= got.sent) {
        printf("  %5s %3u", "all", got.wrong);
    } else {
        printf("  %4.1f%% %3u", 100.0 * got.right / got.sent, got.wrong);
    }
}

static void print_rooms(void)
{
    static const double shares[] = {0.25, 0.5, 1, 1.25, 1.5};
    static sim_disturb *const noises[] = {lamp, sun, motor};
    const sim_room quiet = {.clock_error = 0.02, .stretch_us = 30, .jitter_us = 10};
    printf(
        "Frames recognised, and frames that were not sent, of %d a cell. Full level: the clock is 8 %% off, "
        "marks are\n"
        "stretched and shrunk, and edges moved either way, by as much as the first columns say; all "
        "protocols are on.\n"
        "The other columns: %d frames a cell, with the one protocol that the plan of such a handset would "
        "name: in three\n"
        "kinds of noise; with the first 3 ms of each press not seen; with another handset pressed at the "
        "same time.\n\n"
        "%-13s %7s %6s  %9s  %9s  %9s  %9s  %9s  %9s  %9s  %9s  %9s  %9s\n",
        9 * PRESSES * SIM_TRIAL_FRAMES, PRESSES * SIM_TRIAL_FRAMES, "protocol", "stretch", "jitter", "1/4",
        "1/2", "full", "5/4", "3/2", "lamp", "sun", "motor", "clipped", "two");
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const sim_limit limit = sim_limit_of(drom_waveforms[i]->protocol->id);
        printf("%-13s %4.0f us %3.0f us", drom_waveforms[i]->protocol->id, limit.stretch_us, limit.jitter_us);
        for (size_t j = 0; j < G_N_ELEMENTS(shares); j++) {
            print_share(sim_try_limit(drom_waveforms[i], shares[j], PRESSES));
        }
        for (size_t j = 0; j < G_N_ELEMENTS(noises); j++) {
            print_share(sim_try_room(drom_waveforms[i], &quiet, PRESSES, noises[j], true));
        }
        const sim_room sleepy = {.clock_error = 0.02, .clip_us = 3000};
        print_share(sim_try_room(drom_waveforms[i], &sleepy, PRESSES, NULL, true));
        print_share(sim_try_room(drom_waveforms[i], &quiet, PRESSES, another, true));
        printf("\n");
    }
}

/* The same as curves, one disturbance at a time, for 'dromikos chart'. */
static void print_curves(void)
{
    enum { STEPS = 10, FINE = 4 }; /* on each side, and of the limit */
    printf("figure,x,y,curve,at,value\n");
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const char *const id = drom_waveforms[i]->protocol->id;
        const sim_limit limit = sim_limit_of(id);
        for (unsigned j = 0; j < 2; j++) {
            for (int step = -STEPS; step <= STEPS; step++) {
                const double share = (double)step / FINE;
                const sim_room around = {.clock_error = j == 0 ? 0.08 * share : 0,
                                         .stretch_us = j == 0 ? 0 : limit.stretch_us * share,
                                         .jitter_us = limit.jitter_us / 2};
                const sim_score score = sim_try_room(drom_waveforms[i], &around, PRESSES, NULL, true);
                printf("%s,times of what each is asked to bear,Frames recognised in %%,%s,%g,%.1f\n", id,
                       j == 0 ? "clock" : "stretch", share, 100.0 * score.right / score.sent);
            }
        }
    }
}

/* False frames in noise, a count per protocol. */
typedef struct phantom {
    unsigned frames[SIM_MAX_PROTOCOLS];
    unsigned confirmed[SIM_MAX_PROTOCOLS]; /* frames received twice within a third of a second */
    drom_frame last;
} phantom;

static void note_phantom(void *context, const drom_frame *frame)
{
    enum { TWICE_US = 330000 };
    phantom *const seen = context;
    for (size_t i = 0; i < drom_waveform_count; i++) {
        if (drom_waveforms[i]->protocol == frame->protocol) {
            seen->frames[i]++;
            seen->confirmed[i] +=
                drom_code_equal(&seen->last.code, &frame->code) && frame->at - seen->last.at < TWICE_US;
            seen->last = *frame;
        }
    }
}

static void print_noise(unsigned hours)
{
    enum { MINUTE_US = 60000000, MINUTES = 60 };
    static const char *const names[SIM_NOISES] = {"lamp", "sun", "motor"};
    printf("\nFrames falsely seen in %u hours of each noise, every protocol on; in brackets, how often the "
           "same came twice\n"
           "within a third of a second, as a handset with 'confirmed by a second frame' needs it:\n",
           hours);
    progress_may_stop();
    for (int kind = 0; kind < SIM_NOISES && !progress_is_stopped(); kind++) {
        phantom seen = {0};
        uint64_t intervals = 0;
        unsigned minute = 0;
        for (; minute < hours * MINUTES && !progress_is_stopped(); minute++) {
            sim_bench *const bench = sim_bench_new(1000u * (unsigned)kind + minute * 7919u);
            sim_listener listener;
            sim_listener_open(&listener, note_phantom, &seen);
            sim_bench_add_noise(bench, (sim_noise)kind, 0, MINUTE_US);
            sim_listener_hear(&listener, bench);
            intervals += listener.intervals;
            sim_bench_free(bench);
            progress_share("noise", (kind + (double)minute / (hours * MINUTES)) / SIM_NOISES);
        }
        unsigned total = 0;
        progress_hide();
        if (progress_is_stopped()) {
            printf("  ended by Ctrl-C after %.1f hours\n", (double)minute / MINUTES);
        }
        printf("  %-6s %10" G_GUINT64_FORMAT " intervals:", names[kind], intervals);
        for (size_t i = 0; i < drom_waveform_count; i++) {
            total += seen.frames[i];
            if (seen.frames[i] > 0) {
                printf("  %s %u (%u)", drom_waveforms[i]->protocol->id, seen.frames[i], seen.confirmed[i]);
            }
        }
        printf(total > 0 ? "\n" : "  none\n");
    }
}

/* The fingerprint of the tested burst. */
typedef struct wanted_burst {
    uint32_t fingerprint;
    unsigned left; /* to come before it */
} wanted_burst;

static void note_fingerprint(void *context, const drom_frame *frame)
{
    wanted_burst *const wanted = context;
    if (wanted->left-- == 0) {
        wanted->fingerprint = frame->code.address;
    }
}

static uint32_t fingerprint_of(const drom_waveform *waveform, const drom_code *code, const sim_room *room,
                               uint64_t seed)
{
    wanted_burst wanted = {
        .left = waveform->boundary_gap_us != 0 ? 1 : 0}; /* after the frame that begins a press */
    sim_listener listener;
    sim_bench *const bench = sim_bench_new(seed);
    sim_listener_open_with(&listener, NULL, 0, note_fingerprint, &wanted);
    (void)sim_bench_press(
        bench, &(sim_press){.waveform = waveform, .code = *code, .at_us = 50000, .frames = 1, .room = *room});
    sim_listener_hear(&listener, bench);
    sim_bench_free(bench);
    return wanted.fingerprint;
}

/* Each protocol as if it were unknown: a key's fingerprint must always be the same, and differ from other
 * keys'. */
static void print_fingerprints(void)
{
    enum { KEYS = 40 };
    static const double sides[] = {-1, 0, 1};
    static const double shares[] = {0.25, 0.5, 1};
    printf("\nFingerprints, with every protocol switched off: of %d keys in 9 rooms, how many were the key's "
           "own, at a share of the\n"
           "limits above; and how many of %d different keys had a fingerprint of their own.\n\n%-13s %6s %6s "
           "%6s  %s\n",
           KEYS, KEYS, "protocol", "1/4", "1/2", "full", "different");
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform_ref waveform = drom_waveforms[i];
        const sim_limit limit = sim_limit_of(waveform->protocol->id);
        g_autoptr(GHashTable) seen = g_hash_table_new(NULL, NULL);
        g_autoptr(GHashTable) codes = g_hash_table_new(NULL, NULL);
        unsigned same[G_N_ELEMENTS(shares)] = {0};
        for (unsigned key = 1; key <= KEYS; key++) {
            const drom_code code = sim_random_code(waveform, key);
            const uint32_t own = fingerprint_of(waveform, &code, &(sim_room){0}, 1);
            g_hash_table_add(seen, GUINT_TO_POINTER(own));
            g_hash_table_add(codes, GUINT_TO_POINTER(code.address << 16 ^ code.command));
            for (unsigned room = 0; room < 9 * G_N_ELEMENTS(shares); room++) {
                const double share = shares[room / 9];
                const sim_room around = {
                    .clock_error = sides[room % 9 / 3] * 0.08 * share,
                    .stretch_us = sides[room % 3] * limit.stretch_us * share,
                    .jitter_us = limit.jitter_us * share,
                };
                same[room / 9] += fingerprint_of(waveform, &code, &around, key) == own;
            }
        }
        printf("%-13s", waveform->protocol->id);
        for (size_t j = 0; j < G_N_ELEMENTS(shares); j++) {
            printf(" %5.1f%%", 100.0 * same[j] / (9 * KEYS));
        }
        printf("  %u of %u\n", g_hash_table_size(seen), g_hash_table_size(codes));
    }
}

static void ignore(void *context, const drom_frame *frame)
{
    (void)context;
    (void)frame;
}

/* A line with all protocols, received again and again. */
/* A press of each protocol on one line. */
static sim_bench *press_all(void)
{
    sim_bench *const bench = sim_bench_new(1);
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform_ref waveform = drom_waveforms[i];
        const drom_code code = {waveform->protocol->number, waveform->min_address + 2, 2};
        (void)sim_bench_press(bench, &(sim_press){.waveform = waveform,
                                                  .code = code,
                                                  .at_us = (i + 1) * UINT64_C(1000000),
                                                  .frames = SIM_TRIAL_FRAMES});
    }
    return bench;
}

/* For a profiler, which counts the receiver's instructions: receives all of them once. */
static void hear_once(void)
{
    sim_bench *const bench = press_all();
    sim_listener listener;
    sim_listener_open(&listener, ignore, NULL);
    sim_listener_hear(&listener, bench);
    printf("%u\n", (unsigned)listener.intervals);
    sim_bench_free(bench);
}

static void print_speed(void)
{
    enum { ROUNDS = 20, BATCHES = 60 };
    sim_bench *const bench = press_all();
    sim_listener listener;
    double best = 0;
    sim_listener_open(&listener, ignore, NULL);
    for (int batch = 0; batch < BATCHES; batch++) { /* the best of them: others were disturbed */
        const uint64_t before = listener.intervals;
        const gint64 start = g_get_monotonic_time();
        for (int i = 0; i < ROUNDS; i++) {
            listener.now = 0; /* the line is quiet between the rounds, so that the clock may be set back */
            sim_listener_hear(&listener, bench);
        }
        const double us = (double)(g_get_monotonic_time() - start);
        best = MAX(best, (double)(listener.intervals - before) / MAX(us, 1));
    }
    printf("\n%.1f million intervals a second with every protocol on, one core\n", best);
    sim_bench_free(bench);
}

int main(int argc, char **argv)
{
    const unsigned hours = argc > 1 ? (unsigned)g_ascii_strtoull(argv[1], NULL, 10) : 24;
    if (argc > 1 && strcmp(argv[1], "speed") == 0) {
        print_speed();
        return 0;
    }
    if (argc > 1 && strcmp(argv[1], "once") == 0) {
        hear_once();
        return 0;
    }
    if (argc > 1 && strcmp(argv[1], "curves") == 0) {
        print_curves();
        return 0;
    }
    print_rooms();
    print_fingerprints();
    print_noise(hours);
    print_speed();
    return 0;
}
