/* The facts of a board for the plan language and the checks: its pins, what each can do, and how the chip
 * keeps time. */
#ifndef DROMIKOS_PLAN_BOARDS_H
#define DROMIKOS_PLAN_BOARDS_H

#include "dromikos/port.h"

#include <stdbool.h>
#include <stdint.h>

/* The timer of a pin, for PWM. */
enum { NO_TIMER = 255 };

typedef struct board_pin {
    const char *name;
    uint8_t number; /* as the port numbers them */
    uint8_t timer;  /* its timer for PWM; NO_TIMER: none */
    bool has_latch; /* a timer or other hardware stamps its edges */
    bool has_stamp; /* an interrupt stamps its edges: with has_latch, it can be a receiver's */
    bool has_carrier;
    bool has_edges;     /* it can change at exact times: a stepper's or a servo's pin */
    bool is_input_only; /* it has no pull-up */
    uint8_t group;      /* group of pins that share a part of the chip's supply; all in one group if 0 */
    const char *note;   /* its other purpose: "is the serial line's"; NULL: none */
} board_pin;

typedef struct board {
    const char *id;
    const char *chip;
    const char *source;     /* of the facts */
    const char *mcu;        /* the compiler's name for the chip; NULL: no port */
    const char *ide;        /* what the common maker IDE's builder calls the board; NULL: no port */
    const char *programmer; /* the boot loader's protocol, by avrdude's name */
    int upload_baud;
    double min_mhz;
    double max_mhz;
    const board_pin *pins; /* ends with a NULL name */
    const char
        *left; /* the labels beside its pins, from above, USB at the top: on the left side, downwards */
    const char *right;       /* and on the right side */
    const char *analog_only; /* those of the labels that are no pins here; NULL: none */
    const char *supply_pin;  /* label of the pin with USB's 5 V */
    const char *logic_pin;   /* label of the pin with the pins' voltage: a different one on boards of 3.3 V */
    const char *pins_text;   /* "0 to 13 and A0 to A5" */
    const char *receiver;    /* the best pin for a receiver; NULL: any */
    double facts_mhz;        /* clock for which the times hold */
    double mhz;              /* this board's clock */
    double slow_mhz;         /* another clock for which the port works, but for pixels; 0: none */
    double masked_us;        /* longest time for which the port masks interrupts: one pixel, or 0 */
    double capture_us;       /* duration of its handlers */
    double alarm_us;
    double hid_us;      /* time for which a report to a computer masks interrupts */
    double poll_us;     /* mean duration of a poll while a frame is received (155 on the ATmega328P), with the
                           loop around it */
    double logic_volts; /* voltage of a high pin */
    double longest_poll_us; /* current for any plan; 0: unknown */
    const char *port;       /* name of the library's port for this chip and clock; NULL: none */
    unsigned ram;           /* bytes */
    unsigned flash;         /* in bytes, if the library has a port */
    unsigned ide_flash;     /* of the common maker IDE's core, in an empty sketch (tests/sketch.sh) */
    unsigned boot_bytes;    /* of which the usual boot loader takes this much */
    drom_port_store store;  /* only bytes and page_bytes; 0: no store for kept values */
    unsigned store_writes;  /* write cycles of each byte */
    unsigned pin_ma;        /* the data sheet's recommended value, not its absolute maximum */
    unsigned pin_ohms;      /* approximate resistance of a pin that drives */
    unsigned group_ma;      /* of a group's pins; 0: no groups */
    unsigned all_pins_ma;
    unsigned supply_ma;  /* current at its supply pin, from USB */
    uint8_t pwm_bits;    /* bits of a duty */
    uint8_t clock_timer; /* timer used by the clock, which has no PWM; NO_TIMER: the clock has its own */
    uint8_t carrier_timer;
    bool has_usb;         /* it can be a keyboard */
    bool has_adapter;     /* it has no socket for USB: a serial adapter feeds and flashes it */
    bool sends_by_itself; /* hardware sends pixels */
} board;

/* Returns a board, with this clock if it comes with several; NULL if there is none with this id. */
const board *board_by_id(const char *id, double mhz);

/* Returns the ids of all boards, the usual ones first, ending with NULL. */
const char *const *board_ids(void);

/* Returns a pin; NULL if the board has none with this name. */
const board_pin *board_pin_by_name(const board *chosen, const char *name);

#endif
