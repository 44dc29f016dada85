/* The protocols that the library knows, one row each, and the figures that a row of your own needs.
 *
 * A row is linked only when a plan names it. */
#ifndef DROMIKOS_PROTOCOLS_H
#define DROMIKOS_PROTOCOLS_H

#include "receive.h"

/** Pulse distance: every bit is a mark of one length and a space whose length tells the bit. In µs, at the
 *  receiver's output. */
typedef struct drom_pulse_timing {
    uint16_t leader_mark_us;
    uint16_t leader_space_us;
    uint16_t ditto_space_us; /**< the leader space of a ditto; 0 where the protocol has none */
    uint16_t mark_us;
    uint16_t zero_space_us;
    uint16_t one_space_us;
    uint8_t bits; /**< 1 to 32, least significant first */
} drom_pulse_timing;

/** The decoder of the family; `timing` of the protocol is a drom_pulse_timing. */
drom_step drom_pulse_step;

/** nec: 38 kHz; address 0 to 255, command 0 to 255, each sent with its complement; dittos every 108 ms. */
extern const drom_protocol DROM_FLASH drom_nec;
extern const drom_pulse_timing DROM_FLASH drom_nec_timing;

#endif
