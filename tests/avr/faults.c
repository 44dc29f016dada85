/* Faults that must not occur on a chip: a clock that wraps too early, a pin that moves after a stop, a lamp
 * that is dark where it should glow, a motor that runs on while the program hangs. Prints a line per check;
 * exit code 1 if one is wrong. faults wrap ELF, faults stop ELF, faults lamp ELF, faults hang ELF: the first
 * with the theatre's program, the second with one of the theatre that takes orders (orders.c), the third with
 * one that has a lamp only, the fourth with one that has a motor. */
#include "chip.h"

#include "press.h"
#include "wishes.h"

#include "dromikos/dromikos.h"
#include "dromikos/outputs/lamp.h"
#include "dromikos/outputs/motor.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/outputs/sender.h"
#include "dromikos/outputs/stepper.h"
#include "dromikos/outputs/strip.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

enum { BELL_PIN = 7, FOG_PIN = 12, LAMP_PIN = 5, ONLY_LAMP = 0, REVOLVE = 4, HORN = 6, FOOTLIGHTS = 5 };

/* The clock counts half µs in timer 1 and in a variable; it is set as soon as it runs, before the engine
 * starts. */
static void set_clock(chip *mcu, uint32_t half_us_high)
{
    uint32_t high = 0;
    while (high == 0) {
        chip_run(mcu, chip_now(mcu) + 1);
        chip_read(mcu, "clock_high", &high, sizeof high);
    }
    chip_write(mcu, "clock_high", &half_us_high, sizeof half_us_high);
}

static double last_ms(const chip_observed *pin)
{
    return (double)(pin->at[(pin->count - 1) % 64] - pin->at[(pin->count - 2) % 64]) / CYCLES_PER_MS;
}

/* Runs the theatre until `before_ms` before the clock has passed `high` overflows of timer 1. */
static chip *open_before(const char *elf, uint32_t high, double before_ms)
{
    enum { OVERFLOWS = 70 };
    const double overflow_ms = 32.768;
    chip *const mcu = chip_open(elf, 8, FOG_PIN, BELL_PIN, any_picture);
    set_clock(mcu, high - OVERFLOWS);
    wait_ms(mcu, OVERFLOWS * overflow_ms - before_ms);
    return mcu;
}

/* The stage turns, the bell rings for a time and a key is held. */
static void pass_with_outputs_at_work(const char *elf, uint32_t high, const char *where)
{
    char what[100];
    chip *const mcu = open_before(elf, high, 2100);
    const chip_observed *const fog = chip_relay_of(mcu, 0);
    const chip_observed *const bell = chip_relay_of(mcu, 1);
    press(mcu, &drom_nec_waveform, 0x21, 0x18, 0); /* up: one turn */
    wait_ms(mcu, 1300);
    press(mcu, &drom_nec_waveform, 0x21, 0x43, 0);    /* play: the bell, for 800 ms */
    press(mcu, &drom_nec_waveform, 0x21, 0x5e, 1200); /* green: fog while it is held */
    wait_ms(mcu, 700);
    (void)snprintf(what, sizeof what, "%s, a pulse of 800 ms lasts %.0f ms", where, last_ms(bell));
    check(bell->count == 3 && fabs(last_ms(bell) - 800) < 6, what);
    (void)snprintf(what, sizeof what, "%s, a key held for 1.2 s holds for %.0f ms", where, last_ms(fog));
    check(fog->count == 3 && last_ms(fog) > 1100 && last_ms(fog) < 1500, what);
    const chip_stepper *const stage = chip_stepper_of(mcu);
    const int from = stage->position;
    wait_ms(mcu, 1000);
    (void)snprintf(what, sizeof what, "%s, the stage makes %d steps a second, %.0f to %.0f us apart", where,
                   stage->position - from, (double)stage->shortest / 16, (double)stage->longest / 16);
    check(stage->position - from >= 299 && stage->position - from <= 301 && stage->bad_steps == 0 &&
              stage->shortest > 3200 * 16 && stage->longest < 3500 * 16,
          what);
    close_checked(mcu);
}

