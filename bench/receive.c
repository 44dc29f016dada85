/* How well each protocol is received, and where it breaks: ./run bench receive prints it. */
#include "listener.h"

#include <glib.h>
#include <stdio.h>
#include <string.h>

enum { FRAMES = 3, PRESSES = 40 };

/* What was heard of a line. */
typedef struct score {
    const drom_code *code; /* NULL: nothing was sent */
    unsigned sent;
    unsigned right;
    unsigned wrong; /* frames that nobody sent */
} score;

/* How much a protocol with short marks is asked to bear; the others bear 100 and 70 µs. Past this a mark is
 * gone, or a time is nearer to another value than to its own. */
static const struct limit {
    const char *id;
    double stretch_us;
    double jitter_us;
} limits[] = {
    {"denon", 70, 45},  {"sharp", 70, 45},  {"recs80", 50, 25}, {"rcmm12", 50, 15}, {"mitsubishi", 80, 60},
    {"rcmm24", 50, 15}, {"rcmm32", 50, 15}, {"rc6", 100, 55},   {"rc6a", 100, 55},
};

static struct limit limit_of(const char *id)
{
    for (size_t i = 0; i < G_N_ELEMENTS(limits); i++) {
        if (strcmp(limits[i].id, id) == 0) {
            return limits[i];
        }
    }
    return (struct limit){id, 100, 70};
}

static void judge(void *context, const drom_frame *frame)
{
    score *const to = context;
    if (frame->kind == DROM_FRAME_BOUNDARY || frame->code.protocol == &drom_unknown) {
        return;
    }
    const bool is_right = to->code != NULL && frame->code.protocol == to->code->protocol &&
                          (frame->kind == DROM_FRAME_DITTO || drom_code_equal(&frame->code, to->code));
    to->right += is_right;
    to->wrong += !is_right;
}

/* One that is its protocol's and no narrower one's. */
static drom_code random_code(const drom_waveform *waveform, GRand *random)
{
    const char *const id = waveform->protocol->id;
    const uint32_t span = waveform->most_address - waveform->least_address;
    const uint32_t value = g_rand_int(random);
    drom_code code = {
        .protocol = waveform->protocol,
        .address = waveform->least_address + (span == UINT32_MAX ? value : value % (span + 1)),
        .command = (uint16_t)(g_rand_int(random) % (waveform->most_command + 1u)),
    };
    if (strcmp(id, "necx") == 0 || strcmp(id, "nec32") == 0) {
        code.address |= 0x0101;
        code.command |= (uint16_t)(waveform->most_command > 0xff ? 0x0101 : 0);
    }
    if (strcmp(id, "kaseikyo") == 0) {
        code.address &= 0xfff0;
    }
    if (strcmp(id, "nrc17") == 0) {
        code.command &= 0x7f;
    }
    return code;
}

typedef void disturb(sim_bench *bench, const sim_press *press, int round);

/* Presses in a room, heard with every protocol on, or with the right one alone. */
static score try_line(const drom_waveform *waveform, const sim_room *room, disturb *with, bool is_alone)
{
    score total = {0};
    g_autoptr(GRand) random = g_rand_new_with_seed(17);
    for (int i = 0; i < PRESSES; i++) {
        const drom_code code = random_code(waveform, random);
        sim_bench *const bench = sim_bench_new((uint64_t)i + 1);
        const sim_press press = {
            .waveform = waveform, .code = code, .at_us = 50000, .frames = FRAMES, .room = *room};
        sim_listener listener;
        total.code = &code;
        if (is_alone) {
            sim_listener_open_with(&listener, &waveform->protocol, 1, judge, &total);
        } else {
            sim_listener_open(&listener, NULL, judge, &total);
        }
        if (!sim_bench_press(bench, &press)) {
            g_error("%s %u %u can't be sent", waveform->protocol->id, code.address, code.command);
        }
        total.sent += FRAMES;
        if (with != NULL) {
            with(bench, &press, i);
        }
        sim_listener_hear(&listener, bench);
        sim_bench_free(bench);
    }
    return total;
}

/* All corners of clock and stretching at a share of the protocol's limits. */
static score try_level(const drom_waveform *waveform, double share)
{
    const struct limit limit = limit_of(waveform->protocol->id);
    score total = {0};
    for (int corner = 0; corner < 9; corner++) {
        const sim_room room = {
            .clock_error = (corner / 3 - 1) * 0.08 * share,
            .stretch_us = (corner % 3 - 1) * limit.stretch_us * share,
            .jitter_us = limit.jitter_us * share,
        };
        const score got = try_line(waveform, &room, NULL, false);
        total.sent += got.sent;
        total.right += got.right;
        total.wrong += got.wrong;
    }
    return total;
}

