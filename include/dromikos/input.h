/* An input: a receiver's line, from the edges that an interrupt left behind to the frames. */
#ifndef DROMIKOS_INPUT_H
#define DROMIKOS_INPUT_H

#include "port.h"
#include "receive.h"
#include "ring.h"

typedef struct drom_input {
    bool has_edge : 1;     /**< `edge` hasn't been given to the receiver yet */
    bool has_frame : 1;    /**< `frame` hasn't been dealt with yet */
    bool has_more : 1;     /**< edges were waiting with the newest one */
    drom_edge edge;        /**< the newest */
    uint16_t tolerance_us; /**< of `edge`, whose time was set back by so much */
    uint16_t masked_us;    /**< the newest refresh during which all interrupts were off: so long, */
    drom_us masked_from;   /**< and since when */
    drom_frame frame;
    drom_receiver receiver;
    drom_ring ring;
} drom_input;

/** Starts an input on a quiet line. Main only. */
void drom_input_init(drom_input *input, const drom_receive_plan DROM_FLASH *plan);

/** True when no edge waits to be taken. Main only. */
bool drom_input_is_empty(const drom_input *input, const drom_port DROM_FLASH *port);

/** Takes the edge that waits longest, with its whole time; false when none does. Main only. */
bool drom_input_take(drom_input *input, const drom_port DROM_FLASH *port, drom_us now);

/** Up to when all edges are known by now. Main only. */
drom_us drom_input_heard_until(const drom_port DROM_FLASH *port, drom_us now);

/** Brings the receiver nearer to a moment. A frame that it gives is for the next poll: so that none has to
 * both find a frame and do all that it brings about. Main only. */
drom_progress drom_input_advance(drom_input *input, drom_us now);

/** Gives the receiver the edge. Main only. */
void drom_input_give(drom_input *input);

/** All interrupts were off for a time. Main only. */
void drom_input_was_masked(drom_input *input, drom_us from, drom_us us);

#endif
