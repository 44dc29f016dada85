/* Each machine has a moment at which it does something next; the earliest is the parts'. */
#include "bench.h"

#include <math.h>
#include <string.h>

static sim_parts *parts_of(void *context)
{
    return &sim_bench_called(context)->parts;
}

/* The world's next event may be another one. */
static void change_plans(sim_bench *bench)
{
    bench->is_world_known = false;
}

static void burst_begin(void *context, uint8_t pin, uint8_t khz, drom_burst_next *next, void *from)
{
    sim_bench *const bench = sim_bench_called(context);
    g_array_set_size(bench->parts.runs, 0);
    for (uint16_t us = next(from); us != 0; us = next(from)) {
        g_array_append_val(bench->parts.runs, us);
    }
    bench->carrier_pin = pin;
    bench->carrier_khz = khz;
    bench->is_output[pin] = true;
    bench->parts.next_run = 0;
    bench->parts.run_ends_us = bench->now_us;
    change_plans(bench);
}

static bool burst_is_busy(void *context)
{
    return !isinf(parts_of(context)->run_ends_us);
}

static void burst_stop(void *context)
{
    sim_bench *const bench = sim_bench_called(context);
    bench->parts.run_ends_us = INFINITY;
    if (bench->is_carrier_on) {
        sim_bench_set_carrier(bench, false);
    }
    change_plans(bench);
}

const drom_port_burst sim_burst = {.begin = burst_begin, .is_busy = burst_is_busy, .stop = burst_stop};

static void go_on_with_burst(sim_bench *bench)
{
    sim_parts *const parts = &bench->parts;
    const bool is_over = parts->next_run == parts->runs->len;
    sim_bench_set_carrier(bench, !is_over && parts->next_run % 2 == 0);
    parts->run_ends_us =
        is_over ? INFINITY : parts->run_ends_us + g_array_index(parts->runs, uint16_t, parts->next_run);
    parts->next_run++;
}

bool sim_bench_is_sending(void *context, uint8_t pin)
{
    const sim_parts *const parts = parts_of(context);
    return !isinf(parts->pixels_end_us) && parts->pixel_pin == pin;
}

void sim_bench_begin_apart(sim_bench *bench, uint8_t pin, const uint8_t *bytes, uint16_t count)
{
    static const double byte_us = 10;
    bench->parts.pixels = bytes;
    bench->parts.pixel_bytes = count;
    bench->parts.pixel_pin = pin;
    bench->parts.pixels_end_us = bench->now_us + count * byte_us;
    change_plans(bench);
}

static bool bytes_open(void *context, uint8_t line, drom_line *rings, uint32_t baud)
{
    sim_parts *const parts = parts_of(context);
    if (line >= SIM_LINES || baud < 300 || baud > 1000000) {
        return false;
    }
    parts->ends[line] = (sim_end){.rings = rings, .byte_us = 1e7 / baud, .done_us = INFINITY};
    return true;
}

static void bytes_send(void *context, uint8_t line)
{
    sim_bench *const bench = context;
    sim_end *const end = &bench->parts.ends[line];
    if (isinf(end->done_us) && drom_bytes_take(&end->rings->out, &end->going)) {
        end->done_us = bench->now_us + end->byte_us;
        change_plans(bench);
    }
}

/* A byte has gone over a line: the handlers of both ends run. */
static void pass_byte(sim_bench *bench, uint8_t line)
{
    sim_end *const end = &bench->parts.ends[line];
    drom_line *const other = bench->parts.ends[1 - line].rings;
    end->done_us = INFINITY;
    if (other != NULL && !drom_bytes_put(&other->in, end->going)) {
        other->has_lost = true;
    }
    bytes_send(bench, line);
}

static bool hid_is_ready(void *context)
{
    const sim_parts *const parts = parts_of(context);
    return parts->is_listening && parts->is_attached;
}

static bool hid_send(void *context, const uint8_t *report, uint8_t count)
{
    static const double frame_us = 1000; /* a report each ms */
    sim_bench *const bench = sim_bench_called(context);
    sim_report taken = {.at_us = (uint64_t)bench->now_us, .count = count};
    if (!hid_is_ready(context) || bench->now_us < bench->parts.report_ends_us || count > sizeof taken.bytes) {
        return false;
    }
    memcpy(taken.bytes, report, count);
    g_array_append_val(bench->parts.reports, taken);
    bench->parts.report_ends_us = bench->now_us + frame_us;
    return true;
}

