/* The port: all that the core asks of a machine.
 *
 * Edges come the other way: the port's capture interrupt calls drom_engine_edge(). */
#ifndef DROMIKOS_PORT_H
#define DROMIKOS_PORT_H

#include "timing.h"

/** A machine. The functions get `context` back; each is called from main only, and may mask no interrupts. */
typedef struct drom_port {
    void *context;

    /** The time in µs, on the clock that stamps the edges. At most 5 µs. */
    drom_us (*now)(void *context);

    /** Drives a pin high or low, and makes it an output the first time. At most 5 µs. */
    void (*write_pin)(void *context, uint8_t pin, bool is_high);
} drom_port;

#endif