/* A key of another handset is sent while one is held. */
static void pass_sending(const char *elf, uint32_t high, const char *where)
{
    char what[100];
    double runs_us[256];
    chip *const mcu = open_before(elf, high, 400);
    press(mcu, &drom_nec_waveform, 0x21, 0x09, 700); /* vol_up */
    unsigned frames = 0;
    unsigned late = 0;
    unsigned broken = 0;
    for (unsigned i = 0; i < 100; i++) {
        wait_ms(mcu, 10);
        const unsigned runs = chip_take_burst(mcu, runs_us, 256);
        frames += runs == 67;
        late += runs != 0 && i >= 50;
        broken += runs != 0 && runs != 67;
    }
    (void)snprintf(what, sizeof what, "%s, a key is sent while it is held, and %u frames more", where,
                   frames);
    check(frames >= 1 && late == 0 && broken == 0, what);
    close_checked(mcu);
}

/* Stops the engine `stops` times at random moments, while the stage turns to and fro and a key is sent all
 * the time. */
static void stop_often(const char *elf, unsigned stops)
{
    chip *const mcu = chip_open(elf, 8, FOG_PIN, BELL_PIN, any_picture);
    chip_observed *coils[4];
    unsigned moved = 0;
    unsigned lit = 0;
    unsigned lost = 0;
    unsigned awake = 0;
    for (unsigned i = 0; i < 4; i++) {
        coils[i] = chip_observe_pin(mcu, 14 + i);
    }
    wait_ms(mcu, 100);
    act(mcu, FOOTLIGHTS, DROM_STRIP_FILL, 0x402010);
    for (unsigned i = 0; i < stops && chip_is_alive(mcu); i++) {
        act(mcu, HORN, DROM_SENDER_HOLD, 0);
        act(mcu, REVOLVE, DROM_STEPPER_RUN, i % 2);
        chip_run(mcu, chip_now(mcu) + 130 * CYCLES_PER_MS + i * UINT64_C(7919) % (20 * CYCLES_PER_MS));
        grant(mcu, WISH_STOP);
        unsigned changes = 0;
        unsigned later = 0;
        for (unsigned j = 0; j < 4; j++) {
            changes += coils[j]->count;
        }
        const uint64_t stopped_at = chip_now(mcu);
        wait_ms(mcu, 30);
        for (unsigned j = 0; j < 4; j++) {
            later += coils[j]->count;
        }
        int32_t position = 0;
        uint8_t state = 1;
        chip_read(mcu, "state_revolve", &position, sizeof position);
        chip_read(mcu, "engine_state", &state, 1);
        moved += later != changes;
        lit += chip_lit_at(mcu) > stopped_at;
        lost += position != chip_stepper_of(mcu)->position;
        awake += state != DROM_STOPPED;
        grant(mcu, WISH_START);
        wait_ms(mcu, 1);
    }
    (void)printf("%u stops: a coil moved after %u, the LED shone after %u, the place was wrong after %u\n",
                 stops, moved, lit, lost);
    check(moved == 0 && lit == 0 && lost == 0, "nothing moves after a stop, and the stage knows where it is");
    check(awake == 0, "each stop has ended when the strip was dark");
    check(chip_strip_of(mcu)->hasty == 0 && chip_strip_of(mcu)->cut == 0, "no picture came too soon");
    close_checked(mcu);
}

static uint16_t rehearsed;

static void note_duty(void *context, uint8_t pin, uint16_t duty)
{
    (void)context;
    (void)pin;
    rehearsed = duty;
}

