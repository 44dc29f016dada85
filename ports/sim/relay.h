/* A relay with a coil, an armature that takes its time, and contacts that bounce. Private to ports/sim. */
#ifndef DROMIKOS_SIM_RELAY_H
#define DROMIKOS_SIM_RELAY_H

#include "random.h"
#include "sim.h"

enum { SIM_MAX_BOUNCES = 3 };

struct sim_relay {
    uint64_t change_at[2 * SIM_MAX_BOUNCES + 1]; /* when the contacts change over, in order */
    unsigned changes;                            /* how many are still to come */
    unsigned next_change;
    unsigned operations;
    uint8_t pin;
    bool is_active_low;
    bool is_energised;
    bool is_closed;
};

/* The pin has a new level. */
void sim_relay_drive(sim_relay *relay, sim_random *random, uint64_t now_us, bool is_high);

/* When the contacts next change; UINT64_MAX when they are at rest. */
uint64_t sim_relay_next(const sim_relay *relay);

/* Lets the change of that moment happen. */
void sim_relay_change(sim_relay *relay);

#endif
