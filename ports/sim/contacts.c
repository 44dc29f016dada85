/* Contacts between a pin and ground: buttons and switches, which bounce. */
#include "bench.h"

#include <math.h>

void sim_bench_close(sim_bench *bench, uint8_t pin, bool is_closed)
{
    bench->is_closed[pin] = is_closed;
}

double sim_contacts_due(const sim_bench *bench)
{
    return bench->next_touch < bench->touches->len
               ? g_array_index(bench->touches, sim_touch, bench->next_touch).at_us
               : INFINITY;
}

static void add_touch(sim_bench *bench, const sim_touch *touch)
{
    guint at = bench->touches->len;
    while (at > bench->next_touch && g_array_index(bench->touches, sim_touch, at - 1).at_us > touch->at_us) {
        at--;
    }
    g_array_insert_val(bench->touches, at, *touch);
}

/* When the hand does something else to that contact; and what an earlier touch would still bounce by then is
 * over. */
static double next_touch_us(sim_bench *bench, const sim_touch *touch)
{
    double next_us = INFINITY;
    for (guint i = bench->touches->len; i-- > bench->next_touch;) {
        const sim_touch other = g_array_index(bench->touches, sim_touch, i);
        if (other.pin != touch->pin) {
            continue;
        }
        if (other.from_us > touch->at_us) {
            next_us = MIN(next_us, other.from_us);
        } else if (other.at_us >= touch->at_us) {
            g_array_remove_index(bench->touches, i);
        }
    }
    return next_us;
}

/* It changes, and then bounces: away and back again, up to three times. */
static void add_bouncing(sim_bench *bench, double at_us, uint8_t pin, bool is_closed)
{
    const unsigned bounces = (unsigned)(sim_random_next(&bench->random) % 4);
    sim_touch touch = {at_us, at_us, pin, is_closed};
    const double next_us = next_touch_us(bench, &touch);
    add_touch(bench, &touch);
    for (unsigned i = 0; i < bounces; i++) {
        sim_touch away = {0, at_us, pin, !is_closed};
        away.at_us = touch.at_us + sim_random_between(&bench->random, 100, 2000);
        touch.at_us = away.at_us + sim_random_between(&bench->random, 100, 1500);
        if (touch.at_us < next_us) {
            add_touch(bench, &away);
            add_touch(bench, &touch);
        }
    }
}

void sim_bench_touch(sim_bench *bench, uint8_t pin, uint64_t at_us, bool is_closed)
{
    add_bouncing(bench, (double)at_us, pin, is_closed);
    bench->is_world_known = false;
}

bool sim_bench_has_touches(const sim_bench *bench)
{
    return bench->next_touch < bench->touches->len;
}

void sim_contacts_change(sim_bench *bench)
{
    const sim_touch *const touch = &g_array_index(bench->touches, sim_touch, bench->next_touch++);
    bench->is_closed[touch->pin] = touch->is_closed;
}
