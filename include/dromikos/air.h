/* The moment, the machine, and the one air: what every output works with.
 *
 * While we send, our own receiver hears us; while it hears a handset, we had better not. Whoever wants the
 * air, or the processor for so long that a frame could suffer, asks here. The engine keeps it up to date. */
#ifndef DROMIKOS_AIR_H
#define DROMIKOS_AIR_H

#include "port.h"

/** After a transmission the receiver is still stretching our last mark. */
#define DROM_ECHO_US 300

/** Before we transmit the line must have been quiet for this long: no protocol has such a long space in a
 * frame.
 */
#define DROM_QUIET_US 12000

/** When a key that is down speaks, by the frames that it has sent. */
typedef struct drom_rhythm {
    drom_us heard_at;      /**< start of the newest frame */
    drom_us period_us;     /**< from there to the start of the next */
    drom_us begin_us;      /**< a repeat begins within so long, since handsets' clocks are off */
    drom_us around_us;     /**< and is over by then */
    drom_us clear_at;      /**< from then on comes the first repeat that we haven't covered */
    bool has_repeated : 1; /**< a repeat of this press has been heard */
    bool was_muted : 1;    /**< since the newest frame we have covered one, since we were sending, */
    bool was_covered : 1;  /**< and one with a frame that wasn't needed */
} drom_rhythm;

/** The key that speaks next, of those that are down. */
typedef struct drom_expected {
    drom_deadline next; /**< from then on, or just now; not armed: no key is down */
    const drom_rhythm *rhythm;
} drom_expected;

/** A frame that goes on with a press is begun up to so long before its first edge is due. */
#define DROM_AHEAD_US 3000

typedef struct drom_air {
    drom_us transmit_from; /**< first edge of the frame that we send */
    drom_deadline echo;    /**< of its last edge, once that is known: then we are done */
    drom_expected expected;
    drom_us other_at;         /**< the newest edge of a mark that wasn't expected */
    bool is_other : 1;        /**< nor is the newest mark */
    bool is_quiet : 1;        /**< the line has been quiet for DROM_QUIET_US */
    bool is_free : 1;         /**< but for what a key that is down repeats, it has */
    bool is_mark : 1;         /**< the line is in a mark */
    bool is_muted : 1;        /**< we transmit, and our receiver hears it */
    bool is_transmitting : 1; /**< we send a frame, or its echo isn't over */
    bool was_quiet : 1;       /**< as we began to */
    bool is_spare : 1;        /**< a frame that its press goes on with, and doesn't need */
    bool is_taken : 1;        /**< we send a press, whose next frame will come at its time */
} drom_air;

/** What an output works with. */
typedef struct drom_timing {
    const drom_port DROM_FLASH *port;
    drom_us now; /**< of this poll */
    drom_air air;
    drom_us edge_at;      /**< of the soonest timed edge that isn't made yet */
    drom_wait round_wait; /**< the shortest wait of the outputs that have been polled in this round */
    uint8_t turn;         /**< the output that is polled next */
    uint8_t edge_polls;   /**< in a row that made timed edges, and did nothing else */
    uint8_t open_pulses;  /**< whose second edge isn't made yet */
    uint8_t refresh_turn; /**< the output that is the next to be asked whether it wants a refresh */
    uint8_t sends_on;     /**< 1 more than the pin to which pixels went last, where a machine of its own sends
                            them; 0: none have */
    uint8_t hurries;      /**< for so many rounds no edge is made far ahead, since a burst is to begin */
    uint8_t edges_from;   /**< whose that timed edge is; DROM_NO_OUTPUT: there is none; DROM_ANY_OUTPUT:
                            an output's next timed edge has changed */
    drom_timed_edges timed_edges;
} drom_timing;

/** No row of the outputs. */
#define DROM_NO_OUTPUT 255

/** Nor this: it isn't known which. So a plan has 254 outputs at most. */
#define DROM_ANY_OUTPUT 254

/** True when a moment is one at which a key that is down may repeat its frame. */
bool drom_air_expects(const drom_air *air, drom_us at);

/** True when we may begin to transmit for `us`: nobody else does, and no key that is down will; or those that
 * are never leave so long a silence, and their repeats are covered. */
bool drom_air_is_free(const drom_timing *timing, drom_us us);

/** True when a refresh can keep the processor busy for `us`. Where a port lets handlers in, no frame may be
 * complete before that, which is `soonest` µs from now; where it doesn't, no handset may be transmitting, nor
 * about to. */
bool drom_air_allows_refresh(const drom_timing *timing, drom_us us, drom_us soonest);

/** We begin to send a frame at a time; `is_shielded`: our receiver won't hear it. */
void drom_air_begin_transmission(drom_timing *timing, drom_us from, bool is_shielded);

/** The frame's last edge will be at a time. */
void drom_air_end_transmission(drom_timing *timing, drom_us until);

#endif
