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

/* A step of the field, one way or the other. The rotor follows as fast as it can: from standing, or where it
 * turns round, at its start speed; else as much faster than it was as its acceleration allows. It may lag
 * behind the field by half a step, so that a step may come early now and then; with more it is lost, and must
 * stand before it follows again. */
static bool follow(sim_stepper *stepper, double now_us, int step)
{
    const double since_us = now_us - stepper->rotor_at_us;
    const bool stands = stepper->speed <= 0 || since_us > 3e6 / stepper->speed;
    const bool turns = !stands && step != stepper->step;
    if (stands || turns) {
        const bool is_slow_enough = stands || 1e6 / fmax(since_us, 1) <= stepper->start_steps_s;
        const bool is_stalled =
            stepper->is_stalled && 1e6 / fmax(now_us - stepper->stepped_at_us, 1) > stepper->start_steps_s;
        stepper->speed = is_slow_enough && !is_stalled ? stepper->start_steps_s : 0;
        stepper->rotor_at_us = now_us;
        return stepper->speed > 0;
    }
    const double from = fmax(stepper->speed, stepper->start_steps_s);
    const double fastest = fmin(sqrt(from * from + 2 * stepper->max_steps_s2), stepper->max_steps_s);
    const double arrives_us = fmax(now_us, stepper->rotor_at_us + 1e6 / fastest);
    if (arrives_us - now_us > 0.5e6 / fastest) {
        stepper->speed = 0;
        return false;
    }
    const double took_us = fmax(arrives_us - stepper->rotor_at_us, 1);
    stepper->speed = fmax(1e6 / took_us, stepper->speed - stepper->max_steps_s2 * took_us / 1e6);
    stepper->rotor_at_us = arrives_us;
    return true;
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
    const int change = stepper->phase < 0 ? 0 : (phase - stepper->phase + 4) % 4;
    stepper->phase = phase;
    if (change == 0) {
        return;
    }
    const int step = change == 3 ? -1 : change;
    stepper->asked += step;
    const bool follows = change != 2 && follow(stepper, now_us, step);
    stepper->stepped_at_us = now_us;
    stepper->step = step;
    stepper->is_stalled = !follows;
    stepper->position += follows ? step : 0;
    stepper->lost += !follows;
    if (stepper->has_home) {
        sim_bench_close(stepper->bench, stepper->home_pin, stepper->position <= stepper->home);
    }
}

/* What has come is on show, and what comes next begins with the first pixel again. */
static void latch(sim_strip *strip)
{
    const unsigned bytes = strip->bits / 8 < strip->count * 3 ? strip->bits / 8 : strip->count * 3;
    memcpy(strip->shown, strip->coming, bytes - bytes % 3);
    strip->bits = 0;
}

void sim_strip_begin(sim_strip *strip, const uint8_t *bytes, unsigned count)
{
    memcpy(strip->sent, bytes, count < SIM_STRIP_BYTES ? count : SIM_STRIP_BYTES);
    strip->low_from_us = INFINITY;
    strip->has_news = true;
}

void sim_strip_end(sim_strip *strip, double now_us)
{
    strip->low_from_us = now_us;
}

void sim_strip_bit(sim_strip *strip, double high_us, double low_us)
{
    const unsigned byte = strip->bits / 8;
    if (byte < strip->count * 3) {
        strip->coming[byte] = (uint8_t)(strip->coming[byte] << 1 | (high_us >= 0.6));
    }
    strip->bits++;
    if (low_us >= strip->latch_us) {
        latch(strip);
    }
}

void sim_strip_pixels(sim_strip *strip, const uint8_t *bytes, unsigned count)
{
    const unsigned from = strip->bits / 8;
    const unsigned room = from < strip->count * 3 ? strip->count * 3 - from : 0;
    memcpy(&strip->coming[from < SIM_STRIP_BYTES ? from : 0], bytes, count * 3 < room ? count * 3 : room);
    strip->bits += 24 * count;
}

double sim_strip_due(const sim_strip *strip)
{
    return strip->has_news ? strip->low_from_us + SIM_LATCH_US : INFINITY;
}

void sim_strip_show(sim_strip *strip)
{
    latch(strip);
    strip->has_news = false;
    strip->refreshes++;
    for (unsigned i = 0;
         i < strip->count * 3 && memcmp(strip->shown, strip->sent, strip->count * (size_t)3) != 0; i += 3) {
        strip->wrong += memcmp(&strip->shown[i], &strip->sent[i], 3) != 0;
    }
}
