/* Virtual time, the receiver's line, the pins and what is wired to them. Time moves only in
 * sim_bench_sleep(). */
#include "sim.h"

#include "relay.h"

#include <glib.h>

struct sim_bench {
    drom_port port;
    drom_engine *engine;
    sim_watch watch;
    sim_random random;
    GArray *edges; /* of sim_edge, in order where is_sorted */
    guint next_edge;
    bool is_sorted;
    int marks;   /* how many handsets send just now */
    bool toggle; /* of the next press */
    GPtrArray *relays;
    uint64_t now_us;
    drom_us clock_start;
    bool is_high[256];
    bool is_output[256];
};

static drom_us port_now(void *context)
{
    const sim_bench *const bench = context;
    return bench->clock_start + (drom_us)bench->now_us;
}

static void port_write_pin(void *context, uint8_t pin, bool is_high)
{
    sim_bench *const bench = context;
    if (bench->is_output[pin] && bench->is_high[pin] == is_high) {
        return;
    }
    bench->is_output[pin] = true;
    bench->is_high[pin] = is_high;
    if (bench->watch.pin != NULL) {
        bench->watch.pin(bench->watch.context, bench->now_us, pin, is_high);
    }
    for (guint i = 0; i < bench->relays->len; i++) {
        sim_relay *const relay = g_ptr_array_index(bench->relays, i);
        if (relay->pin == pin) {
            sim_relay_drive(relay, &bench->random, bench->now_us, is_high);
        }
    }
}

sim_bench *sim_bench_new(uint64_t seed)
{
    sim_bench *const bench = g_new0(sim_bench, 1);
    bench->port = (drom_port){.context = bench, .now = port_now, .write_pin = port_write_pin, .facts = {.can_slice = true}};
    bench->random.state = seed;
    bench->edges = g_array_new(FALSE, FALSE, sizeof(sim_edge));
    bench->relays = g_ptr_array_new_with_free_func(g_free);
    bench->is_sorted = true;
    return bench;
}

void sim_bench_free(sim_bench *bench)
{
    if (bench != NULL) {
        g_array_free(bench->edges, TRUE);
        g_ptr_array_free(bench->relays, TRUE);
        g_free(bench);
    }
}

void sim_bench_start_clock_at(sim_bench *bench, drom_us start)
{
    bench->clock_start = start;
}

const drom_port *sim_bench_port(sim_bench *bench)
{
    return &bench->port;
}

void sim_bench_wire_engine(sim_bench *bench, drom_engine *engine)
{
    bench->engine = engine;
}

sim_relay *sim_bench_wire_relay(sim_bench *bench, uint8_t pin, bool is_active_low)
{
    sim_relay *const relay = g_new0(sim_relay, 1);
    relay->pin = pin;
    relay->is_active_low = is_active_low;
    g_ptr_array_add(bench->relays, relay);
    return relay;
}

void sim_bench_watch(sim_bench *bench, const sim_watch *watch)
{
    bench->watch = *watch;
}

void sim_bench_add_edge(sim_bench *bench, uint64_t at_us, bool is_mark)
{
    at_us = MAX(at_us, bench->now_us);
    const sim_edge edge = {.at_us = at_us, .order = bench->edges->len, .is_mark = is_mark};
    if (bench->edges->len > 0) {
        const sim_edge *const last = &g_array_index(bench->edges, sim_edge, bench->edges->len - 1);
        bench->is_sorted &= last->at_us <= at_us;
    }
    g_array_append_val(bench->edges, edge);
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
    const unsigned least = MAX(press->frames != 0 ? press->frames : waveform->least_frames, 1);
    drom_encoder encoder;
    if (press->at_us < bench->now_us || !(scale > 0.1) ||
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
    for (unsigned i = 0; i < least || (press->frames == 0 && at_us <= until_us); i++) {
        const drom_part_of_press part = i == 0 ? DROM_SEND_FIRST : DROM_SEND_REPEAT;
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
        int most_marks;  /* in a burst */
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
        const int marks = 1 + (int)(sim_random_next(random) % (uint64_t)kinds[kind].most_marks);
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

uint64_t sim_bench_now(const sim_bench *bench)
{
    return bench->now_us;
}

/* The line is in a mark as long as anybody sends one. */
static void deliver_edge(sim_bench *bench, const sim_edge *edge)
{
    const bool was_mark = bench->marks > 0;
    bench->marks += edge->is_mark ? 1 : -1;
    if (bench->engine != NULL && (bench->marks > 0) != was_mark) {
        drom_engine_edge(bench->engine, port_now(bench), bench->marks > 0);
    }
    bench->next_edge++;
}

static sim_relay *next_relay(const sim_bench *bench)
{
    sim_relay *next = NULL;
    for (guint i = 0; i < bench->relays->len; i++) {
        sim_relay *const relay = g_ptr_array_index(bench->relays, i);
        if (next == NULL || sim_relay_next(relay) < sim_relay_next(next)) {
            next = relay;
        }
    }
    return next;
}

bool sim_bench_sleep(sim_bench *bench, drom_us wait)
{
    const uint64_t wake_at = wait == DROM_NEVER ? UINT64_MAX : bench->now_us + wait;
    for (;;) {
        size_t edges = 0;
        const sim_edge *const edge = sim_bench_edges(bench, &edges);
        sim_relay *const relay = next_relay(bench);
        const uint64_t edge_at = edge != NULL ? edge->at_us : UINT64_MAX;
        const uint64_t relay_at = relay != NULL ? sim_relay_next(relay) : UINT64_MAX;
        const uint64_t next_at = MIN(MIN(edge_at, relay_at), wake_at);
        if (next_at == UINT64_MAX) {
            return false;
        }
        bench->now_us = MAX(bench->now_us, next_at);
        if (edge_at == next_at) {
            deliver_edge(bench, edge);
            return true;
        }
        if (relay_at != next_at) {
            return true;
        }
        sim_relay_change(relay);
        if (bench->watch.contact != NULL) {
            bench->watch.contact(bench->watch.context, bench->now_us, relay, relay->is_closed);
        }
    }
}