static void hid_attach(void *context)
{
    sim_bench_called(context)->parts.is_attached = true;
}

/* The computer lets all keys go: as if empty reports had come. */
static void add_empty(sim_bench *bench)
{
    const uint8_t counts[] = {8, 2};
    for (unsigned i = 0; i < G_N_ELEMENTS(counts); i++) {
        const sim_report empty = {.at_us = (uint64_t)bench->now_us, .count = counts[i]};
        g_array_append_val(bench->parts.reports, empty);
    }
}

static void leave_bus(sim_bench *bench)
{
    bench->parts.is_attached = false;
    add_empty(bench); /* where it sleeps, once it is awake */
}

static void hid_detach(void *context)
{
    leave_bus(sim_bench_called(context));
}

void sim_bench_set_computer(sim_bench *bench, bool is_listening)
{
    bench->parts.is_listening = is_listening;
}

void sim_bench_unplug(sim_bench *bench)
{
    bench->parts.is_listening = false;
    add_empty(bench);
}

const sim_report *sim_bench_reports(const sim_bench *bench, size_t *count)
{
    *count = bench->parts.reports->len;
    return (const sim_report *)(void *)bench->parts.reports->data;
}

static void store_read(void *context, uint16_t at, uint8_t *bytes, uint8_t count)
{
    const sim_parts *const parts = parts_of(context);
    for (uint8_t i = 0; i < count; i++) {
        bytes[i] = parts->stored[(at + i) % SIM_STORE_BYTES];
    }
}

/* Begins a change of `bytes` bytes, which takes a while. */
static void store_begin(sim_bench *bench, uint16_t at, uint8_t count, double us)
{
    sim_parts *const parts = &bench->parts;
    parts->storing_at = at;
    parts->storing_count = count;
    memcpy(parts->before, &parts->stored[at], count);
    parts->stored_us = bench->now_us + us;
}

static void store_erase(void *context, uint16_t at)
{
    static const double erase_us = 4000;
    sim_bench *const bench = sim_bench_called(context);
    const uint16_t page = (uint16_t)(at % SIM_STORE_BYTES / SIM_PAGE_BYTES * SIM_PAGE_BYTES);
    store_begin(bench, page, SIM_PAGE_BYTES, erase_us);
    memset(&bench->parts.stored[page], 0xff, SIM_PAGE_BYTES);
}

static void store_program(void *context, uint16_t at, const uint8_t *bytes, uint8_t count)
{
    static const double byte_us = 50;
    sim_bench *const bench = sim_bench_called(context);
    const uint16_t from = (uint16_t)(at % SIM_STORE_BYTES);
    const uint8_t fits = (uint8_t)MIN(count, SIM_PAGE_BYTES - from % SIM_PAGE_BYTES);
    store_begin(bench, from, fits, fits * byte_us);
    for (uint8_t i = 0; i < fits; i++) {
        bench->parts.stored[from + i] &= bytes[i];
    }
}

static bool store_is_busy(void *context)
{
    const sim_bench *const bench = sim_bench_called(context);
    return bench->now_us < bench->parts.stored_us;
}

void sim_bench_cut_power(sim_bench *bench)
{
    sim_parts *const parts = &bench->parts;
    if (bench->now_us <
        parts->stored_us) { /* half of the bits are as they were, and half as they were to be */
        for (uint8_t i = 0; i < parts->storing_count; i++) {
            const uint8_t mask = (uint8_t)sim_random_between(&bench->random, 0, 256);
            uint8_t *const byte = &parts->stored[parts->storing_at + i];
            *byte = (uint8_t)((*byte & mask) | (parts->before[i] & ~mask));
        }
    }
    parts->stored_us = 0;
}

