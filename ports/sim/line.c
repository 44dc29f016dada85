/* The receiver's line: presses, noise and recorded edges become one list of edges in the order of their
 * times. */
#include "bench.h"

void sim_bench_add_edge(sim_bench *bench, uint64_t at_us, bool is_mark)
{
    at_us = MAX(at_us, sim_bench_now(bench));
    const sim_edge edge = {.at_us = at_us, .order = bench->edges->len, .is_mark = is_mark};
    if (bench->edges->len > 0) {
        const sim_edge *const last = &g_array_index(bench->edges, sim_edge, bench->edges->len - 1);
        bench->is_sorted &= last->at_us <= at_us;
    }
    g_array_append_val(bench->edges, edge);
    bench->is_world_known = false;
}

static void add_mark(sim_bench *bench, double begins_us, double ends_us)
{
    if (ends_us > begins_us) {
        sim_bench_add_edge(bench, begins_us > 0 ? (uint64_t)(begins_us + 0.5) : 0, true);
        sim_bench_add_edge(bench, ends_us > 0 ? (uint64_t)(ends_us + 0.5) : 0, false);
    }
}

/* One frame as the receiver's output shows it. Gives the time at which it ends. */
static double add_frame(sim_bench *bench, drom_encoder *encoder, double at_us, double seen_from_us,
                        const sim_room *room)
{
    bool is_mark = true;
    for (uint16_t us = drom_encode_next(encoder); us != 0; us = drom_encode_next(encoder)) {
        const double end_us = at_us + us * (1 + room->clock_error);
        if (is_mark) {
            const double shift = room->jitter_us;
            const double begins_us = at_us + sim_random_between(&bench->random, -shift, shift);
            const double ends_us =
                end_us + room->stretch_us + sim_random_between(&bench->random, -shift, shift);
            add_mark(bench, MAX(begins_us, seen_from_us), ends_us);
        }
        at_us = end_us;
        is_mark = !is_mark;
    }
    return at_us;
}

bool sim_bench_press(sim_bench *bench, const sim_press *press)
{
    const drom_waveform *const waveform = press->waveform;
    const double scale = 1 + press->room.clock_error;
    const double until_us = (double)press->at_us + (double)press->held_us;
    const unsigned min = MAX(press->frames != 0 ? press->frames : waveform->min_frames, 1);
    drom_encoder encoder;
    if (press->at_us < sim_bench_now(bench) || !(scale > 0.1) ||
        drom_encode_begin(&encoder, waveform, &press->code, DROM_SEND_FIRST, bench->toggle) != DROM_OK) {
        return false;
    }
    const double seen_from_us = press->room.clip_us > 0 ? (double)press->at_us + press->room.clip_us : 0;
    double at_us = (double)press->at_us;
    if (waveform->boundary_gap_us != 0) {
        (void)drom_encode_begin(&encoder, waveform, &press->code, DROM_SEND_BOUNDARY, bench->toggle);
        (void)add_frame(bench, &encoder, at_us, seen_from_us, &press->room);
        at_us += waveform->boundary_gap_us * scale;
    }
    for (unsigned i = 0; i < min || (press->frames == 0 && at_us <= until_us); i++) {
        const drom_press_part part = i == 0 ? DROM_SEND_FIRST : DROM_SEND_REPEAT;
        (void)drom_encode_begin(&encoder, waveform, &press->code, part, bench->toggle);
        const double ended_us = add_frame(bench, &encoder, at_us, seen_from_us, &press->room);
        const double period_us = waveform->protocol->period_us * scale;
        at_us = period_us > 0 ? at_us + period_us : ended_us + waveform->protocol->gap_us * scale;
    }
    if (waveform->boundary_gap_us != 0) {
        (void)drom_encode_begin(&encoder, waveform, &press->code, DROM_SEND_BOUNDARY, bench->toggle);
        (void)add_frame(bench, &encoder, at_us, seen_from_us, &press->room);
    }
    bench->toggle = !bench->toggle;
    return true;
}

void sim_bench_set_toggle(sim_bench *bench, bool toggle)
{
    bench->toggle = toggle;
}

bool sim_bench_press_once(sim_bench *bench, const drom_waveform *waveform, const drom_code *code,
                          uint64_t at_us)
{
    return sim_bench_press(bench, &(sim_press){.waveform = waveform, .code = *code, .at_us = at_us});
}

void sim_bench_add_noise(sim_bench *bench, sim_noise kind, uint64_t from_us, uint64_t to_us)
{
    static const struct {
        double pause_us; /* mean time between bursts */
        int max_marks;   /* in a burst */
        double gap_us;   /* between the marks of a burst, at most */
        double longest_us;
    } kinds[SIM_NOISES] = {
        [SIM_NOISE_LAMP] = {10000, 4, 900, 200},
        [SIM_NOISE_SUN] = {40000, 1, 0, 200},
        [SIM_NOISE_MOTOR] = {60000, 40, 150, 80},
    };
    sim_random *const random = &bench->random;
    double at_us = (double)from_us;
    for (;;) {
        at_us += sim_random_between(random, 0, 2 * kinds[kind].pause_us);
        const int marks = 1 + (int)(sim_random_next(random) % (uint64_t)kinds[kind].max_marks);
        for (int i = 0; i < marks; i++) {
            const double us = sim_random_between(random, 10, kinds[kind].longest_us);
            if (at_us + us >= (double)to_us) {
                return;
            }
            add_mark(bench, at_us, at_us + us);
            at_us += us + sim_random_between(random, 10, 10 + kinds[kind].gap_us);
        }
    }
}

static gint by_time(gconstpointer left, gconstpointer right)
{
    const sim_edge *const a = left;
    const sim_edge *const b = right;
    if (a->at_us != b->at_us) {
        return a->at_us < b->at_us ? -1 : 1;
    }
    return (a->order > b->order) - (a->order < b->order);
}

const sim_edge *sim_bench_edges(sim_bench *bench, size_t *count)
{
    if (!bench->is_sorted) {
        g_array_sort(bench->edges, by_time);
        bench->is_sorted = true;
    }
    *count = bench->edges->len - bench->next_edge;
    return *count > 0 ? &g_array_index(bench->edges, sim_edge, bench->next_edge) : NULL;
}
