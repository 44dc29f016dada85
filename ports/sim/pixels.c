/* How the bits of a strip go out: in slices with one handler let in after each, all masked, or with
 * interrupts open. */
#include "bench.h"

#include <math.h>

static const double bit_us = 1.25;
static const double zero_high_us = 0.375;
static const double one_high_us = 0.8125;
static const double window_us = 1.5; /* from one slice to the next when nothing is waiting */

static void send_bits(sim_strip *strip, uint8_t byte, double last_low_us)
{
    for (int bit = 7; bit >= 0; bit--) {
        const double high_us = (byte >> bit & 1) != 0 ? one_high_us : zero_high_us;
        sim_strip_bit(strip, high_us, bit_us - high_us + (bit == 0 ? last_low_us : 0));
    }
}

/* One pixel, masked, and what is let in after it. */
static void send_slice(sim_bench *bench, sim_strip *strip, const uint8_t *bytes)
{
    bench->is_masked = true;
    (void)sim_bench_pass(bench, bench->now_us + 24 * bit_us, false);
    const double masked_until_us = bench->now_us;
    if (bench->processor.pixels == SIM_PIXELS_SLICED) {
        sim_bench_let_one_in(bench, window_us);
    }
    const double gap_us = bench->now_us - masked_until_us;
    if (strip != NULL) {
        strip->longest_gap_us = MAX(strip->longest_gap_us, gap_us);
        for (int i = 0; i < 3; i++) {
            send_bits(strip, bytes[i], i == 2 ? gap_us : 0);
        }
    }
}

/* Bits with interrupts open: a handler that comes in stretches the level that the pin has just then. */
static void send_open(sim_bench *bench, sim_strip *strip, uint8_t byte)
{
    for (int bit = 7; bit >= 0; bit--) {
        double high_us = (byte >> bit & 1) != 0 ? one_high_us : zero_high_us;
        double low_us = bit_us - high_us;
        const double handlers_us = bench->load.handlers_us;
        (void)sim_bench_pass(bench, bench->now_us + bit_us, false);
        const double stolen_us = bench->load.handlers_us - handlers_us;
        (void)sim_bench_pass(bench, bench->now_us + stolen_us, false);
        *(sim_random_between(&bench->random, 0, bit_us) < high_us ? &high_us : &low_us) += stolen_us;
        if (strip != NULL) {
            sim_strip_bit(strip, high_us, low_us);
        }
    }
}

static sim_strip *strip_on(const sim_bench *bench, uint8_t pin)
{
    for (guint i = 0; i < bench->strips->len; i++) {
        sim_strip *const strip = g_ptr_array_index(bench->strips, i);
        if (strip->pin == pin) {
            return strip;
        }
    }
    return NULL;
}

/* Returns how many of `slices` slices are sent before anything else happens. Times are rounded as they grow
 * past a power of two: there they are added one by one. */
static unsigned undisturbed(sim_bench *bench, const sim_strip *strip, double a_slice_us, unsigned slices)
{
    const bool may_latch = strip != NULL && window_us >= strip->latch_us;
    const bool is_exact = ilogb(bench->now_us) == ilogb(bench->now_us + slices * a_slice_us);
    if (bench->plays_every_bit || may_latch || !is_exact || bench->busy_until_us > bench->now_us) {
        return 0;
    }
    const double left_us = sim_bench_next_event(bench) - bench->now_us;
    const double whole = ceil(left_us / a_slice_us) - 2; /* one less, for what is rounded */
    return whole <= 0 ? 0 : whole < slices ? (unsigned)whole : slices;
}

/* Slices with whatever comes in between. Where that is nothing, they needn't be played bit by bit; the result
 * is the same. */
static void send_slices(sim_bench *bench, sim_strip *strip, const uint8_t *bytes, unsigned slices)
{
    const bool is_sliced = bench->processor.pixels == SIM_PIXELS_SLICED;
    const double a_slice_us = 24 * bit_us + (is_sliced ? window_us : 0);
    while (slices > 0) {
        const unsigned at_once = undisturbed(bench, strip, a_slice_us, slices);
        const unsigned done = at_once > 0 ? at_once : 1;
        if (at_once == 0) {
            send_slice(bench, strip, bytes);
        } else {
            bench->now_us += at_once * a_slice_us;
            if (strip != NULL) {
                strip->longest_gap_us = MAX(strip->longest_gap_us, is_sliced ? window_us : 0);
                sim_strip_pixels(strip, bytes, at_once);
            }
        }
        bytes += done * (gsize)3;
        slices -= done;
    }
}

void sim_bench_end_apart(sim_bench *bench, uint8_t pin, const uint8_t *bytes, uint16_t count)
{
    sim_strip *const strip = strip_on(bench, pin);
    bench->are_strips_known = false;
    if (strip != NULL) { /* as the bytes are by now: nobody may have changed them */
        sim_strip_pixels(strip, bytes, count / 3u);
        sim_strip_end(strip, bench->now_us);
    }
}

void sim_bench_send_pixels(void *context, uint8_t pin, const uint8_t *bytes, uint16_t count)
{
    sim_bench *const bench = sim_bench_called(context);
    sim_strip *const strip = strip_on(bench, pin);
    const double from_us = bench->now_us;
    bench->are_strips_known = false;
    if (strip != NULL) {
        sim_strip_begin(strip, bytes, count);
    }
    if (bench->processor.pixels == SIM_PIXELS_BY_HARDWARE) {
        sim_bench_begin_apart(bench, pin, bytes, count);
        return;
    }
    if (bench->processor.pixels != SIM_PIXELS_OPEN) {
        send_slices(bench, strip, bytes, count / 3u);
    } else {
        for (uint16_t i = 0; i < count; i++) {
            send_open(bench, strip, bytes[i]);
        }
    }
    const double took_us = bench->now_us - from_us;
    const double slices = bench->processor.pixels == SIM_PIXELS_SLICED ? count / 3u : 1;
    const double masked_us = bench->processor.pixels == SIM_PIXELS_MASKED   ? took_us
                             : bench->processor.pixels == SIM_PIXELS_SLICED ? 24 * bit_us
                                                                            : 0;
    bench->load.longest_masked_us = MAX(bench->load.longest_masked_us, masked_us);
    bench->load.masked_us += masked_us * slices;
    bench->load.pixels_us += took_us;
    bench->is_masked = false;
    bench->are_strips_known = false;
    if (strip != NULL) {
        sim_strip_end(strip, bench->now_us);
    }
}
