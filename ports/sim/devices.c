/* The stepper's rotor and the strip's pixels; neither knows anything of the library. */
#include "devices.h"

#include <math.h>
#include <string.h>

/* Where the field of two coils that are on points; -1 when they make none. */
static int field(uint8_t levels)
{
    for (int phase = 0; phase < 4; phase++) {
        if (levels == (1u << phase | 1u << (phase + 1) % 4)) {
            return phase;
        }
    }
    return -1;
}

/* The rotor follows when neither the speed nor the change of speed that it takes is more than it can. Single
 * steps may come early or late by an eighth: it may lag behind the field by half a step. */
static bool can_follow(const sim_stepper *stepper, double after_us)
{
    const double wanted = 1e6 / fmax(after_us, 1);
    const double had = stepper->speed > 0 && after_us < 3e6 / stepper->speed ? stepper->speed : 0;
    return wanted <= stepper->most_steps_s &&
           (wanted <= stepper->start_steps_s ||
            wanted <= had * 1.125 + stepper->most_steps_s2 * after_us / 1e6);
}

void sim_stepper_drive(sim_stepper *stepper, double now_us, uint8_t pin, bool is_high)
{
    for (unsigned i = 0; i < 4; i++) {
        if (stepper->pins[i] == pin) {
            stepper->levels = (uint8_t)(is_high ? stepper->levels | 1u << i : stepper->levels & ~(1u << i));
        }
    }
    const int phase = field(stepper->levels);
    if (phase < 0 || phase == stepper->phase) {
        return;
    }
    const int by = stepper->phase < 0 ? 0 : (phase - stepper->phase + 4) % 4;
    stepper->phase = phase;
    if (by == 0) {
        return;
    }
    const int step = by == 3 ? -1 : by;
    const double after_us = now_us - stepper->stepped_at_us;
    stepper->asked += step;
    stepper->stepped_at_us = now_us;
    if (by == 2 || !can_follow(stepper, after_us)) {
        stepper->lost++;
        stepper->speed = 0;
        return;
    }
    stepper->position += step;
    stepper->speed = fmin(1e6 / fmax(after_us, 1), stepper->most_steps_s);
}

void sim_strip_latch(sim_strip *strip)
{
    const unsigned bytes = strip->bits / 8 < strip->count * 3 ? strip->bits / 8 : strip->count * 3;
    memcpy(strip->shown, strip->coming, bytes - bytes % 3);
    strip->bits = 0;
}

void sim_strip_bit(sim_strip *strip, double high_us, double low_us)
{
    const unsigned byte = strip->bits / 8;
    if (byte < strip->count * 3) {
        strip->coming[byte] = (uint8_t)(strip->coming[byte] << 1 | (high_us >= 0.6));
    }
    strip->bits++;
    if (low_us >= strip->latch_us) {
        sim_strip_latch(strip);
    }
}
