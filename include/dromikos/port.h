/* The port: what the core requires of a chip, and what the chip guarantees. A const struct of small tables,
 * one per capability. Set tables that your plan doesn't use to NULL. All members of a table are required
 * unless stated otherwise.
 *
 * Two rings connect the core to the pins. The port's capture interrupt passes received edges to
 * drom_engine_edge(). The port's alarm interrupt takes timed edges from their ring (internal/timed_edges.h)
 * when they are due. Everything between the two rings runs in main and may be late. A port may depend on the
 * layout of these two rings (its assembler has to), and on no other field of the engine.
 *
 * All functions receive the port's `context`, are called from main and don't wait, unless stated otherwise.
 * docs/porting.md explains each call. */
#ifndef DROMIKOS_PORT_H
#define DROMIKOS_PORT_H

#include "internal/bytes.h"
#include "internal/timed_edges.h"

#ifdef __cplusplus
extern "C" {
#endif

/** How a port measures the time of an edge. */
typedef enum drom_stamp {
    DROM_STAMP_HARDWARE,  /**< a timer latches the time: exact even while interrupts are off; never corrected
                           */
    DROM_STAMP_INTERRUPT, /**< the handler reads the clock: late by as long as interrupts were off */
    DROM_STAMP_POLLING,   /**< a loop reads the pin: late by up to the time between two reads */
} drom_stamp;

/** What a port declares. The checks and the engine use these facts. */
typedef struct drom_port_facts {
    drom_stamp stamp;
    uint16_t latency_us; /**< longest time for which the port's own handlers delay an interrupt */
    uint8_t pins;        /**< number of pins; the first is 0 */
} drom_port_facts;

/** Required of every port. */
typedef struct drom_port_clock {
    /** Returns the time in µs, of the clock that stamps the edges. At most 5 µs; interrupts off for 1 µs. */
    drom_us (*now)(void *context);

    /** Sleeps for at most `wait` µs (DROM_LONG on a host: without limit), until an edge arrives or wake() is
     * called. Must not sleep while the capture ring holds an edge. May return earlier. Waits. Null: main
     * polls without sleeping. */
    void (*sleep)(void *context, drom_wait wait);

    /** Makes the current or the next sleep return at once. Main or interrupt. Null if `sleep` is. */
    void (*wake)(void *context);
} drom_port_clock;

/** Required of every port. */
typedef struct drom_port_pins {
    /** Drives a pin high or low; the first call makes the pin an output. At most 5 µs; interrupts off for 1
     * µs. */
    void (*write)(void *context, uint8_t pin, bool is_high);

    /** Returns the level of a pin; the first call makes the pin an input with a pull-up. At most 5 µs. Null:
     * the port has no inputs. */
    bool (*read)(void *context, uint8_t pin);
} drom_port_pins;

/** Lamps, motors. */
typedef struct drom_port_pwm {
    /** Drives a pin with PWM of 200 Hz or more, high for `duty` of 65536; 0 is always low, 65535 always high.
     * Other values are rounded to the resolution. At most 10 µs; interrupts off for 1 µs. */
    void (*write)(void *context, uint8_t pin, uint16_t duty);

    uint8_t bits; /**< resolution of a duty, 1 to 16 */
} drom_port_pwm;

/** Pins that change at exact times: steppers, servos; with a carrier, senders. */
typedef struct drom_port_edges {
    /** Makes a pin an output and returns the bits of drom_timed_edge.toggles that invert the pin; 0: this pin
     * has no timed edges. At most 5 µs. */
    uint32_t (*toggle)(void *context, uint8_t pin);

    /** Prepares a carrier of `khz` kHz on a pin, still off, and returns the bits of drom_timed_edge.toggles
     * that switch the carrier on or off; 0: this pin has no carrier. At most 20 µs. Null: no pin has one. */
    uint32_t (*ready_carrier)(void *context, uint8_t pin, uint8_t khz);

    /** Arms the alarm for the first timed edge of the ring, unless the alarm is armed; called after an edge
     * was added. The alarm's handler must check for an empty ring. At most 5 µs; interrupts off for 2 µs. */
    void (*arm)(void *context, const drom_timed_edges *timed_edges);

    /** Switches the alarm off: its handler doesn't run until the alarm is armed again. At most 5 µs;
     * interrupts off for 1 µs. */
    void (*stop)(void *context);
} drom_port_edges;

/** Strips. */
typedef struct drom_port_pixels {
    /** Sends `count` bytes to an 800 kHz strip: 1.25 µs per bit, most significant first. Not called while
     * is_busy() is true of any pin: strips are sent one after the other. A port whose processor sends the
     * bytes returns when all are sent. With `can_slice` it masks interrupts for one pixel (3 bytes, 30 µs) at
     * a time and lets one handler run after each; else it may mask them throughout. Meanwhile it masks all
     * handlers longer than 8 µs, except the clock's and the capture's. */
    void (*begin)(void *context, uint8_t pin, const uint8_t *bytes, uint16_t count);

    /** For hardware that sends in the background: true of the pin until all bytes are sent. The bytes don't
     * change until then. Null: begin() returns when all are sent. */
    bool (*is_busy)(void *context, uint8_t pin);

    bool can_slice; /**< a handler can run after each pixel, or interrupts are never masked */
} drom_port_pixels;

/** Returns the next interval in µs: mark, space, mark and so on; 0 after the last. */
typedef uint16_t drom_burst_next(void *from);

/** Hardware that sends a whole burst by itself. Without it, the engine sends bursts by timed edges. */
typedef struct drom_port_burst {
    /** Begins to send at once. May call `next` from an interrupt while sending, or for all intervals before
     * returning. At most 200 µs. */
    void (*begin)(void *context, uint8_t pin, uint8_t khz, drom_burst_next *next, void *from);

    bool (*is_busy)(void *context);

    /** Switches the LED off and ends the burst. */
    void (*stop)(void *context);
} drom_port_burst;

/** Hardware that measures marks and spaces, passed to drom_engine_interval() instead of edges. */
typedef struct drom_port_intervals {
    /** True while the line is in a mark, or in a space that may be part of a burst. */
    bool (*line_is_active)(void *context);

    drom_us late_us; /**< longest time from the end of an interval to its delivery */
} drom_port_intervals;

/** A keyboard over USB. */
typedef struct drom_port_hid {
    /** Queues a report: 8 bytes of a boot keyboard, or 2 of consumer controls. False: the last report hasn't
     * been sent yet. At most 40 µs. */
    bool (*send)(void *context, const uint8_t *report, uint8_t count);

    /** True while a computer is connected and not suspended. */
    bool (*is_ready)(void *context);

    /** Attaches to the bus. At most 20 µs. */
    void (*attach)(void *context);

    /** Detaches from the bus, so that the computer releases all keys. Main, or the guard's handler. */
    void (*detach)(void *context);
} drom_port_hid;

/** Serial lines. A short handler serves each ring. Not used by the engine yet. */
typedef struct drom_port_bytes {
    /** Opens a line with its two rings, 8 bits, no parity. False: no such line, or no such speed. */
    bool (*open)(void *context, uint8_t line, drom_line *rings, uint32_t baud);

    /** Begins to send; called after bytes were added to `out`. Main or interrupt. */
    void (*send)(void *context, uint8_t line);
} drom_port_bytes;

/** Memory that keeps its content without power, such as flash: pages are erased to ones, bits are programmed
 * to zeros. */
typedef struct drom_port_store {
    void (*read)(void *context, uint16_t at, uint8_t *bytes, uint8_t count);

    /** Begins to erase the page that contains an address. Not called while busy. */
    void (*erase)(void *context, uint16_t at);

    /** Begins to program bytes, which don't change until it is done. Not called while busy. */
    void (*program)(void *context, uint16_t at, const uint8_t *bytes, uint8_t count);

    bool (*is_busy)(void *context);

    uint16_t bytes;
    uint16_t page_bytes;
} drom_port_store;

/** A pin and its level at rest. */
typedef struct drom_rest_pin {
    uint8_t pin;
    bool is_high;
} drom_rest_pin;

/** Puts pins to rest when the program hangs: motors. */
typedef struct drom_port_guard {
    /** Starts the guard. After `ms` (DROM_GUARD_MIN_MS to DROM_GUARD_MAX_MS; at most 50 ms and 3 % more)
     * without feed(), a tick interrupt writes the image, PWM pins included, at each tick until start() or
     * stop(). If interrupts are masked, a hardware watchdog resets the chip after at most four times `ms`. At
     * most 20 µs. */
    void (*start)(void *context, uint16_t ms, const drom_rest_pin DROM_FLASH *image, uint8_t count);

    /** Restarts the guard's time. At most 2 µs. */
    void (*feed)(void *context);

    /** True after the guard has written the image, until start() or stop(). At most 2 µs. */
    bool (*has_acted)(void *context);

    /** Stops the guard. At most 5 µs. */
    void (*stop)(void *context);
} drom_port_guard;

enum { DROM_GUARD_MIN_MS = 150, DROM_GUARD_MAX_MS = 7000 };

/** A chip, or a simulated one. */
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

#ifdef __cplusplus
}
#endif

#endif
