/* Plays the baked theatre on the bench with two keys, and prints its pins' changes. Compiled for any plan,
 * and for this one alone, in which case the port has to be a constant. */
#include "lantern_plan.h"

#include "dromikos/dromikos.h"

#include "sim.h"

#include <stdio.h>

static void note_pin(void *context, uint64_t at_us, uint8_t pin, bool is_high)
{
    (void)context;
    if (pin == 4 || pin == 7) {
        (void)printf("%u %u %d\n", (unsigned)(at_us / 10000), pin, is_high);
    }
}

static sim_bench *bench;

#ifdef DROM_PLAN
static const drom_port *benches_port(void)
{
    return sim_bench_port(bench);
}

static drom_us now(void *context)
{
    (void)context;
    return benches_port()->clock->now(benches_port()->context);
}

static void write_pin(void *context, uint8_t pin, bool is_high)
{
    (void)context;
    benches_port()->pins->write(benches_port()->context, pin, is_high);
}

static void write_pwm(void *context, uint8_t pin, uint16_t duty)
{
    (void)context;
    benches_port()->pwm->write(benches_port()->context, pin, duty);
}

static uint32_t toggle_pin(void *context, uint8_t pin)
{
    (void)context;
    return benches_port()->edges->toggle(benches_port()->context, pin);
}

static uint32_t ready_carrier(void *context, uint8_t pin, uint8_t khz)
{
    (void)context;
    return benches_port()->edges->ready_carrier(benches_port()->context, pin, khz);
}

static void arm_alarm(void *context, const drom_timed_edges *timed_edges)
{
    (void)context;
    benches_port()->edges->arm(benches_port()->context, timed_edges);
}

static void stop_alarm(void *context)
{
    (void)context;
    benches_port()->edges->stop(benches_port()->context);
}

static void send_pixels(void *context, uint8_t pin, const uint8_t *bytes, uint16_t count)
{
    (void)context;
    benches_port()->pixels->begin(benches_port()->context, pin, bytes, count);
}

static const drom_port_clock the_clock = {.now = now};
static const drom_port_pins the_pins = {.write = write_pin};
static const drom_port_pwm the_pwm = {.write = write_pwm, .bits = 8};
static const drom_port_edges the_edges = {toggle_pin, ready_carrier, arm_alarm, stop_alarm};
static const drom_port_pixels the_pixels = {.begin = send_pixels, .can_slice = true};

const drom_port DROM_PORT = {
    .facts = {.stamp = DROM_STAMP_HARDWARE, .latency_us = 38, .pins = 20},
    .clock = &the_clock,
    .pins = &the_pins,
    .pwm = &the_pwm,
    .edges = &the_edges,
    .pixels = &the_pixels,
};
#endif

int main(void)
{
    static drom_engine engine;
    const drom_code play = {DROM_NEC, 0x21, 0x43};
    bench = sim_bench_new(1);
    sim_bench_observe(bench, &(sim_observer){.pin = note_pin});
#ifdef DROM_PLAN
    static const drom_plan other;
    if (drom_engine_start(&engine, &other, &DROM_PORT) != DROM_BAD_PLAN ||
        drom_engine_start(&engine, &lantern_plan, sim_bench_port(bench)) != DROM_BAD_PORT) {
        return 1;
    }
    const drom_status status = drom_engine_start(&engine, &lantern_plan, &DROM_PORT);
#else
    const drom_status status = drom_engine_init(&engine, &lantern_plan, sim_bench_port(bench), NULL);
#endif
    if (status != DROM_OK) {
        return 1;
    }
    sim_bench_wire_engine(bench, &engine);
    sim_bench_press_once(bench, &drom_nec_waveform, &play, 500000);
    while (sim_bench_now(bench) < 3000000 && sim_bench_sleep(bench, drom_engine_poll(&engine))) {
    }
    sim_bench_free(bench);
    return LANTERN_OUTPUT_BELL == 1 ? 0 : 1;
}
