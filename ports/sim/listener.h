/* A receiver on the bench's line, with all protocols of the library or some. */
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
    uint64_t intervals; /* marks and spaces received */
    void (*frame)(void *context, const drom_frame *frame);
    void *context;
} sim_listener;

/* Starts a listener with every protocol. */
void sim_listener_open(sim_listener *listener, void (*frame)(void *, const drom_frame *), void *context);

/* Starts a listener with these protocols; their number is at most SIM_MAX_PROTOCOLS. */
void sim_listener_open_with(sim_listener *listener, const drom_protocol_ref *protocols, size_t count,
                            void (*frame)(void *, const drom_frame *), void *context);

/* Takes an edge, at a time that isn't before the last. */
void sim_listener_edge(sim_listener *listener, drom_us at, bool is_mark);

/* Takes silence for a time. */
void sim_listener_pass(sim_listener *listener, drom_us until);

/* Takes all edges of the bench's line, and the silence after them. The bench's time doesn't change. */
void sim_listener_hear(sim_listener *listener, sim_bench *bench);

#endif
