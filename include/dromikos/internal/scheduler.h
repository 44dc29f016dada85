/* What outputs share: port, time and medium; whose turn it is; and the timed edges. */
#ifndef DROMIKOS_INTERNAL_SCHEDULER_H
#define DROMIKOS_INTERNAL_SCHEDULER_H

#include "../port.h"
#include "air.h"

/** In place of an output's row: not known yet. So a plan has at most 254 outputs. */
#define DROM_ANY_OUTPUT 254

typedef struct drom_timing {
    const drom_port DROM_FLASH *port;
    drom_us now; /**< time of this poll */
    drom_air air;
    drom_us edge_at;      /**< the next timed edge that isn't in the ring */
    drom_wait round_wait; /**< shortest wait of the outputs polled in this round */
    uint8_t turn;         /**< output to poll next */
    uint8_t edge_polls;   /**< consecutive polls that only made timed edges */
    uint8_t open_pulses;  /**< pulses whose second edge isn't in the ring */
    uint8_t refresh_turn; /**< output to ask next whether it needs a refresh */
    uint8_t sends_on;     /**< pin to which hardware last sent pixels; DROM_NONE: none */
    uint8_t hurries;      /**< rounds in which no edge is made far ahead, as a burst is about to begin */
    uint8_t edges_from;   /**< output of the edge at edge_at; DROM_NONE: none; DROM_ANY_OUTPUT: changed */
    drom_timed_edges timed_edges;
} drom_timing;

#endif
