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

typedef struct drom_air {
    drom_us transmit_from;    /**< first edge of the frame that we send */
    drom_deadline echo;       /**< of its last edge, once that is known: then we are done */
    drom_deadline next_frame; /**< from then on a held key's handset may speak again, but for: */
    uint8_t passed_on; /**< 1 more than the row of the handset whose key is being passed on; 0: none is */
    uint8_t covered;   /**< the same, where the frame that is to be sent for it may cover its repeats: one
                          since the newest frame that was heard */
    bool is_quiet : 1; /**< the line has been quiet for DROM_QUIET_US */
    bool is_mark : 1;  /**< the line is in a mark */
    bool is_muted : 1; /**< we transmit, and our receiver hears it */
    bool is_transmitting : 1; /**< we send a frame, or its echo isn't over */
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

/** True when `us` from now on are free: no handset is transmitting, none that has a key held will, and
 * we aren't. */
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