static void lamp(sim_bench *bench, const sim_press *press, int round)
{
    (void)press;
    (void)round;
    sim_bench_add_noise(bench, SIM_NOISE_LAMP, 0, 700000);
}

static void sun(sim_bench *bench, const sim_press *press, int round)
{
    (void)press;
    (void)round;
    sim_bench_add_noise(bench, SIM_NOISE_SUN, 0, 700000);
}

static void motor(sim_bench *bench, const sim_press *press, int round)
{
    (void)press;
    (void)round;
    sim_bench_add_noise(bench, SIM_NOISE_MOTOR, 0, 700000);
}

static void print_share(score got)
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
    static disturb *const noises[] = {lamp, sun, motor};
    const sim_room quiet = {.clock_error = 0.02, .stretch_us = 30, .jitter_us = 10};
    printf("Frames recognised, and frames that nobody sent, of %d a cell. Full level: the clock is 8 %% off, "
           "marks are\n"
           "stretched and shrunk, and edges moved either way, by as much as the first columns say; all "
           "protocols are on.\n"
           "The noisy columns: %d frames a cell, with the one protocol that the plan of such a handset would "
           "name.\n\n"
           "%-10s %7s %6s  %9s  %9s  %9s  %9s  %9s  %9s  %9s  %9s\n",
           9 * PRESSES * FRAMES, PRESSES * FRAMES, "protocol", "stretch", "jitter", "1/4", "1/2", "full",
           "5/4", "3/2", "lamp", "sun", "motor");
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const struct limit limit = limit_of(drom_waveforms[i]->protocol->id);
        printf("%-10s %4.0f us %3.0f us", drom_waveforms[i]->protocol->id, limit.stretch_us, limit.jitter_us);
        for (size_t j = 0; j < G_N_ELEMENTS(shares); j++) {
            print_share(try_level(drom_waveforms[i], shares[j]));
        }
        for (size_t j = 0; j < G_N_ELEMENTS(noises); j++) {
            print_share(try_line(drom_waveforms[i], &quiet, noises[j], true));
        }
        printf("\n");
    }
}

/* What was heard in noise, a count a protocol. */
typedef struct phantom {
    unsigned frames[SIM_MOST_PROTOCOLS];
    unsigned confirmed[SIM_MOST_PROTOCOLS]; /* those that came twice within a third of a second */
    drom_frame last;
} phantom;

static void note_phantom(void *context, const drom_frame *frame)
{
    enum { TWICE_US = 330000 };
    phantom *const seen = context;
    for (size_t i = 0; i < drom_waveform_count; i++) {
        if (drom_waveforms[i]->protocol == frame->code.protocol) {
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
    for (int kind = 0; kind < SIM_NOISES; kind++) {
        phantom seen = {0};
        uint64_t intervals = 0;
        for (unsigned minute = 0; minute < hours * MINUTES; minute++) {
            sim_bench *const bench = sim_bench_new(1000u * (unsigned)kind + minute * 7919u);
            sim_listener listener;
            sim_listener_open(&listener, NULL, note_phantom, &seen);
            sim_bench_add_noise(bench, (sim_noise)kind, 0, MINUTE_US);
            sim_listener_hear(&listener, bench);
            intervals += listener.intervals;
            sim_bench_free(bench);
        }
        unsigned total = 0;
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

static void ignore(void *context, const drom_frame *frame)
{
    (void)context;
    (void)frame;
}

/* A line on which every protocol takes its turn, heard over and over. */
static void print_speed(void)
{
    enum { ROUNDS = 400 };
    sim_bench *const bench = sim_bench_new(1);
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform_ref waveform = drom_waveforms[i];
        const drom_code code = {waveform->protocol, waveform->least_address + 2, 2};
        (void)sim_bench_press(bench, &(sim_press){.waveform = waveform,
                                                  .code = code,
                                                  .at_us = (i + 1) * UINT64_C(1000000),
                                                  .frames = FRAMES});
    }
    sim_listener listener;
    sim_listener_open(&listener, NULL, ignore, NULL);
    const gint64 start = g_get_monotonic_time();
    for (int i = 0; i < ROUNDS; i++) {
        listener.now = 0; /* the line is quiet between the rounds, so that the clock may be set back */
        sim_listener_hear(&listener, bench);
    }
    const double seconds = (double)(g_get_monotonic_time() - start) / 1e6;
    printf("\n%.1f million intervals a second with every protocol on, one core\n",
           (double)listener.intervals / seconds / 1e6);
    sim_bench_free(bench);
}

int main(int argc, char **argv)
{
    const unsigned hours = argc > 1 ? (unsigned)g_ascii_strtoull(argv[1], NULL, 10) : 24;
    print_rooms();
    print_noise(hours);
    print_speed();
    return 0;
}
