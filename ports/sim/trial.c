/* Presses, and the frames that came of them. */
#include "trial.h"

#include "random.h"

#include <glib.h>
#include <string.h>

sim_limit sim_limit_of(const char *id)
{
    static const sim_limit limits[] = {
        {"jvc", 90, 60},        {"denon", 70, 45},  {"sharp", 70, 45},  {"recs80", 50, 25},
        {"mitsubishi", 80, 60}, {"rcmm12", 50, 15}, {"rcmm24", 50, 15}, {"rcmm32", 50, 15},
        {"rc6", 100, 55},       {"rc6a", 100, 55},  {"nrc17", 100, 60},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(limits); i++) {
        if (strcmp(limits[i].id, id) == 0) {
            return limits[i];
        }
    }
    return (sim_limit){id, 100, 70};
}

drom_code sim_random_code(const drom_waveform *waveform, uint64_t seed)
{
    const char *const id = waveform->protocol->id;
    sim_random random = {seed};
    const uint64_t span = (uint64_t)waveform->max_address - waveform->min_address + 1;
    drom_code code = {
        .protocol = waveform->protocol->number,
        .address = waveform->min_address + (uint32_t)(sim_random_next(&random) % span),
        .command = (uint16_t)(sim_random_next(&random) % (waveform->max_command + 1u)),
    };
    if (strcmp(id, "nec_extended") == 0 ||
        strcmp(id, "nec_unchecked") == 0) { /* both bytes odd: no complements */
        code.address |= 0x0101;
        code.command |= (uint16_t)(waveform->max_command > 0xff ? 0x0101 : 0);
    }
    if (strcmp(id, "kaseikyo") == 0) { /* the usual vendor, and its parity */
        code.address &= 0xfff0;
    }
    if (strcmp(id, "nrc17") == 0) { /* not the boundary */
        code.command &= 0x7f;
    }
    return code;
}

static void judge(void *context, const drom_frame *frame)
{
    sim_score *const score = context;
    if (frame->kind == DROM_FRAME_BOUNDARY || frame->protocol == &drom_unknown) {
        return;
    }
    const bool is_right = score->code != NULL && frame->protocol->number == score->code->protocol &&
                          (frame->kind == DROM_FRAME_REPEAT || drom_code_equal(&frame->code, score->code));
    score->right += is_right;
    score->wrong += !is_right;
}

static void try_press(const drom_waveform *waveform, const sim_room *room, uint64_t seed, sim_disturb *with,
                      bool is_alone, sim_score *total)
{
    const drom_code code = sim_random_code(waveform, seed);
    const sim_press press = {
        .waveform = waveform, .code = code, .at_us = 50000, .frames = SIM_TRIAL_FRAMES, .room = *room};
    sim_bench *const bench = sim_bench_new(seed);
    sim_listener listener;
    total->code = &code;
    total->sent += SIM_TRIAL_FRAMES;
    if (is_alone) {
        sim_listener_open_with(&listener, &waveform->protocol, 1, judge, total);
        listener.plan.unknown.memory =
            NULL; /* such a plan wants no unknown bursts, and so may drop longer glitches */
        drom_receiver_init(&listener.receiver, &listener.plan);
    } else {
        sim_listener_open(&listener, judge, total);
    }
    (void)sim_bench_press(bench, &press);
    if (with != NULL) {
        with(bench, &press);
    }
    sim_listener_hear(&listener, bench);
    sim_bench_free(bench);
    total->code = NULL;
}

sim_score sim_try_room(const drom_waveform *waveform, const sim_room *room, unsigned presses,
                       sim_disturb *with, bool is_alone)
{
    sim_score total = {0};
    for (unsigned i = 1; i <= presses; i++) {
        try_press(waveform, room, i, with, is_alone, &total);
    }
    return total;
}

sim_score sim_try_limit(const drom_waveform *waveform, double share, unsigned presses)
{
    const sim_limit limit = sim_limit_of(waveform->protocol->id);
    static const double sides[] = {-1, 0, 1};
    sim_score total = {0};
    for (unsigned i = 0; i < 9 * presses; i++) {
        const unsigned corner = i % 9;
        const sim_room room = {
            .clock_error = sides[corner / 3] * 0.08 * share,
            .stretch_us = sides[corner % 3] * limit.stretch_us * share,
            .jitter_us = limit.jitter_us * share,
        };
        try_press(waveform, &room, i + 1, NULL, false, &total);
    }
    return total;
}
