/* An input: restores the upper bits of edges' times, as a port stores 15 bits only, to keep its interrupt
 * short. */
#include "../compiler.h"

#include "../../include/dromikos/internal/receive.h"

#include "../bound.h"

void drom_input_init(drom_input *input, const drom_receive_plan DROM_FLASH *plan)
{
    drom_receiver_init(&input->receiver, plan);
}

/* The error of an edge's time, if interrupts were masked and no hardware latched it. The time is corrected by
 * this, to the middle of the possible range. */
static uint16_t correct(const drom_input *input, const drom_port DROM_FLASH *port, drom_edge *edge)
{
    if (input->masked_us == 0 || port->facts.stamp == DROM_STAMP_HARDWARE) {
        return 0;
    }
    const drom_us into = edge->at - input->masked_from;
    if (into > input->masked_us + port->facts.latency_us || into > UINT16_MAX) {
        return 0;
    }
    edge->at -= into / 2;
    return (uint16_t)(into / 2);
}

/* The first of several waiting edges is recent, unless main was blocked for 32 ms; it may even be later than
 * `now`. The others follow within that time. */
static drom_us date(const drom_input *input, drom_us now, uint16_t low)
{
    const drom_us from = input->has_more ? input->edge.at + input->tolerance_us : now + 1000;
    return input->has_more ? from + ((uint16_t)(low - (uint16_t)from) & 0x7fff)
                           : from - ((uint16_t)((uint16_t)from - low) & 0x7fff);
}

static bool is_measured(const drom_port DROM_FLASH *port)
{
    return DROM_WITH_INTERVALS && port->intervals != NULL;
}

/* Takes an edge of a measured interval: its start, unless the one before ended there, then its end. */
static bool take_measured(drom_input *input)
{
    drom_interval_ring *const ring = drom_receiver_plan(&input->receiver)->intervals;
    if (drom_interval_ring_is_empty(ring)) {
        return false;
    }
    const drom_interval_slot slot = *drom_interval_ring_first(ring);
    const drom_us begins_at = slot.end_at - slot.us;
    const bool has_begun = input->edge.at == begins_at && input->edge.is_mark == slot.is_mark;
    input->edge = has_begun ? (drom_edge){slot.end_at, !slot.is_mark, false}
                            : (drom_edge){begins_at, slot.is_mark, slot.after_loss};
    if (has_begun) {
        drom_interval_ring_take(ring);
    }
    input->has_edge = true;
    return true;
}

bool drom_input_is_empty(const drom_input *input, const drom_port DROM_FLASH *port)
{
    return is_measured(port) ? drom_interval_ring_is_empty(drom_receiver_plan(&input->receiver)->intervals)
                             : drom_ring_is_empty(&input->ring);
}

bool drom_input_take(drom_input *input, const drom_port DROM_FLASH *port, drom_us now)
{
    uint16_t slot;
    bool after_loss;
    if (is_measured(port)) {
        return take_measured(input);
    }
    if (!drom_ring_take(&input->ring, &slot, &after_loss)) {
        input->has_more = false;
        return false;
    }
    input->edge = (drom_edge){date(input, now, slot >> 1), slot & 1, after_loss};
    input->tolerance_us = correct(input, port, &input->edge);
    input->has_more = true;
    input->has_edge = true;
    return true;
}

drom_us drom_input_heard_until(const drom_port DROM_FLASH *port, drom_us now)
{
    return is_measured(port) ? now - port->intervals->late_us : now;
}

DROM_NOINLINE drom_progress drom_input_advance(drom_input *input, drom_us now)
{
    const drom_progress progress = drom_receiver_step(&input->receiver, now, &input->frame);
    input->has_frame = progress == DROM_HEARD;
    return progress;
}

void drom_input_give(drom_input *input)
{
    drom_receiver_edge(&input->receiver, &input->edge, input->tolerance_us);
}

void drom_input_was_masked(drom_input *input, drom_us from, drom_us us)
{
    input->masked_from = from;
    input->masked_us = us > UINT16_MAX ? UINT16_MAX : (uint16_t)us;
}
