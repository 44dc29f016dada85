/* Edges to a receiver as a poll loop gives them: time stops wherever the receiver asks for it. */
#include "listener.h"

#include <string.h>

void sim_listener_open_with(sim_listener *listener, const drom_protocol_ref *protocols, size_t count,
                            void (*frame)(void *, const drom_frame *), void *context)
{
    memset(listener, 0, sizeof *listener);
    for (size_t i = 0; i < count && i < SIM_MAX_PROTOCOLS; i++) {
        listener->protocols[listener->plan.protocols.count++] = protocols[i];
    }
    listener->plan.protocols.rows = listener->protocols;
    listener->plan.decoders = listener->decoders;
    listener->plan.fine = &listener->fine;
    listener->plan.unknown.functions = &drom_fingerprints;
    listener->plan.unknown.memory = &listener->fingerprint;
    listener->frame = frame;
    listener->context = context;
    drom_receiver_init(&listener->receiver, &listener->plan);
}

void sim_listener_pass(sim_listener *listener, drom_us until)
{
    drom_frame frame;
    bool is_there = false;
    while (!is_there) {
        const drom_us wait = drom_receiver_wait(&listener->receiver, listener->now);
        is_there = wait >= until - listener->now;
        listener->now = is_there ? until : listener->now + wait;
        while (drom_receiver_advance(&listener->receiver, listener->now, &frame)) {
            listener->frame(listener->context, &frame);
        }
    }
}

void sim_listener_edge(sim_listener *listener, drom_us at, bool is_mark)
{
    sim_listener_pass(listener, at);
    drom_receiver_edge(&listener->receiver, &(drom_edge){.at = at, .is_mark = is_mark}, 0);
    listener->intervals++;
}

void sim_listener_hear(sim_listener *listener, sim_bench *bench)
{
    enum { SILENCE_US = 600000 };
    size_t count = 0;
    const sim_edge *const edges = sim_bench_edges(bench, &count);
    int marks = 0;
    for (size_t i = 0; i < count; i++) {
        const bool was_mark = marks > 0;
        marks += edges[i].is_mark ? 1 : -1;
        if ((marks > 0) != was_mark) {
            sim_listener_edge(listener, (drom_us)edges[i].at_us, marks > 0);
        }
    }
    sim_listener_pass(listener, listener->now + SILENCE_US);
}
