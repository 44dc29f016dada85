/* Follows the ring edge by edge through a frame of each key, like src/engine/poll.c: two decoders per poll,
 * the outputs' turns, a refresh whenever nothing is waiting, and one with priority after a while if half of
 * the ring is free. */
#include "plan/vet/estimate.h"

#include "dromikos/internal/receive.h"

enum { MAX_EDGES = 256, PATIENT_US = 4000 };

typedef struct edges {
    double at_us[MAX_EDGES];
    unsigned polls[MAX_EDGES]; /* until it is processed */
    unsigned count;
} edges;

/* The edges of a frame, and the work of the plan's decoders. */
static edges listen_to(const drom_receive_plan *ears, drom_encoder *frame_out)
{
    edges heard = {0};
    drom_receiver receiver;
    drom_frame frame;
    double at_us = 1e6; /* after a long silence */
    drom_receiver_init(&receiver, ears);
    for (uint16_t us = drom_encode_next(frame_out); us != 0 && heard.count < MAX_EDGES;
         us = drom_encode_next(frame_out)) {
        drom_progress progress;
        heard.at_us[heard.count] = at_us;
        do {
            progress = drom_receiver_step(&receiver, (drom_us)at_us, &frame);
            heard.polls[heard.count]++;
        } while (progress == DROM_GOES_ON || progress == DROM_HEARD);
        drom_receiver_edge(&receiver, &(drom_edge){(drom_us)at_us, heard.count % 2 == 0, false}, 0);
        heard.count++;
        at_us += us;
    }
    return heard;
}

/* Returns those of a key; none if it can't be sent. */
static edges edges_of(const plan *loaded, const drom_code *code)
{
    const drom_waveform *const waveform = plan_waveform(loaded, code->protocol);
    drom_receive_plan own = plan_tables(loaded)->receive;
    drom_filter fine = {0};
    drom_encoder encoder;
    if (waveform == NULL || waveform->pack == NULL ||
        drom_encode_begin(&encoder, waveform, code, DROM_SEND_FIRST, false) != DROM_OK) {
        return (edges){0};
    }
    own.decoders = g_new0(drom_decoder, own.protocols.count);
    own.fine = own.fine != NULL ? &fine : NULL;
    own.unknown.memory = NULL;
    const edges heard = listen_to(&own, &encoder);
    g_free(own.decoders);
    return heard;
}

/* Returns the number of edges that have come by now, from the next one on. */
static unsigned waiting(const edges *load, unsigned next, double now_us)
{
    unsigned count = 0;
    while (next + count < load->count && load->at_us[next + count] <= now_us) {
        count++;
    }
    return count;
}

/* Returns how many edges wait at most, and how long, if own code begins to block at an edge; past the last
 * edge: never. A refresh has always just begun at the first edge. */
static estimate follow(const edges *load, const estimate_main *with, unsigned block_at)
{
    const bool has_strip = with->refresh_us > 0;
    estimate max = {0};
    double now_us = load->at_us[0];
    double rested_us = now_us; /* the next refresh is ready then */
    double refreshed_us = now_us;
    for (unsigned i = 0; i < load->count; i++) {
        const bool is_idle = now_us <= load->at_us[i];
        now_us = is_idle ? load->at_us[i] : now_us;
        if (i == block_at) {
            now_us += with->block_us;
        } else if (has_strip && now_us >= rested_us &&
                   (is_idle ||
                    (now_us >= refreshed_us + PATIENT_US && waiting(load, i, now_us) <= DROM_EDGES / 2))) {
            refreshed_us = now_us;
            now_us += with->refresh_us;
            rested_us = now_us + with->rest_us;
        }
        max.waiting = MAX(max.waiting, waiting(load, i, now_us));
        max.late_us = MAX(max.late_us, now_us - load->at_us[i]);
        now_us += load->polls[i] * ESTIMATE_TURNS * with->poll_us;
        max.waiting = MAX(max.waiting, waiting(load, i + 1, now_us));
    }
    return max;
}

static estimate worse_of(estimate a, estimate b)
{
    return (estimate){MAX(a.waiting, b.waiting), MAX(a.late_us, b.late_us), MAX(a.load, b.load)};
}

static estimate estimate_key(const plan *loaded, const drom_code *code, const estimate_main *with)
{
    const edges heard = edges_of(loaded, code);
    double polls = 0;
    if (heard.count < 2) {
        return (estimate){0};
    }
    for (unsigned i = 0; i < heard.count; i++) {
        polls += heard.polls[i];
    }
    estimate cost = follow(&heard, with, heard.count);
    for (unsigned i = 0; with->block_us > 0 && i < heard.count; i++) {
        cost = worse_of(cost, follow(&heard, with, i));
    }
    cost.load = polls * with->poll_us / (heard.at_us[heard.count - 1] - heard.at_us[0]);
    return cost;
}

estimate estimate_edges(const plan *loaded, const drom_protocol *protocol, const estimate_main *with)
{
    const drom_keys_plan *const keys = &plan_tables(loaded)->keys;
    estimate worst = {0};
    for (uint8_t i = 0; i < keys->handsets.count; i++) {
        const drom_handset *const handset = &keys->handsets.rows[i];
        for (uint8_t key = 0; key < handset->codes.count; key++) {
            if (handset->codes.rows[key].protocol == protocol->number) {
                worst = worse_of(worst, estimate_key(loaded, &handset->codes.rows[key], with));
            }
        }
    }
    return worst;
}
