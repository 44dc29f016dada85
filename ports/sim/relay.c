/* Operate and release times as of a small 5 V relay: 7 to 9 ms to close, 3 to 5 ms to open, up to three
 * bounces of 0.1 to 0.8 ms when it closes. */
#include "relay.h"

static void plan_change(sim_relay *relay, uint64_t at_us)
{
    relay->change_at[relay->changes++] = at_us;
}

void sim_relay_drive(sim_relay *relay, sim_random *random, uint64_t now_us, bool is_high)
{
    const bool is_energised = is_high != relay->is_active_low;
    if (is_energised == relay->is_energised) {
        return;
    }
    relay->is_energised = is_energised;
    relay->operations++;
    relay->changes = 0;
    relay->next_change = 0;
    if (is_energised == relay->is_closed) { /* turned back before the armature had moved */
        return;
    }
    double at = (double)now_us + (is_energised ? sim_random_between(random, 7000, 9000)
                                               : sim_random_between(random, 3000, 5000));
    plan_change(relay, (uint64_t)at);
    const unsigned bounces = is_energised ? (unsigned)(sim_random_next(random) % (SIM_MAX_BOUNCES + 1)) : 0;
    for (unsigned i = 0; i < 2 * bounces; i++) {
        at += sim_random_between(random, 100, 800);
        plan_change(relay, (uint64_t)at);
    }
}

uint64_t sim_relay_next(const sim_relay *relay)
{
    return relay->next_change < relay->changes ? relay->change_at[relay->next_change] : UINT64_MAX;
}

void sim_relay_change(sim_relay *relay)
{
    relay->next_change++;
    relay->is_closed = !relay->is_closed;
}

uint8_t sim_relay_pin(const sim_relay *relay)
{
    return relay->pin;
}

bool sim_relay_is_closed(const sim_relay *relay)
{
    return relay->is_closed;
}

bool sim_relay_is_energised(const sim_relay *relay)
{
    return relay->is_energised;
}

bool sim_relay_is_settled(const sim_relay *relay)
{
    return relay->next_change == relay->changes;
}

unsigned sim_relay_operations(const sim_relay *relay)
{
    return relay->operations;
}
