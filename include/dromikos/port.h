/* The port: all that the core asks of a machine, and what the machine promises. A const struct of small
 * tables, one for each thing that a machine may be able to do; a table that no plan of the program needs is
 * null. What is in a table isn't, unless it says so.
 *
 * Two rings tie the core to the pins. Edges come in through the capture ring: the port's capture interrupt
 * calls drom_engine_edge(). Timed edges go out through the ring of timed edges (timed_edges.h): the port's
 * alarm interrupt takes them when their time has come. Between the two everything runs in main, and may be
 * late. A port may know how these two are laid out (its assembler has to), and no other field of the engine.
 *
 * All functions get the port's `context`. They are called from main, and none waits, unless it says so.
 * docs/porting.md goes through them call by call. */
#ifndef DROMIKOS_PORT_H
#define DROMIKOS_PORT_H

#include "bytes.h"
#include "timed_edges.h"

/** How a port learns when an edge was. */
typedef enum drom_stamp {
    DROM_STAMP_HARDWARE,  /**< a timer latches the time: interrupts that are off don't matter to it, and such
                             an  edge is never corrected */
    DROM_STAMP_INTERRUPT, /**< the handler reads the clock: late by as long as interrupts were off */
    DROM_STAMP_POLLING,   /**< a loop looks at the pin: late by up to the time between two looks */
} drom_stamp;

/** What a port declares of itself. The checker and the engine use it. */
typedef struct drom_port_facts {
    drom_stamp stamp;
    uint16_t latency_us; /**< longest that the port's own handlers keep an interrupt waiting */
    uint8_t pins;        /**< there are pins 0 to this, less one */
} drom_port_facts;

/** Every port. */
typedef struct drom_port_clock {
    /** The time in µs, on the clock that stamps the edges. At most 5 µs; interrupts off for 1 µs. */
    drom_us (*now)(void *context);

    /** Sleeps for at most `wait` µs (DROM_LONG on a host: for ever), or until an edge comes, or wake(); an
     * edge that waits in the capture ring already must keep it from sleeping. May return earlier. Waits.
     * Null: it polls on. */
    void (*sleep)(void *context, drom_wait wait);

    /** A sleep after it returns at once. Main or interrupt. Null where sleep is. */
    void (*wake)(void *context);
} drom_port_clock;

/** Every port. */
typedef struct drom_port_pins {
    /** Drives a pin high or low, and makes it an output the first time. At most 5 µs; interrupts off for 1
     * µs.
     */
    void (*write)(void *context, uint8_t pin, bool is_high);

    /** The level of a pin, which becomes an input that rests high the first time. At most 5 µs. Null: there
     * are no inputs. */
    bool (*read)(void *context, uint8_t pin);
} drom_port_pins;

/** Lamps, motors. */
typedef struct drom_port_pwm {
    /** Drives a pin at 200 Hz or faster, high for `duty` of 65536; 0 is low and 65535 high all the time.
     * Others are multiples of what `bits` can show. At most 10 µs; interrupts off for 1 µs. */
    void (*write)(void *context, uint8_t pin, uint16_t duty);

    uint8_t bits; /**< resolution of a duty, 1 to 16 */
} drom_port_pwm;

/** Pins that turn over at exact times: steppers, servos; with a carrier, senders. */
typedef struct drom_port_edges {
    /** What drom_timed_edge.toggles needs in order to turn a pin over, and makes the pin an output; 0: no
     * timed edge can be on this pin. At most 5 µs. */
    uint32_t (*toggle)(void *context, uint8_t pin);

    /** Readies a carrier of so many kHz on a pin, silent as yet, and gives what turns it on or off in a timed
     * edge; 0: there is no carrier on this pin. At most 20 µs. Null: there is none. */
    uint32_t (*ready_carrier)(void *context, uint8_t pin, uint8_t khz);

    /** A timed edge has been added: arms the alarm for the first one, unless it is armed. The alarm's handler
     * takes no timed edge out of an empty ring. At most 5 µs; interrupts off for 2 µs. */
    void (*arm)(void *context, const drom_timed_edges *timed_edges);

    /** Turns the alarm off: its handler doesn't run from then on, until it is armed again. At most 5 µs;
     * interrupts off for 1 µs. */
    void (*stop)(void *context);
} drom_port_edges;

/** Strips. */
typedef struct drom_port_pixels {
    /** Sends `count` bytes to an 800 kHz strip: 1.25 µs a bit, most significant first. Not while is_busy() is
     * true of any pin: strips go out one after the other. A port whose processor sends the bytes returns when
     * they are out. It turns interrupts off for one pixel (3 bytes, 30 µs) at a time
     * where `can_slice`, and lets one handler in after each; else it may turn them off all the while. For as
     * long as that takes, all handlers of more than 8 µs but the clock's and the capture's are off. */
    void (*begin)(void *context, uint8_t pin, const uint8_t *bytes, uint16_t count);

    /** Of a machine that sends them by itself, and returned at once: true of the pin until they are out. The
     * bytes are left alone until then. Null: they are out when begin() returns. */
    bool (*is_busy)(void *context, uint8_t pin);

    bool can_slice; /**< a handler is let in after each pixel, or interrupts stay on */
} drom_port_pixels;

