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
            if (room->loss <= 0 || sim_random_between(&bench->random, 0, 1) >= room->loss) {
                add_mark(bench, MAX(begins_us, seen_from_us), ends_us);
            }
        }
        at_us = end_us;
        is_mark = !is_mark;
    }
    return at_us;
}

/* One more frame of a press: its time ends where the next one's begins. */
static void send_frame(sim_bench *bench, sim_finger *finger, drom_press_part part)
{
    const drom_waveform *const waveform = finger->press.waveform;
    const sim_room *const room = &finger->press.room;
    const double scale = 1 + room->clock_error;
    const double seen_from_us = room->clip_us > 0 ? (double)finger->press.at_us + room->clip_us : 0;
    drom_encoder encoder;
    (void)drom_encode_begin(&encoder, waveform, &finger->press.code, part, finger->toggle);
    const double ended_us = add_frame(bench, &encoder, finger->next_us, seen_from_us, room);
    const double period_us = waveform->protocol->period_us * scale;
    if (part == DROM_SEND_BOUNDARY) {
        finger->next_us += waveform->boundary_gap_us * scale;
        return;
    }
    finger->next_us =
        period_us > 0 ? finger->next_us + period_us : ended_us + waveform->protocol->gap_us * scale;
    finger->sent++;
}

bool sim_finger_begin(sim_bench *bench, sim_finger *finger, const sim_press *press)
{
    drom_encoder encoder;
    *finger = (sim_finger){.press = *press, .next_us = (double)press->at_us, .toggle = bench->toggle};
    if (press->at_us < sim_bench_now(bench) || !(1 + press->room.clock_error > 0.1) ||
        drom_encode_begin(&encoder, press->waveform, &press->code, DROM_SEND_FIRST, bench->toggle) !=
            DROM_OK) {
        return false;
    }
    if (press->waveform->boundary_gap_us != 0) {
        send_frame(bench, finger, DROM_SEND_BOUNDARY);
    }
    bench->toggle = !bench->toggle;
    return true;
}

static void send_next(sim_bench *bench, sim_finger *finger)
{
    send_frame(bench, finger, finger->sent == 0 ? DROM_SEND_FIRST : DROM_SEND_REPEAT);
}

void sim_finger_hold(sim_bench *bench, sim_finger *finger, uint64_t until_us)
{
    while (finger->next_us <= (double)until_us) {
        send_next(bench, finger);
    }
}

/* The fewest frames of a press. */
static void send_rest(sim_bench *bench, sim_finger *finger, unsigned frames)
{
    while (finger->sent < MAX(frames, 1)) {
        send_next(bench, finger);
    }
    if (finger->press.waveform->boundary_gap_us != 0) {
        send_frame(bench, finger, DROM_SEND_BOUNDARY);
    }
}

void sim_finger_lift(sim_bench *bench, sim_finger *finger)
{
    send_rest(bench, finger, finger->press.waveform->min_frames);
}

bool sim_bench_press(sim_bench *bench, const sim_press *press)
{
    sim_finger finger;
    if (!sim_finger_begin(bench, &finger, press)) {
        return false;
    }
    if (press->frames == 0) {
        sim_finger_hold(bench, &finger, press->at_us + press->held_us);
    }
    send_rest(bench, &finger, press->frames != 0 ? press->frames : press->waveform->min_frames);
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
