/* Trials of a protocol: presses of random keys, with disturbances, received by a listener. */
#ifndef DROMIKOS_SIM_TRIAL_H
#define DROMIKOS_SIM_TRIAL_H

#include "listener.h"

enum { SIM_TRIAL_FRAMES = 3 }; /* in a press */

/* What was received. */
typedef struct sim_score {
    const drom_code *code; /* the protocol that is sent; NULL: none */
    unsigned sent;
    unsigned right;
    unsigned wrong; /* decoded frames that were not sent */
} sim_score;

/* The limits of a protocol with a clock that is 8 % off: stretching, and edges that move in either direction.
 * For most 100 and 70 µs, and less if marks are short. Beyond this a mark is lost, or a time is nearer to a
 * different value. */
typedef struct sim_limit {
    const char *id;
    double stretch_us;
    double jitter_us;
} sim_limit;
sim_limit sim_limit_of(const char *id);

/* Returns a code of a protocol, and of no narrower one. */
drom_code sim_random_code(const drom_waveform *waveform, uint64_t seed);

/* Adds other signals to the bench's line. */
typedef void sim_disturb(sim_bench *bench, const sim_press *press);

/* Sends presses in some conditions, received with all protocols, or with the right one alone. */
sim_score sim_try_room(const drom_waveform *waveform, const sim_room *room, unsigned presses,
                       sim_disturb *with, bool is_alone);

/* Sends presses in each corner of clock and stretching, at a share of the protocol's limits, with all
 * protocols. */
sim_score sim_try_limit(const drom_waveform *waveform, double share, unsigned presses);

#endif