/* For each level of the lamp, the share of the time for which its pin is high, compared with the bench. */
static void step_through_levels(const char *elf)
{
    static const drom_lamp_settings house = {.pin = LAMP_PIN};
    const drom_port port = {.pwm = &(drom_port_pwm){.write = note_duty, .bits = 8}};
    drom_timing timing = {.port = &port};
    drom_lamp_state state = {0};
    chip *const mcu = chip_open(elf, 8, FOG_PIN, BELL_PIN, any_picture);
    const chip_observed *const pin = chip_observe_pin(mcu, LAMP_PIN);
    unsigned wrong = 0;
    double worst = 0;
    wait_ms(mcu, 20);
    for (uint32_t level = 0; level <= DROM_FULL_LEVEL && chip_is_alive(mcu); level++) {
        drom_lamp.act(&house, &state, &timing, DROM_LAMP_FADE, DROM_FADE(level, 0));
        act(mcu, ONLY_LAMP, DROM_LAMP_FADE, DROM_FADE(level, 0));
        wait_ms(mcu, 2.2);
        const uint64_t from = chip_now(mcu);
        const uint64_t high = pin->high_cycles + (pin->is_high ? from - pin->at[(pin->count - 1) % 64] : 0);
        chip_run(mcu, from + 10 * 16384); /* ten periods of timer 0 */
        const uint64_t until = chip_now(mcu);
        const uint64_t later = pin->high_cycles + (pin->is_high ? until - pin->at[(pin->count - 1) % 64] : 0);
        const double measured = (double)(later - high) / (double)(until - from);
        const double expected = rehearsed == UINT16_MAX ? 1 : rehearsed / 65536.0;
        wrong += fabs(measured - expected) > 0.4 / 256 || (measured > 0) != (level > 0);
        worst = fmax(worst, fabs(measured - expected));
    }
    (void)printf(
        "201 levels: the pin is off by at most %.2f %% of the time, where the PWM has steps of 0.39 %%\n",
        worst * 100);
    check(wrong == 0, "the lamp is as bright on the chip as on the bench, and dark at level 0 alone");
    close_checked(mcu);
}

enum { FORWARD_PIN = 7, BACK_PIN = 12, SPEED_PIN = 5, ONLY_MOTOR = 0, OTHER_MOTOR, MOTOR_PINS = 3 };
enum { SPOT = 3, SPOT_PIN = 4 }; /* a relay of the same plan */

typedef struct motor_pins {
    const chip_observed *pins[MOTOR_PINS];
} motor_pins;

static motor_pins observe_motor(chip *mcu)
{
    return (motor_pins){{chip_relay_of(mcu, 1), chip_relay_of(mcu, 0), chip_observe_pin(mcu, SPEED_PIN)}};
}

/* Returns how long after a moment its last pin went low for good, in ms; less than 0: one is high. */
static double rested_after_ms(const motor_pins *motor, uint64_t from)
{
    uint64_t last = from;
    for (unsigned i = 0; i < MOTOR_PINS; i++) {
        const chip_observed *const pin = motor->pins[i];
        if (pin->is_high) {
            return -1;
        }
        const uint64_t at = pin->count > 0 ? pin->at[(pin->count - 1) % 64] : 0;
        last = at > last ? at : last;
    }
    return (double)(last - from) / CYCLES_PER_MS;
}

static uint8_t state_of(const chip *mcu)
{
    uint8_t state = 0;
    chip_read(mcu, "engine_state", &state, 1);
    return state;
}

/* Full speed, and an order that loops. */
static uint64_t hang(chip *mcu, const motor_pins *motor, uint8_t wish)
{
    wait_ms(mcu, 700);
    act(mcu, ONLY_MOTOR, DROM_MOTOR_RUN, DROM_MOTOR_AT(100));
    wait_ms(mcu, 600);
    check(motor->pins[0]->is_high && !motor->pins[1]->is_high && motor->pins[2]->count > 100,
          "the motor runs forward at half speed");
    chip_write(mcu, "wish", &wish, 1);
    return chip_now(mcu);
}

/* Lets the loop run for a time. */
static void hang_for(chip *mcu, const motor_pins *motor, double ms)
{
    char what[100];
    const uint8_t none = 0;
    const uint64_t hung_at = hang(mcu, motor, WISH_HANG);
    wait_ms(mcu, ms);
    const double after_ms = rested_after_ms(motor, hung_at);
    (void)snprintf(what, sizeof what, "the program hangs: its pins are at rest after %.0f ms", after_ms);
    check(after_ms >= 250 && after_ms <= 300, what);
    chip_write(mcu, "hangs", &none, 1);
}

