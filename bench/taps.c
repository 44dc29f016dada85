/* './run bench taps' prints, a line per protocol, whether quick taps are distinguished from a held key, and
 * whether a held key stays held when frames are lost. */
#include "trial.h"

#include "dromikos/internal/keys.h"

#include <glib.h>
#include <stdio.h>

enum { TAPS = 400, MINUTE_US = 60 * 1000 * 1000 };

/* The receiver of the presses of one key. */
typedef struct ear {
    sim_listener listener;
    drom_keys keys;
    drom_keys_plan plan;
    drom_handset handset;
    drom_hold hold;
    unsigned presses;
    GRand *dice;
    double lost_share;
} ear;

static void note_key(void *context, const drom_key_event *event)
{
    ((ear *)context)->presses += event->gesture == DROM_PRESS;
}

static void note_frame(void *context, const drom_frame *frame)
{
    ear *const in = context;
    while (drom_keys_advance(&in->keys, frame->at)) {
    }
    if (g_rand_double(in->dice) >= in->lost_share) {
        drom_keys_frame(&in->keys, frame);
    }
}

/* Returns the number of presses of a code that are received if this share of the frames is lost. */
static unsigned hear_presses(sim_bench *bench, const drom_code *code, double lost_share)
{
    ear *const in = g_new0(ear, 1);
    in->handset.codes.rows = code;
    in->handset.codes.count = 1;
    in->plan = (drom_keys_plan){.handsets = {&in->handset, 1}, .holds = &in->hold};
    in->dice = g_rand_new_with_seed(1);
    in->lost_share = lost_share;
    drom_keys_init(&in->keys, &in->plan, note_key, in);
    sim_listener_open(&in->listener, note_frame, in);
    sim_listener_hear(&in->listener, bench);
    const unsigned presses = in->presses;
    g_rand_free(in->dice);
    g_free(in);
    return presses;
}

/* When the line was last busy. */
static uint64_t last_edge(sim_bench *bench)
{
    size_t count = 0;
    const sim_edge *const edges = sim_bench_edges(bench, &count);
    return count > 0 ? edges[count - 1].at_us : 0;
}

/* Taps as short as the handset makes them. `apart`: from the start of one to the start of the next, the
 * limits in ms; `silent`: the shortest silence between two, likewise. */
static unsigned tap(const drom_waveform *waveform, const drom_code *code, const unsigned apart[2],
                    const unsigned silent[2])
{
    unsigned heard = 0;
    GRand *const dice = g_rand_new_with_seed(waveform->protocol->number);
    for (unsigned batch = 0; batch < TAPS / 20; batch++) {
        sim_bench *const bench = sim_bench_new(batch);
        uint64_t at_us = 100000;
        for (unsigned i = 0; i < 20; i++) {
            (void)sim_bench_press(bench, &(sim_press){.waveform = waveform,
                                                      .code = *code,
                                                      .at_us = at_us,
                                                      .room = {.clock_error = 0.01, .stretch_us = 20}});
            const uint64_t next_us =
                at_us + (uint64_t)g_rand_int_range(dice, (gint32)apart[0], (gint32)apart[1] + 1) * 1000;
            const uint64_t over_us =
                last_edge(bench) +
                (uint64_t)g_rand_int_range(dice, (gint32)silent[0], (gint32)silent[1] + 1) * 1000;
            at_us = MAX(next_us, over_us);
        }
        heard += hear_presses(bench, code, 0);
        sim_bench_free(bench);
    }
    g_rand_free(dice);
    return heard;
}

static unsigned hold(const drom_waveform *waveform, const drom_code *code)
{
    sim_bench *const bench = sim_bench_new(1);
    (void)sim_bench_press(
        bench, &(sim_press){.waveform = waveform, .code = *code, .at_us = 100000, .held_us = MINUTE_US});
    const unsigned presses = hear_presses(bench, code, 0.01);
    sim_bench_free(bench);
    return presses;
}

int main(void)
{
    static const unsigned apart[2] = {200, 300};
    static const unsigned never[2] = {0, 0};
    static const unsigned silent[2] = {40, 40};
    static const unsigned silences[2] = {40, 150};
    printf("Presses heard of %d taps, and in a minute of a held key of which 1 frame in 100 is lost.\n\n",
           TAPS);
    printf("%-14s %18s %18s %12s\n", "protocol", "200 to 300 ms", "40 to 150 ms", "held for");
    printf("%-14s %18s %18s %12s\n", "", "from start to start", "of silence", "a minute");
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        const drom_code code = sim_random_code(waveform, 7);
        printf("%-14s %18u %18u %12u\n", waveform->protocol->id, tap(waveform, &code, apart, silent),
               tap(waveform, &code, never, silences), hold(waveform, &code));
    }
    return 0;
}
