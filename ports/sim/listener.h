/* A receiver that hears what comes off the bench's line, with every protocol of the library or with some. */
#ifndef DROMIKOS_SIM_LISTENER_H
#define DROMIKOS_SIM_LISTENER_H

#include "../../include/dromikos/internal/receive.h"
#include "sim.h"

enum { SIM_MAX_PROTOCOLS = 64 };

typedef struct sim_listener {
    drom_receive_plan plan;
    drom_receiver receiver;
    drom_decoder decoders[SIM_MAX_PROTOCOLS];
    drom_protocol_ref protocols[SIM_MAX_PROTOCOLS];
    drom_fingerprint fingerprint;
    drom_filter fine;
    drom_us now;
    uint64_t intervals; /* marks and spaces heard */
    void (*frame)(void *context, const drom_frame *frame);
    void *context;
} sim_listener;

/* Starts a listener with every protocol. */
void sim_listener_open(sim_listener *listener, void (*frame)(void *, const drom_frame *), void *context);

/* Starts a listener with these protocols; their number is at most SIM_MAX_PROTOCOLS. */
void sim_listener_open_with(sim_listener *listener, const drom_protocol_ref *protocols, size_t count,
                            void (*frame)(void *, const drom_frame *), void *context);

/* An edge at a moment that isn't before the last. */
void sim_listener_edge(sim_listener *listener, drom_us at, bool is_mark);

/* Silence for a while, or what is left of the run. */
void sim_listener_pass(sim_listener *listener, drom_us until);

/* All that is on the bench's line, and the silence after it. The bench's time stays as it is. */
void sim_listener_hear(sim_listener *listener, sim_bench *bench);

#endif
