/* The bench: what is on it, and what happens to a pin. */
#include "bench.h"

#include <math.h>

static void free_all(GPtrArray *devices)
{
    g_ptr_array_free(devices, TRUE);
}

void sim_bench_free(sim_bench *bench)
{
    if (bench != NULL) {
        g_array_free(bench->edges, TRUE);
        g_array_free(bench->masks, TRUE);
        g_array_free(bench->touches, TRUE);
        g_array_free(bench->measured, TRUE);
        sim_parts_free(bench);
        free_all(bench->relays);
        free_all(bench->steppers);
        free_all(bench->motors);
        free_all(bench->strips);
        for (guint i = 0; i < bench->targets->len; i++) {
            sim_appliance_free(((sim_target *)g_ptr_array_index(bench->targets, i))->appliance);
        }
        free_all(bench->targets);
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

sim_stepper *sim_bench_wire_stepper(sim_bench *bench, const uint8_t pins[4], double max_steps_s)
{
    sim_stepper *const stepper = g_new0(sim_stepper, 1);
    for (unsigned i = 0; i < 4; i++) {
        stepper->pins[i] = pins[i];
    }
    stepper->bench = bench;
    stepper->phase = -1;
    stepper->stepped_at_us = -1e9;
    stepper->rotor_at_us = -1e9;
    stepper->max_steps_s = max_steps_s;
    stepper->max_steps_s2 = max_steps_s * 8;
    /* A slow one has its first step by that acceleration alone; 0.676 is what a step counts from standing. */
    stepper->start_steps_s = MAX(max_steps_s / 4, sqrt(stepper->max_steps_s2 / 2) / 0.676);
    g_ptr_array_add(bench->steppers, stepper);
    return stepper;
}

sim_motor *sim_bench_wire_motor(sim_bench *bench, uint8_t forward, uint8_t back, uint8_t speed)
{
    sim_motor *const motor = g_new0(sim_motor, 1);
    motor->bench = bench;
    motor->pins[0] = forward;
    motor->pins[1] = back;
    motor->pins[2] = speed;
    sim_motor_init(motor, bench->now_us);
    g_ptr_array_add(bench->motors, motor);
    return motor;
}

sim_motion sim_motor_motion(const sim_motor *motor)
{
    sim_motor now = *motor;
    sim_motor_pass(&now, motor->bench->now_us);
    return now.motion;
}

void sim_motor_block(sim_motor *motor, bool is_blocked)
{
    sim_motor_pass(motor, motor->bench->now_us);
    motor->is_blocked = is_blocked;
}

void sim_stepper_set_home(sim_stepper *stepper, uint8_t pin, long home)
{
    stepper->home_pin = pin;
    stepper->home = home;
    stepper->has_home = true;
    sim_bench_close(stepper->bench, pin, stepper->position <= home);
}

long sim_stepper_home(const sim_stepper *stepper)
{
    return stepper->home;
}

long sim_stepper_position(const sim_stepper *stepper)
{
    return stepper->position;
}

unsigned sim_stepper_lost(const sim_stepper *stepper)
{
    return stepper->lost;
}

sim_strip *sim_bench_wire_strip(sim_bench *bench, uint8_t pin, unsigned count, double latch_us)
{
    sim_strip *const strip = g_new0(sim_strip, 1);
    strip->pin = pin;
    strip->count = count;
    strip->latch_us = latch_us;
    g_ptr_array_add(bench->strips, strip);
    return strip;
}

sim_strip *sim_bench_strip_on(const sim_bench *bench, uint8_t pin)
{
    for (guint i = 0; i < bench->strips->len; i++) {
        sim_strip *const strip = g_ptr_array_index(bench->strips, i);
        if (strip->pin == pin) {
            return strip;
        }
    }
    return NULL;
}

const uint8_t *sim_strip_pixel(const sim_strip *strip, unsigned pixel)
{
    return &strip->shown[pixel * (size_t)3];
}

unsigned sim_strip_refreshes(const sim_strip *strip)
{
    return strip->refreshes;
}

unsigned sim_strip_wrong(const sim_strip *strip)
{
    return strip->wrong;
}

double sim_strip_longest_gap_us(const sim_strip *strip)
{
    return strip->longest_gap_us;
}

sim_target *sim_bench_wire_target(sim_bench *bench, uint8_t pin)
{
    sim_target *const target = g_new0(sim_target, 1);
    target->pin = pin;
    g_ptr_array_add(bench->targets, target);
    return target;
}

void sim_target_follow(sim_target *target, void (*light)(void *context, uint64_t at_us, bool is_on),
                       void *context)
{
    target->light = light;
    target->context = context;
}

unsigned sim_target_frames(const sim_target *target)
{
    return target->frames;
}

unsigned sim_target_unknown(const sim_target *target)
{
    return target->unknown;
}

const char *sim_target_heard(const sim_target *target)
{
    return target->heard;
}

void sim_bench_observe(sim_bench *bench, const sim_observer *observer)
{
    bench->observer = *observer;
}

static void drive_motors(sim_bench *bench, uint8_t pin, uint16_t duty)
{
    for (guint i = 0; i < bench->motors->len; i++) {
        sim_motor_drive(g_ptr_array_index(bench->motors, i), bench->now_us, pin, duty);
    }
}

void sim_bench_set_pin(sim_bench *bench, uint8_t pin, bool is_high)
{
    if (bench->is_output[pin] && bench->is_high[pin] == is_high) {
        return;
    }
    bench->is_output[pin] = true;
    bench->is_high[pin] = is_high;
    bench->is_world_known = false; /* a relay may be on its way */
    if (bench->observer.pin != NULL) {
        bench->observer.pin(bench->observer.context, (uint64_t)bench->now_us, pin, is_high);
    }
    for (guint i = 0; i < bench->relays->len; i++) {
        sim_relay *const relay = g_ptr_array_index(bench->relays, i);
        if (relay->pin == pin) {
            sim_relay_drive(relay, &bench->random, (uint64_t)bench->now_us, is_high);
        }
    }
    for (guint i = 0; i < bench->steppers->len; i++) {
        sim_stepper_drive(g_ptr_array_index(bench->steppers, i), bench->now_us, pin, is_high);
    }
    drive_motors(bench, pin, is_high ? UINT16_MAX : 0);
}

void sim_bench_set_duty(sim_bench *bench, uint8_t pin, uint16_t duty)
{
    if (bench->is_output[pin] && bench->duty[pin] == duty) {
        return;
    }
    bench->is_output[pin] = true;
    bench->duty[pin] = duty;
    if (bench->observer.duty != NULL) {
        bench->observer.duty(bench->observer.context, (uint64_t)bench->now_us, pin, duty);
    }
    drive_motors(bench, pin, duty);
}

bool sim_bench_is_high(const sim_bench *bench, uint8_t pin)
{
    return bench->is_high[pin];
}

uint16_t sim_bench_duty(const sim_bench *bench, uint8_t pin)
{
    return bench->duty[pin];
}

uint64_t sim_bench_now(const sim_bench *bench)
{
    return (uint64_t)bench->now_us;
}

uint64_t sim_bench_spoken_at(const sim_bench *bench)
{
    return (uint64_t)bench->spoken_us;
}

void sim_bench_block(sim_bench *bench, double for_us)
{
    (void)sim_bench_pass(bench, bench->now_us + for_us, false);
}

/* Main has more to do at this moment. A program that never comes to rest must not hold the bench's time. */
static void poll_on(sim_bench *bench)
{
    enum { MANY_POLLS = 4096, POLL_US = 100 };
    if (++bench->polls_in_a_row > MANY_POLLS) {
        (void)sim_bench_pass(bench, bench->now_us + POLL_US, false);
    }
}

bool sim_bench_sleep(sim_bench *bench, drom_us wait)
{
    const double before_us = bench->now_us;
    bench->polls_in_a_row = wait > 0 ? 0 : bench->polls_in_a_row;
    const bool is_still = wait == DROM_LONG && isinf(sim_bench_next_event(bench));
    if (bench->processor.poll_us > 0) {
        (void)sim_bench_pass(bench, before_us + bench->processor.poll_us, false);
    }
    if (bench->engine != NULL) {
        drom_engine_idle(bench->engine, wait);
    }
    if (wait == 0 && bench->now_us == before_us && sim_bench_next_event(bench) > before_us) {
        poll_on(bench);
        return true; /* most often: there is more for main to do, and nothing else happens */
    }
    const bool is_hearing = bench->engine != NULL && bench->engine->state == DROM_RUNNING;
    const bool has_edge = is_hearing && !drom_ring_is_empty(&bench->engine->input.ring);
    if (is_still && !has_edge) {
        return false;
    }
    if (bench->now_us > before_us || has_edge) {
        return true;
    }
    (void)sim_bench_pass(bench, wait == DROM_LONG ? INFINITY : bench->now_us + wait, true);
    return true;
}