static void guard_start(void *context, uint16_t ms, const drom_rest_pin *image, uint8_t count)
{
    sim_bench *const bench = sim_bench_called(context);
    bench->parts.image = image;
    bench->parts.image_count = count;
    bench->parts.has_acted = false;
    bench->parts.guard_us = ms * 1000.0;
    bench->parts.guard_due_us = bench->now_us + bench->parts.guard_us;
    change_plans(bench);
}

static void guard_feed(void *context)
{
    sim_bench *const bench = sim_bench_called(context);
    if (bench->parts.guard_us > 0) {
        bench->parts.guard_due_us = bench->now_us + bench->parts.guard_us;
        change_plans(bench);
    }
}

static void act_as_guard(sim_bench *bench)
{
    for (uint8_t i = 0; i < bench->parts.image_count; i++) {
        const drom_rest_pin *const pin = &bench->parts.image[i];
        sim_bench_set_pin(bench, pin->pin, pin->is_high);
        if (bench->duty[pin->pin] > 0) {
            sim_bench_set_duty(bench, pin->pin, pin->is_high ? UINT16_MAX : 0);
        }
    }
    if (bench->parts.is_attached) {
        leave_bus(bench);
    }
    bench->parts.has_acted = true;
    bench->parts.guard_us = 0;
    bench->parts.guard_due_us = INFINITY;
}

static bool guard_has_acted(void *context)
{
    return sim_bench_called(context)->parts.has_acted;
}

static void guard_stop(void *context)
{
    sim_bench *const bench = sim_bench_called(context);
    bench->parts.has_acted = false;
    bench->parts.guard_us = 0;
    bench->parts.guard_due_us = INFINITY;
    change_plans(bench);
}

static const drom_port_hid the_hid = {
    .send = hid_send, .is_ready = hid_is_ready, .attach = hid_attach, .detach = hid_detach};
static const drom_port_bytes the_bytes = {.open = bytes_open, .send = bytes_send};
static const drom_port_store the_store = {.read = store_read,
                                          .erase = store_erase,
                                          .program = store_program,
                                          .is_busy = store_is_busy,
                                          .bytes = SIM_STORE_BYTES,
                                          .page_bytes = SIM_PAGE_BYTES};
static const drom_port_guard the_guard = {
    .start = guard_start, .feed = guard_feed, .has_acted = guard_has_acted, .stop = guard_stop};

void sim_parts_wire(sim_bench *bench)
{
    sim_parts *const parts = &bench->parts;
    parts->runs = g_array_new(FALSE, FALSE, sizeof(uint16_t));
    parts->reports = g_array_new(FALSE, FALSE, sizeof(sim_report));
    parts->run_ends_us = INFINITY;
    parts->pixels_end_us = INFINITY;
    parts->guard_due_us = INFINITY;
    for (unsigned i = 0; i < SIM_LINES; i++) {
        parts->ends[i].done_us = INFINITY;
    }
    memset(parts->stored, 0xff, sizeof parts->stored);
    bench->port.hid = &the_hid;
    bench->port.bytes = &the_bytes;
    bench->port.store = &the_store;
    bench->port.guard = &the_guard;
}

void sim_parts_free(sim_bench *bench)
{
    g_array_free(bench->parts.runs, TRUE);
    g_array_free(bench->parts.reports, TRUE);
}

double sim_parts_due(const sim_bench *bench)
{
    const sim_parts *const parts = &bench->parts;
    double due = MIN(MIN(parts->run_ends_us, parts->pixels_end_us), parts->guard_due_us);
    for (unsigned i = 0; i < SIM_LINES; i++) {
        due = MIN(due, parts->ends[i].done_us);
    }
    return due;
}

void sim_parts_change(sim_bench *bench)
{
    sim_parts *const parts = &bench->parts;
    const double due_us = sim_parts_due(bench);
    change_plans(bench);
    if (parts->run_ends_us <= due_us) {
        go_on_with_burst(bench);
    } else if (parts->pixels_end_us <= due_us) {
        parts->pixels_end_us = INFINITY;
        sim_bench_end_apart(bench, parts->pixel_pin, parts->pixels, parts->pixel_bytes);
    } else if (parts->guard_due_us <= due_us) {
        act_as_guard(bench);
    } else {
        pass_byte(bench, parts->ends[0].done_us <= due_us ? 0 : 1);
    }
}
