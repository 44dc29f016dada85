/* Virtual time, and a processor that is not always there: interrupts wait while they are masked, while
 * another handler runs, and for the latency; what comes meanwhile merges into one flag. Main's own code takes
 * no time except the configured cost of a poll, and pixels. */
#include "bench.h"

#include <math.h>
#include <string.h>

enum { CARRIER_BIT = 31, PINS = 255 };

static drom_us clock_of(const sim_bench *bench, double at_us)
{
    return bench->clock_start + (drom_us)(uint64_t)at_us;
}

sim_bench *sim_bench_called(void *context)
{
    sim_bench *const bench = context;
    if (bench->processor.call_us > 0) {
        (void)sim_bench_pass(bench, bench->now_us + bench->processor.call_us, false);
    }
    return bench;
}

static drom_us port_now(void *context)
{
    const sim_bench *const bench = sim_bench_called(context);
    return clock_of(bench, bench->now_us);
}

static void port_write_pin(void *context, uint8_t pin, bool is_high)
{
    sim_bench_set_pin(sim_bench_called(context), pin, is_high);
}

static void port_write_pwm(void *context, uint8_t pin, uint16_t duty)
{
    sim_bench_set_duty(sim_bench_called(context), pin, duty);
}

/* A timed edge has a bit for each pin that it was ever asked for. */
static uint32_t port_toggle_pin(void *context, uint8_t pin)
{
    sim_bench *const bench = sim_bench_called(context);
    unsigned bit = 0;
    while (bit < bench->toggled_count && bench->toggled[bit] != pin) {
        bit++;
    }
    if (bit == SIM_MAX_TOGGLED) {
        return 0;
    }
    bench->toggled[bit] = pin;
    bench->toggled_count = MAX(bench->toggled_count, bit + 1);
    return UINT32_C(1) << bit;
}

static bool port_read_pin(void *context, uint8_t pin)
{
    const sim_bench *const bench = sim_bench_called(context);
    return bench->is_output[pin] ? bench->is_high[pin] : !bench->is_closed[pin];
}

/* A machine that measures intervals gives each some time after its end. */
static void measure(sim_bench *bench, bool is_mark)
{
    const sim_interval ended = {
        .end_us = floor(bench->now_us), .from_us = bench->line_from_us, .is_mark = !is_mark};
    g_array_append_val(bench->measured, ended);
    bench->line_from_us = floor(bench->now_us);
}

static double interval_due(const sim_bench *bench)
{
    return bench->given < bench->measured->len
               ? g_array_index(bench->measured, sim_interval, bench->given).end_us +
                     bench->processor.interval_late_us
               : INFINITY;
}

static void give_interval(sim_bench *bench)
{
    const sim_interval *const next = &g_array_index(bench->measured, sim_interval, bench->given++);
#if DROM_WITH_INTERVALS
    if (bench->engine != NULL) {
        drom_engine_interval(bench->engine, clock_of(bench, next->end_us),
                             (drom_us)(next->end_us - next->from_us), next->is_mark);
    }
#else
    (void)next;
#endif
}

static bool port_line_is_active(void *context)
{
    enum { WITHIN_US = 12000 };
    const sim_bench *const bench = context;
    return bench->is_mark || (bench->line_from_us > 0 && bench->now_us - bench->line_from_us < WITHIN_US);
}

/* The line is in a mark as long as anybody sends one. */
static void update_line(sim_bench *bench)
{
    const bool is_mark = bench->marks > 0 || (bench->is_hearing_itself && bench->is_carrier_on);
    if (is_mark == bench->is_mark) {
        return;
    }
    bench->is_mark = is_mark;
    bench->spoken_us = is_mark ? bench->spoken_us : bench->now_us;
    if (bench->processor.interval_late_us > 0) {
        measure(bench, is_mark);
        return;
    }
    if (bench->has_edge) {
        bench->load.merged++;
        return;
    }
    bench->has_edge = true;
    bench->edge_is_mark = is_mark;
    bench->edge_at_us = bench->now_us;
}

/* Each target receives its own LED, and the handsets too where it is configured to. */
static void show_light(sim_bench *bench)
{
    const bool is_handset = bench->is_handset_in_sight && bench->marks > 0;
    bench->is_world_known = false;
    for (guint i = 0; i < bench->targets->len; i++) {
        sim_target *const target = g_ptr_array_index(bench->targets, i);
        const bool is_own = bench->is_carrier_on && target->pin == bench->carrier_pin;
        sim_target_light(target, bench->now_us, is_own, is_handset);
    }
}

