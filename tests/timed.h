/* A stage with a stepper, a strip, a lamp and a sender on simulated devices, and a processor that delays
 * them. For the suites of timed outputs and of the strip. */
#ifndef DROMIKOS_TESTS_TIMED_H
#define DROMIKOS_TESTS_TIMED_H

#include "support.h"

#include "sim.h"

#include "dromikos/dromikos.h"
#include "dromikos/outputs/lamp.h"
#include "dromikos/outputs/sender.h"
#include "dromikos/outputs/stepper.h"
#include "dromikos/outputs/strip.h"

enum { REVOLVE, LIGHTS, HOUSE, HORN, PIXELS = 60 };

static const drom_protocol_ref protocols[] = {&drom_nec};
static const drom_code wand[] = {{DROM_NEC, 33, 24}};
static const drom_handset handsets[] = {{.codes = DROM_ROWS(wand)}};
static const drom_stepper_settings revolve = {
    .pins = {14, 16, 15, 17}, .first_us = 57735, .fastest_us = 3334};
static drom_stepper_state revolve_state;
static uint8_t bytes[3 * PIXELS];
static const uint32_t colours[] = {0xff0000, 0x00ff00, 0x0000ff};
static const drom_strip_palette palettes[] = {{DROM_ROWS(colours)}};
static const drom_strip_effect_ref effects[] = {drom_strip_chase, drom_strip_blend, drom_strip_breathe,
                                                drom_strip_sparkle};
static const drom_strip_settings lights = {.bytes = bytes,
                                           .count = PIXELS,
                                           .pin = 6,
                                           .order = {1, 0, 2},
                                           .effects = DROM_ROWS(effects),
                                           .palettes = DROM_ROWS(palettes)};
static drom_strip_state lights_state;
static const drom_lamp_settings house = {.pin = 5};
static drom_lamp_state house_state;
static const drom_sender_key horn_keys[] = {{&drom_samsung32_waveform, 7, 7, 62, 62, 0}};
static const drom_sender_settings horn = {.keys = DROM_ROWS(horn_keys), .pin = 3, .is_shielded = true};
static drom_sender_state horn_state;
static const drom_output outputs[] = {DROM_STEPPER(revolve, revolve_state), DROM_STRIP(lights, lights_state),
                                      DROM_LAMP(house, house_state), DROM_SENDER(horn, horn_state)};
static drom_decoder decoders[1];
static drom_hold holds[1];
static drom_last_press last_presses[1];
static const drom_plan plan = {
    .receive = {.protocols = DROM_ROWS(protocols), .decoders = decoders},
    .keys = {.handsets = DROM_ROWS(handsets), .holds = holds},
    .rules = {.last_presses = DROM_ROWS(last_presses)},
    .outputs = {.outputs = DROM_ROWS(outputs)},
};

typedef struct stage {
    sim_bench *bench;
    sim_stepper *motor;
    sim_strip *strip;
    drom_engine engine;
    unsigned presses;
} stage;

static inline void on_key(void *context, const drom_key_event *event)
{
    ((stage *)context)->presses += event->gesture == DROM_PRESS;
}

static inline void open_plan(stage *opened, const drom_plan *tables, const sim_processor *processor,
                             double motor_steps_s)
{
    static drom_observer observer;
    *opened = (stage){.bench = sim_bench_new(3)};
    sim_bench_start_clock_at(opened->bench, UINT32_C(0xfffe0000)); /* the clock wraps soon */
    sim_bench_set_processor(opened->bench, processor);
    opened->motor = sim_bench_wire_stepper(opened->bench, revolve.pins, motor_steps_s);
    opened->strip = sim_bench_wire_strip(opened->bench, 6, PIXELS, 9);
    revolve_state = (drom_stepper_state){0};
    ck_assert_int_eq(drom_engine_init(&opened->engine, tables, sim_bench_port(opened->bench), NULL), DROM_OK);
    sim_bench_wire_engine(opened->bench, &opened->engine);
    observer = (drom_observer){.context = opened, .key = on_key};
    drom_engine_observe(&opened->engine, &observer);
}

static inline void open_stage(stage *opened, const sim_processor *processor, double motor_steps_s)
{
    open_plan(opened, &plan, processor, motor_steps_s);
}

static inline void play_until(stage *in, unsigned ms)
{
    while (sim_bench_now(in->bench) < ms * UINT64_C(1000)) {
        const drom_us wait = drom_engine_poll(&in->engine);
        (void)sim_bench_sleep(in->bench, wait < 500 ? wait : 500);
    }
}

static inline void order(stage *in, uint8_t output, uint8_t verb, uint32_t value)
{
    ck_assert_int_eq(drom_engine_order(&in->engine, output, verb, value), DROM_OK);
}

/* The costs of the bench's chip, as measured on an ATmega328P. */
static const sim_processor ours = {.latency_us = 1, .capture_us = 5, .alarm_us = 6, .poll_us = 130};

static inline void assert_pixel(const stage *in, unsigned pixel, uint8_t red, uint8_t green, uint8_t blue)
{
    const uint8_t *const grb = sim_strip_pixel(in->strip, pixel);
    ck_assert_msg(grb[0] == green && grb[1] == red && grb[2] == blue, "pixel %u shows %u %u %u", pixel,
                  grb[1], grb[0], grb[2]);
}

/* A port that does nothing. */
static inline uint32_t one_bit(void *context, uint8_t pin)
{
    (void)context;
    return UINT32_C(1) << pin;
}

static inline void no_pin(void *context, uint8_t pin, bool is_high)
{
    (void)context;
    (void)pin;
    (void)is_high;
}

#endif
