/* How a protocol is tried: presses of random keys, in a room that disturbs them, heard by a listener. */
#ifndef DROMIKOS_SIM_TRIAL_H
#define DROMIKOS_SIM_TRIAL_H

#include "listener.h"

enum { SIM_TRIAL_FRAMES = 3 }; /* in a press */

/* What was heard. */
typedef struct sim_score {
    const drom_code *code; /* the one that is sent; NULL: none */
    unsigned sent;
    unsigned right;
    unsigned wrong; /* frames that were not sent */
} sim_score;

/* How much a protocol is asked to bear with a clock that is 8 % off: stretching, and edges that move either
 * way. For most it is 100 and 70 µs, and less where marks are short. Past this a mark is gone, or a time is
 * nearer to another value than to its own. */
typedef struct sim_limit {
    const char *id;
    double stretch_us;
    double jitter_us;
} sim_limit;
sim_limit sim_limit_of(const char *id);

/* A code of a protocol, and of no narrower one. */
drom_code sim_random_code(const drom_waveform *waveform, uint64_t seed);

/* Adds to the bench's line what else is on it. */
typedef void sim_disturb(sim_bench *bench, const sim_press *press);

/* So many presses in a room, heard with every protocol on, or with the right one alone. */
sim_score sim_try_room(const drom_waveform *waveform, const sim_room *room, unsigned presses,
                       sim_disturb *with, bool is_alone);

/* As many in each corner of clock and stretching, at a share of the protocol's limits, with every protocol
 * on. */
sim_score sim_try_limit(const drom_waveform *waveform, double share, unsigned presses);

#endif