void sim_bench_set_carrier(sim_bench *bench, bool is_on)
{
    bench->is_carrier_on = is_on;
    show_light(bench);
    update_line(bench);
}

static uint32_t port_ready_carrier(void *context, uint8_t pin, uint8_t khz)
{
    sim_bench *const bench = sim_bench_called(context);
    if (bench->is_carrier_on) {
        sim_bench_set_carrier(bench, false);
    }
    bench->carrier_pin = pin;
    bench->carrier_khz = khz;
    bench->is_output[pin] = true;
    return UINT32_C(1) << CARRIER_BIT;
}

static void arm_alarm(sim_bench *bench, const drom_timed_edges *timed_edges)
{
    if (!bench->is_armed && !drom_timed_edges_are_empty(timed_edges)) {
        const uint16_t now = (uint16_t)clock_of(bench, bench->now_us);
        bench->alarm_at_us =
            floor(bench->now_us) + (int16_t)(uint16_t)(drom_timed_edges_first(timed_edges)->at - now);
        bench->is_armed = true;
    }
}

static void port_arm_alarm(void *context, const drom_timed_edges *timed_edges)
{
    arm_alarm(sim_bench_called(context), timed_edges);
}

static void port_stop_alarm(void *context)
{
    sim_bench_called(context)->is_armed = false;
}

static void run_handler(sim_bench *bench, double us)
{
    bench->busy_until_us = bench->now_us + us;
    bench->load.handlers_us += us;
}

static void serve_alarm(sim_bench *bench)
{
    drom_timed_edges *const timed_edges = &bench->engine->timing.timed_edges;
    const uint32_t toggles =
        drom_timed_edges_are_empty(timed_edges) ? 0 : drom_timed_edges_first(timed_edges)->toggles;
    run_handler(bench, bench->processor.alarm_us);
    if (!drom_timed_edges_are_empty(timed_edges)) {
        drom_timed_edges_take(timed_edges);
    }
    bench->is_armed = false;
    arm_alarm(bench, timed_edges);
    for (unsigned bit = 0; bit < bench->toggled_count; bit++) {
        if ((toggles & UINT32_C(1) << bit) != 0) {
            sim_bench_set_pin(bench, bench->toggled[bit], !bench->is_high[bench->toggled[bit]]);
        }
    }
    if ((toggles & UINT32_C(1) << CARRIER_BIT) != 0) {
        sim_bench_set_carrier(bench, !bench->is_carrier_on);
    }
}

/* True when the engine got an edge. */
static bool serve_capture(sim_bench *bench)
{
    const bool is_latched = bench->processor.stamp == DROM_STAMP_HARDWARE;
    const bool is_over = bench->edge_is_mark != bench->is_mark; /* it was shorter than the time until here */
    run_handler(bench, bench->processor.capture_us);
    bench->has_edge = false;
    if (is_over && bench->processor.stamp != DROM_STAMP_INTERRUPT) {
        return false;
    }
    if (bench->engine != NULL) {
        const drom_ring *const ring = &bench->engine->input.ring;
        bench->load.overrun += (uint8_t)(ring->head - ring->tail) >= DROM_EDGES;
        drom_engine_edge(bench->engine, clock_of(bench, is_latched ? bench->edge_at_us : bench->now_us),
                         bench->is_mark);
    }
    return bench->engine != NULL;
}

/* When the handler of an edge begins, were interrupts open. */
static double capture_due(const sim_bench *bench)
{
    if (!bench->has_edge) {
        return INFINITY;
    }
    const double look_us = bench->processor.look_us;
    const bool is_polled = bench->processor.stamp == DROM_STAMP_POLLING && look_us > 0;
    const double seen_us = is_polled ? ceil(bench->edge_at_us / look_us) * look_us : bench->edge_at_us;
    return MAX(seen_us + bench->processor.latency_us, MAX(bench->busy_until_us, bench->masked_until_us));
}

