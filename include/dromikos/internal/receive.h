/* The receiver: from edges to frames. It filters glitches, divides the line into marks and spaces, and passes
 * each to the decoders of the plan. A decoder reports its frame with the last informative edge. Nothing is
 * buffered. */
#ifndef DROMIKOS_INTERNAL_RECEIVE_H
#define DROMIKOS_INTERNAL_RECEIVE_H

#include "../plan.h"

/** A space longer than this ends a burst. */
#define DROM_BURST_GAP_US 12000

/** Longest pause within a frame, and between its halves (denon). */
#define DROM_LONGEST_PAUSE_US 50000

/** Shortest ditto. */
#define DROM_DITTO_MIN_US 10000

/** How long after a frame its dittos and headerless repeats are valid. */
#define DROM_DITTO_MS 500

/** Starts a receiver on a quiet line. Main only. */
void drom_receiver_init(drom_receiver *receiver, const drom_receive_plan DROM_FLASH *plan);

/** Advances the receiver to `now`. True if a frame is complete; then call it again with the same time until
 * it returns false. Times must not go backwards. Main only. */
bool drom_receiver_advance(drom_receiver *receiver, drom_us now, drom_frame *frame);

/** How far a receiver has advanced. */
typedef enum drom_progress {
    DROM_UP_TO_DATE, /**< all edges are processed */
    DROM_CAUGHT_UP,  /**< likewise, and the call took some time */
    DROM_GOES_ON,    /**< not done yet; don't add an edge */
    DROM_HEARD,      /**< a frame is complete; there may be more to do */
} drom_progress;

/** Advances the receiver by one step: passes the end of a mark or space to at most two decoders, so that
 * polls stay short for any number of protocols. `frame` must not change until DROM_UP_TO_DATE or
 * DROM_CAUGHT_UP. Main only. */
drom_progress drom_receiver_step(drom_receiver *receiver, drom_us now, drom_frame *frame);

/** Adds an edge; first advance the receiver to the time of the edge. `tolerance_us`: additional error of that
 * time in either direction; 0 if a timer latched it. Main only. */
void drom_receiver_edge(drom_receiver *receiver, const drom_edge *edge, uint16_t tolerance_us);

/** True while a protocol's frame has begun and isn't complete. Main only. */
bool drom_receiver_is_within(const drom_receiver *receiver);

/** Returns the shortest time in µs until a frame may be complete, whether or not it has begun. Main only. */
drom_wait drom_receiver_soonest(const drom_receiver *receiver, drom_us now);

/** Returns the wait in µs until it must be advanced without an edge; DROM_LONG on a quiet line. */
drom_wait drom_receiver_wait(const drom_receiver *receiver, drom_us now);

/** Starts an input on a quiet line. Main only. */
void drom_input_init(drom_input *input, const drom_receive_plan DROM_FLASH *plan);

/** True if no edge is waiting. Main only. */
bool drom_input_is_empty(const drom_input *input, const drom_port DROM_FLASH *port);

/** Takes the oldest edge and restores its full time; false if there is none. Main only. */
bool drom_input_take(drom_input *input, const drom_port DROM_FLASH *port, drom_us now);

/** Returns the time up to which all edges are known. Main only. */
drom_us drom_input_heard_until(const drom_port DROM_FLASH *port, drom_us now);

/** Advances the receiver towards `now`. A decoded frame is handled in the next poll, which keeps polls short.
 * Main only. */
drom_progress drom_input_advance(drom_input *input, drom_us now);

/** Passes the edge to the receiver. Main only. */
void drom_input_give(drom_input *input);

/** Reports that all interrupts were masked for a time. Main only. */
void drom_input_was_masked(drom_input *input, drom_us from, drom_us us);

#endif