/** The next interval in µs: mark, space, mark and so on; 0: that was all. */
typedef uint16_t drom_burst_next(void *from);

/** A machine that sends a whole burst by itself. Without, the engine makes it of timed edges. */
typedef struct drom_port_burst {
    /** Begins to send, at once. It may ask for the intervals while it does, from an interrupt, or take them
     * all before it returns. At most 200 µs. */
    void (*begin)(void *context, uint8_t pin, uint8_t khz, drom_burst_next *next, void *from);

    bool (*is_busy)(void *context);

    /** The LED is dark from then on. */
    void (*stop)(void *context);
} drom_port_burst;

/** A machine that measures marks and spaces by itself, and gives them through drom_engine_interval() instead
 * of edges. */
typedef struct drom_port_intervals {
    /** True while the line is in a mark, or in what may yet be part of a burst. */
    bool (*line_is_active)(void *context);

    drom_us late_us; /**< so much later than its end an interval is given, at most */
} drom_port_intervals;

/** A computer's keyboard over USB. */
typedef struct drom_port_hid {
    /** Takes a report: 8 bytes are a boot keyboard's, 2 those of consumer controls. False: the one before is
     * still on its way. At most 20 µs. */
    bool (*send)(void *context, const uint8_t *report, uint8_t count);

    /** True when a computer listens: the cable is in, and it isn't suspended. */
    bool (*is_ready)(void *context);

    /** Joins the bus. At most 20 µs. */
    void (*attach)(void *context);

    /** Leaves the bus, so that the computer lets all keys go. Main, or where the guard acts. */
    void (*detach)(void *context);
} drom_port_hid;

/** Serial lines. A short handler serves each ring. */
typedef struct drom_port_bytes {
    /** Opens a line with its two rings, 8 bits, no parity. False: there is no such line, or no such speed. */
    bool (*open)(void *context, uint8_t line, drom_line *rings, uint32_t baud);

    /** Bytes have been put into the ring that goes out. Main or interrupt. */
    void (*send)(void *context, uint8_t line);
} drom_port_bytes;

/** Memory that outlasts a power cut, as flash does: bits are erased to ones in pages, and programmed to
 * zeros. */
typedef struct drom_port_store {
    void (*read)(void *context, uint16_t at, uint8_t *bytes, uint8_t count);

    /** Begins to erase the page in which an address lies. Not while it is busy. */
    void (*erase)(void *context, uint16_t at);

    /** Begins to program bytes, which are left alone until it isn't busy. Not while it is busy. */
    void (*program)(void *context, uint16_t at, const uint8_t *bytes, uint8_t count);

    bool (*is_busy)(void *context);

    uint16_t bytes;
    uint16_t page_bytes;
    uint16_t stall_us; /**< for so long the processor stands still meanwhile */
} drom_port_store;

/** A pin and the level at which it rests. */
typedef struct drom_rest_pin {
    uint8_t pin;
    bool is_high;
} drom_rest_pin;

/** What acts where the program hangs: motors. */
typedef struct drom_port_guard {
    /** From now on: after so many ms (DROM_GUARD_MIN_MS to DROM_GUARD_MAX_MS) without feed(), and at most 50
     * ms and 3 % more, a tick interrupt writes the image, PWM pins included, and goes on to until start() or
     * stop(). Where interrupts are off, a hardware watchdog starts the program anew after at most four times
     * as long. At most 20 µs. */
    void (*start)(void *context, uint16_t ms, const drom_rest_pin DROM_FLASH *image, uint8_t count);

    /** At most 2 µs. */
    void (*feed)(void *context);

    /** True once it has written the image, until start() or stop(). At most 2 µs. */
    bool (*has_acted)(void *context);

    /** It no longer acts. At most 5 µs. */
    void (*stop)(void *context);
} drom_port_guard;

enum { DROM_GUARD_MIN_MS = 150, DROM_GUARD_MAX_MS = 7000 };

/** A machine. */
typedef struct drom_port {
    void *context;
    drom_port_facts facts;
    const drom_port_clock DROM_FLASH *clock;
    const drom_port_pins DROM_FLASH *pins;
    const drom_port_pwm DROM_FLASH *pwm;
    const drom_port_edges DROM_FLASH *edges;
    const drom_port_pixels DROM_FLASH *pixels;
    const drom_port_burst DROM_FLASH *burst;
    const drom_port_intervals DROM_FLASH *intervals;
    const drom_port_hid DROM_FLASH *hid;
    const drom_port_bytes DROM_FLASH *bytes;
    const drom_port_store DROM_FLASH *store;
    const drom_port_guard DROM_FLASH *guard;
} drom_port;

#endif