static double alarm_due(const sim_bench *bench)
{
    return bench->is_armed ? MAX(bench->alarm_at_us + bench->processor.latency_us,
                                 MAX(bench->busy_until_us, bench->masked_until_us))
                           : INFINITY;
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

static double relay_due(const sim_bench *bench)
{
    const sim_relay *const relay = next_relay(bench);
    return relay != NULL && sim_relay_next(relay) != UINT64_MAX ? (double)sim_relay_next(relay) : INFINITY;
}

/* The target that is the next to know that a burst is over; NULL: none is waiting. */
static sim_target *next_target(const sim_bench *bench)
{
    sim_target *next = NULL;
    for (guint i = 0; i < bench->targets->len; i++) {
        sim_target *const target = g_ptr_array_index(bench->targets, i);
        if (!isinf(sim_target_due(target)) &&
            (next == NULL || sim_target_due(target) < sim_target_due(next))) {
            next = target;
        }
    }
    return next;
}

static double target_due(const sim_bench *bench)
{
    const sim_target *const target = next_target(bench);
    return target != NULL ? sim_target_due(target) : INFINITY;
}

/* Likewise the strip that is the next to show what it was sent. */
static sim_strip *next_strip(const sim_bench *bench)
{
    sim_strip *next = NULL;
    for (guint i = 0; i < bench->strips->len; i++) {
        sim_strip *const strip = g_ptr_array_index(bench->strips, i);
        if (!isinf(sim_strip_due(strip)) && (next == NULL || sim_strip_due(strip) < sim_strip_due(next))) {
            next = strip;
        }
    }
    return next;
}

static double strip_due(const sim_bench *bench)
{
    const sim_strip *const strip = next_strip(bench);
    return strip != NULL ? sim_strip_due(strip) : INFINITY;
}

static double line_due(sim_bench *bench)
{
    size_t edges = 0;
    const sim_edge *const edge = sim_bench_edges(bench, &edges);
    return edge != NULL ? (double)edge->at_us : INFINITY;
}

static double mask_due(const sim_bench *bench)
{
    return bench->next_mask < bench->masks->len
               ? g_array_index(bench->masks, sim_mask, bench->next_mask).at_us
               : INFINITY;
}

void sim_bench_mask(sim_bench *bench, uint64_t at_us, double for_us)
{
    const sim_mask mask = {(double)at_us, for_us};
    g_array_append_val(bench->masks, mask);
    bench->is_world_known = false;
}

/* What the world does by itself. Strips change often, and the rest of it seldom. */
static double world_due(sim_bench *bench)
{
    if (!bench->is_world_known) {
        bench->world_us =
            MIN(MIN(MIN(line_due(bench), mask_due(bench)), MIN(relay_due(bench), target_due(bench))),
                MIN(sim_parts_due(bench), sim_contacts_due(bench)));
        bench->is_world_known = true;
    }
    if (!bench->are_strips_known) {
        bench->strips_us = strip_due(bench);
        bench->are_strips_known = true;
    }
    return MIN(bench->world_us, bench->strips_us);
}

double sim_bench_next_event(sim_bench *bench)
{
    return MIN(MIN(world_due(bench), interval_due(bench)), MIN(capture_due(bench), alarm_due(bench)));
}

static void change_world(sim_bench *bench, double at_us)
{
    const bool is_strip = strip_due(bench) <= at_us;
    bench->is_world_known &= is_strip;
    bench->are_strips_known = false;
    if (is_strip) {
        sim_strip *const strip = next_strip(bench);
        sim_strip_show(strip);
        if (bench->observer.refresh != NULL) {
            bench->observer.refresh(bench->observer.context, (uint64_t)bench->now_us, strip);
        }
    } else if (mask_due(bench) <= at_us) {
        const sim_mask *const mask = &g_array_index(bench->masks, sim_mask, bench->next_mask++);
        const double until_us = mask->at_us + mask->for_us;
        bench->load.masked_us += MAX(until_us - MAX(bench->masked_until_us, mask->at_us), 0);
        bench->masked_until_us = MAX(bench->masked_until_us, until_us);
        bench->load.longest_masked_us = MAX(bench->load.longest_masked_us, mask->for_us);
    } else if (sim_contacts_due(bench) <= at_us) {
        sim_contacts_change(bench);
    } else if (line_due(bench) <= at_us) {
        size_t edges = 0;
        bench->marks += sim_bench_edges(bench, &edges)->is_mark ? 1 : -1;
        bench->next_edge++;
        if (bench->is_handset_in_sight) {
            show_light(bench);
        }
        update_line(bench);
    } else if (sim_parts_due(bench) <= at_us) {
        sim_parts_change(bench);
    } else if (relay_due(bench) <= at_us) {
        sim_relay *const relay = next_relay(bench);
        sim_relay_change(relay);
        if (bench->observer.contact != NULL) {
            bench->observer.contact(bench->observer.context, (uint64_t)bench->now_us, relay,
                                    relay->is_closed);
        }
    } else {
        sim_target *const target = next_target(bench);
        if (sim_target_settle(target, bench->now_us) && bench->observer.burst != NULL) {
            bench->observer.burst(bench->observer.context, (uint64_t)bench->now_us, target);
        }
    }
}

bool sim_bench_pass(sim_bench *bench, double until_us, bool until_edge)
{
    for (;;) {
        const double world = world_due(bench);
        const double capture = bench->is_masked ? INFINITY : capture_due(bench);
        const double alarm = bench->is_masked ? INFINITY : alarm_due(bench);
        const double interval = interval_due(bench);
        const double next = MIN(MIN(world, interval), MIN(capture, alarm));
        if (next > until_us || isinf(next)) {
            bench->now_us = isinf(until_us) ? bench->now_us : MAX(bench->now_us, until_us);
            return true;
        }
        bench->now_us = MAX(bench->now_us, next);
        if (world <= next) {
            change_world(bench, next);
        } else if (interval <= next) {
            give_interval(bench);
            if (until_edge) {
                return false;
            }
        } else if (alarm < capture) {
            serve_alarm(bench);
        } else if (serve_capture(bench) && until_edge) {
            return false;
        }
    }
}

void sim_bench_let_one_in(sim_bench *bench, double for_us)
{
    if (capture_due(bench) <= bench->now_us) {
        (void)serve_capture(bench);
    } else if (alarm_due(bench) <= bench->now_us) {
        serve_alarm(bench);
    }
    bench->is_masked = true;
    (void)sim_bench_pass(bench, MAX(bench->now_us, bench->busy_until_us) + for_us, false);
}

static const drom_port_clock the_clock = {.now = port_now};
static const drom_port_pins the_pins = {.write = port_write_pin, .read = port_read_pin};
static const drom_port_edges the_edges = {.toggle = port_toggle_pin,
                                          .ready_carrier = port_ready_carrier,
                                          .arm = port_arm_alarm,
                                          .stop = port_stop_alarm};

sim_bench *sim_bench_new(uint64_t seed)
{
    sim_bench *const bench = g_new0(sim_bench, 1);
    bench->port = (drom_port){
        .context = bench,
        .clock = &the_clock,
        .pins = &the_pins,
        .pwm = &bench->pwm,
        .edges = &the_edges,
        .pixels = &bench->pixels,
    };
    sim_parts_wire(bench);
    sim_bench_set_processor(bench, &(sim_processor){0});
    bench->random.state = seed;
    bench->edges = g_array_new(FALSE, FALSE, sizeof(sim_edge));
    bench->masks = g_array_new(FALSE, FALSE, sizeof(sim_mask));
    bench->touches = g_array_new(FALSE, FALSE, sizeof(sim_touch));
    bench->measured = g_array_new(FALSE, FALSE, sizeof(sim_interval));
    bench->relays = g_ptr_array_new_with_free_func(g_free);
    bench->steppers = g_ptr_array_new_with_free_func(g_free);
    bench->motors = g_ptr_array_new_with_free_func(g_free);
    bench->strips = g_ptr_array_new_with_free_func(g_free);
    bench->targets = g_ptr_array_new_with_free_func(g_free);
    bench->is_sorted = true;
    return bench;
}

void sim_bench_set_processor(sim_bench *bench, const sim_processor *processor)
{
    bench->processor = *processor;
    bench->port.facts = (drom_port_facts){
        .stamp = processor->stamp,
        .latency_us = (uint16_t)ceil(processor->latency_us + processor->capture_us + processor->alarm_us),
        .pins = PINS,
    };
    bench->pwm =
        (drom_port_pwm){.write = port_write_pwm, .bits = processor->pwm_bits != 0 ? processor->pwm_bits : 16};
    bench->pixels = (drom_port_pixels){
        .begin = sim_bench_send_pixels,
        .is_busy = processor->pixels == SIM_PIXELS_BY_HARDWARE ? sim_bench_is_sending : NULL,
        .can_slice = processor->pixels != SIM_PIXELS_MASKED};
    bench->intervals = (drom_port_intervals){.line_is_active = port_line_is_active,
                                             .late_us = (drom_us)processor->interval_late_us};
    bench->port.intervals = processor->interval_late_us > 0 ? &bench->intervals : NULL;
    bench->port.burst = processor->has_burst ? &sim_burst : NULL;
}

void sim_bench_play_every_bit(sim_bench *bench, bool plays)
{
    bench->plays_every_bit = plays;
}

sim_load sim_bench_load(const sim_bench *bench)
{
    return bench->load;
}

void sim_bench_hear_itself(sim_bench *bench, bool is_hearing)
{
    bench->is_hearing_itself = is_hearing;
}

void sim_bench_show_handset(sim_bench *bench, bool is_in_sight)
{
    bench->is_handset_in_sight = is_in_sight;
}
