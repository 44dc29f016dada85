/* Deadlines on a chip. Prints a line per check; exit code 1 if one is wrong. ends motor ELF: a motor stops at
 * its switch, however many events own code posts. ends brake ELF STEPS_S RAMP_MS: a stepper at full speed
 * brakes within the steps and the time of its ramp. Both programs take orders (orders.c): the motor on pins 7
 * and 12, with its speed on pin 5, its switch on pin 11 and a relay on pin 4; the stepper, named disc, on A0
 * to A3. */
#include "wishes.h"

#include "dromikos/dromikos.h"
#include "dromikos/outputs/motor.h"
#include "dromikos/outputs/stepper.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { RECEIVER_PIN = 8, FORWARD_PIN = 7, BACK_PIN = 12, SPEED_PIN = 5, SWITCH_PIN = 11, FIRST = 0 };

/* Returns how long after its switch closes a motor stops, in ms, with `posts` events posted per turn of the
 * loop. */
static double stands_after_ms(chip *mcu, const chip_observed *speed, uint8_t posts, double at_ms)
{
    const uint8_t none = 0;
    chip_touch(mcu, SWITCH_PIN, false);
    wait_ms(mcu, 40);
    act(mcu, FIRST, DROM_MOTOR_RUN, DROM_MOTOR_AT(DROM_FULL_LEVEL));
    wait_ms(mcu, 200);
    chip_write(mcu, "posts", &posts, 1);
    wait_ms(mcu, 20 + at_ms);
    const bool runs = speed->is_high;
    const uint64_t closed_at = chip_now(mcu);
    chip_touch(mcu, SWITCH_PIN, true);
    wait_ms(mcu, 300);
    const double after_ms = (double)(speed->at[(speed->count - 1) % 64] - closed_at) / CYCLES_PER_MS;
    chip_write(mcu, "posts", &none, 1);
    return speed->is_high || !runs ? INFINITY : after_ms;
}

static void stop_at_switch(const char *elf)
{
    enum { TIMES = 8, MAX_MS = 20, MOST = 8 };
    char what[160];
    chip *const mcu = chip_open(elf, RECEIVER_PIN, BACK_PIN, FORWARD_PIN, any_picture);
    const chip_observed *const speed = chip_observe_pin(mcu, SPEED_PIN);
    wait_ms(mcu, 200);
    for (uint8_t posts = 0; posts <= MOST; posts += MOST) {
        double longest_ms = 0;
        for (unsigned i = 0; i < TIMES; i++) {
            longest_ms = fmax(longest_ms, stands_after_ms(mcu, speed, posts, i * 0.53));
        }
        (void)snprintf(
            what, sizeof what,
            "with %u events posted in each turn it stands %.1f ms after its switch has closed, or sooner",
            posts, longest_ms);
        check(longest_ms < MAX_MS, what);
    }
    close_checked(mcu);
}

static int32_t place_of(const chip *mcu)
{
    int32_t place = 0; /* offset in its state */
    chip_read(mcu, "state_disc", &place, sizeof place);
    return place;
}

static void brake(const char *elf, double steps_s, double ramp_ms)
{
    char what[200];
    chip *const mcu = chip_open(elf, RECEIVER_PIN, BACK_PIN, FORWARD_PIN, any_picture);
    const double way = steps_s * ramp_ms / 2000;
    wait_ms(mcu, 200);
    act(mcu, FIRST, DROM_STEPPER_RUN, 1);
    wait_ms(mcu, ramp_ms + 600);
    const int32_t before = place_of(mcu);
    wait_ms(mcu, 1000);
    const double speed = place_of(mcu) - before;
    const int32_t stopped_at = place_of(mcu);
    act(mcu, FIRST, DROM_STEPPER_STOP, 0);
    wait_ms(mcu, ramp_ms * 1.05 + 60);
    const int32_t stands_at = place_of(mcu);
    wait_ms(mcu, 300);
    const double braked = stands_at - stopped_at;
    const chip_stepper *const rotor = chip_stepper_of(mcu);
    (void)snprintf(
        what, sizeof what,
        "at %4.0f steps/s, %4.0f ms from standing: runs at %.0f, and brakes within %.0f steps, of %.0f",
        steps_s, ramp_ms, speed, braked, way);
    check(fabs(speed - steps_s) <= 0.05 * steps_s && fabs(braked - way) <= fmax(0.05 * way, 2) &&
              place_of(mcu) == stands_at && rotor->position == stands_at && rotor->bad_steps == 0,
          what);
    close_checked(mcu);
}

int main(int argc, char **argv)
{
    if (argc == 3 && strcmp(argv[1], "motor") == 0) {
        stop_at_switch(argv[2]);
    } else if (argc == 5 && strcmp(argv[1], "brake") == 0) {
        brake(argv[2], strtod(argv[3], NULL), strtod(argv[4], NULL));
    } else {
        fprintf(stderr, "ends: say motor or brake, which program, and of a stepper its speed and its ramp\n");
        return 2;
    }
    return wrong_things() > 0 ? 1 : 0;
}
