/* The port: all that the core asks of a machine, and what the machine promises.
 *
 * Two rings tie the core to the pins. Edges come in through the capture ring: the port's capture interrupt
 * calls drom_engine_edge(). Timed edges go out through the ring of timed edges (timed_edges.h): the port's
 * alarm interrupt takes them when their time has come. Between the two everything runs in main, and may be
 * late.
 *
 * docs/porting.md goes through it call by call. */
#ifndef DROMIKOS_PORT_H
#define DROMIKOS_PORT_H

#include "timed_edges.h"

/** How a port learns when an edge was. */
typedef enum drom_stamp {
    DROM_STAMP_HARDWARE,  /**< a timer latches the time: masked interrupts don't matter to it */
    DROM_STAMP_INTERRUPT, /**< the handler reads the clock: late by as long as interrupts were masked */
    DROM_STAMP_POLLING,   /**< a loop looks at the pin: late by up to the time between two looks */
} drom_stamp;

/** What a port declares of itself. The checker and the engine use it. */
typedef struct drom_port_facts {
    drom_stamp stamp;
    uint16_t latency_us; /**< longest that the port's own handlers keep an interrupt waiting */
    bool can_slice;   /**< pixels go out with a handler let in after each; else interrupts are off for all of
                         them */
    uint8_t pins;     /**< there are pins 0 to this, less one */
    uint8_t pwm_bits; /**< resolution of a duty, 1 to 16; where write_pwm isn't null */
} drom_port_facts;

/** A machine. The functions get `context` back and are called from main only. None may wait, but for
 * send_pixels() and sleep(). Those that no output of the plan needs may be null. */
typedef struct drom_port {
    void *context;
    drom_port_facts facts;

    /** The time in µs, on the clock that stamps the edges. Every port. At most 5 µs; may mask interrupts for
     * 1 µs. */
    drom_us (*now)(void *context);

    /** Drives a pin high or low, and makes it an output the first time. Every port. At most 5 µs; may mask
     * interrupts for 1 µs. */
    void (*write_pin)(void *context, uint8_t pin, bool is_high);

    /** Drives a pin at 200 Hz or faster, high for `duty` of 65536; 0 is low and 65535 high all the time.
     * Others are multiples of what facts.pwm_bits can show. Lamps. At most 10 µs; may mask interrupts
     * for 1 µs. */
    void (*write_pwm)(void *context, uint8_t pin, uint16_t duty);

    /** What drom_timed_edge.toggles needs in order to turn a pin over, and makes the pin an output; 0: no
     * timed edge can be on this pin. Steppers. At most 5 µs. */
    uint32_t (*toggle_pin)(void *context, uint8_t pin);

    /** Readies a carrier of so many kHz on a pin, silent as yet, and gives what turns it on or off in a timed
     * edge; 0: there is no carrier on this pin. Senders. At most 20 µs. */
    uint32_t (*ready_carrier)(void *context, uint8_t pin, uint8_t khz);

    /** A timed edge has been added: arms the alarm for the first one, unless it is armed. The alarm's handler
     * takes no timed edge out of an empty ring. Steppers and senders. At most 5 µs; may mask interrupts for 2
     * µs. */
    void (*arm_alarm)(void *context, const drom_timed_edges *timed_edges);

    /** Turns the alarm off: its handler doesn't run from then on, until it is armed again. Steppers and
     * senders. At most 5 µs; may mask interrupts for 1 µs. */
    void (*stop_alarm)(void *context);

    /** Sends `count` bytes to an 800 kHz strip: 1.25 µs a bit, most significant first. Masks interrupts for
     * one pixel (3 bytes, 30 µs) at a time where facts.can_slice, and lets one handler in after each; else it
     * may mask them all the while. Strips. */
    void (*send_pixels)(void *context, uint8_t pin, const uint8_t *bytes, uint16_t count);

    /** Sleeps for at most `wait` µs (DROM_LONG on a host: for ever), or until an edge comes; an edge that
     * waits in the capture ring already must keep it from sleeping. May return earlier. Null: it polls on. */
    void (*sleep)(void *context, drom_wait wait);
} drom_port;

#endif