static int cue_of(const chip *mcu)
{
    int16_t number = -1;
    chip_read(mcu, "numbers", &number, sizeof number);
    return number;
}

/* Two motors that steer, and an interlock, by keys: the time of their polls. */
static void steer(chip *mcu)
{
    enum { POWER = 0x45, PLAY = 0x43, MAX_US = 500 };
    char what[100];
    for (unsigned i = 0; i < 4; i++) {
        press(mcu, &drom_nec_waveform, 0x21, i % 2 == 0 ? POWER : PLAY, 0);
        wait_ms(mcu, 900);
    }
    const double poll_us = (double)chip_worst_poll(mcu) / 16;
    (void)snprintf(what, sizeof what,
                   "with two motors that steer and an interlock the worst poll takes %.0f us", poll_us);
    check(poll_us > 0 && poll_us < MAX_US, what);
    act(mcu, ONLY_MOTOR, DROM_MOTOR_COAST, 0);
    act(mcu, OTHER_MOTOR, DROM_MOTOR_COAST, 0);
}

static void hang_with_motor(const char *elf)
{
    char what[100];
    chip *const mcu = chip_open(elf, 8, BACK_PIN, FORWARD_PIN, any_picture);
    const motor_pins motor = observe_motor(mcu);
    const chip_observed *const spot = chip_observe_pin(mcu, SPOT_PIN);
    wait_ms(mcu, 100);
    steer(mcu);
    hang_for(mcu, &motor, 400);
    wait_ms(mcu, 300);
    check(state_of(mcu) == DROM_FAULT, "it goes on, keeps its value, and finds a fault");
    wait_ms(mcu, 1000);
    check(state_of(mcu) == DROM_FAULT && rested_after_ms(&motor, 0) > 0, "it waits for a new start, at rest");
    grant(mcu, WISH_START);
    hang_for(mcu, &motor, 700);
    wait_ms(mcu, 100);
    check(state_of(mcu) == DROM_RUNNING && rested_after_ms(&motor, 0) > 0,
          "it hangs for good: the watchdog has started it anew, at rest");
    check(cue_of(mcu) == 6, "a value that is kept has counted two presses, and is what it was before that");
    act(mcu, SPOT, DROM_RELAY_ON, 0);
    wait_ms(mcu, 300);
    check(spot->is_high, "a relay is on");
    const uint64_t hung_at = hang(mcu, &motor, WISH_HANG_MASKED);
    wait_ms(mcu, 700);
    const double after_ms = rested_after_ms(&motor, hung_at);
    (void)snprintf(what, sizeof what, "with interrupts off: the watchdog has put it to rest after %.0f ms",
                   after_ms);
    check(after_ms >= 250 && after_ms <= 600 && state_of(mcu) == DROM_RUNNING, what);
    check(!spot->is_high, "and so is the relay");
    grant(mcu, WISH_STOP);
    wait_ms(mcu, 3000);
    check(state_of(mcu) == DROM_STOPPED, "once it is stopped, it needs no polls");
    close_checked(mcu);
}

int main(int argc, char **argv)
{
    if (argc == 3 && strcmp(argv[1], "wrap") == 0) {
        pass_with_outputs_at_work(argv[2], UINT32_C(0x10000), "across 2^31 us");
        pass_sending(argv[2], UINT32_C(0x10000), "across 2^31 us");
        pass_with_outputs_at_work(argv[2], UINT32_C(0x20000), "across 2^32 us");
        pass_sending(argv[2], UINT32_C(0x20000), "across 2^32 us");
    } else if (argc == 3 && strcmp(argv[1], "stop") == 0) {
        stop_often(argv[2], 120);
    } else if (argc == 3 && strcmp(argv[1], "lamp") == 0) {
        step_through_levels(argv[2]);
    } else if (argc == 3 && strcmp(argv[1], "hang") == 0) {
        hang_with_motor(argv[2]);
    } else {
        fprintf(stderr, "faults: say wrap, stop, lamp or hang, and which program\n");
        return 2;
    }
    return wrong_things() > 0 ? 1 : 0;
}
