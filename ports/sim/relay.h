/* A relay with a coil, an armature with a delay, and bouncing contacts. Private to ports/sim. */
#ifndef DROMIKOS_SIM_RELAY_H
#define DROMIKOS_SIM_RELAY_H

#include "random.h"
#include "sim.h"

enum { SIM_MAX_BOUNCES = 3 };

struct sim_relay {
    uint64_t change_at[2 * SIM_MAX_BOUNCES + 1]; /* times at which the contacts change, in order */
    unsigned changes;                            /* number of changes left */
    unsigned next_change;
    unsigned operations;
    uint8_t pin;
    bool is_active_low;
    bool is_energised;
    bool is_closed;
};

/* Takes the pin's new level. */
void sim_relay_drive(sim_relay *relay, sim_random *random, uint64_t now_us, bool is_high);

/* Returns when the contacts next change; UINT64_MAX at rest. */
uint64_t sim_relay_next(const sim_relay *relay);

/* Makes the change of that time. */
void sim_relay_change(sim_relay *relay);

#endif
