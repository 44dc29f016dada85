/* What the plan language and the checker must know of a board: its pins, what each can do, and how the chip
 * keeps time. */
#ifndef DROMIKOS_PLAN_BOARDS_H
#define DROMIKOS_PLAN_BOARDS_H

#include "dromikos/port.h"

#include <stdbool.h>
#include <stdint.h>

/* A pin's timer, for PWM. */
enum { NO_TIMER = 255 };

typedef struct board_pin {
    const char *name;
    uint8_t number; /* as the port counts them */
    uint8_t timer;  /* that gives it PWM; NO_TIMER: none does */
    bool has_latch; /* a timer or another machine stamps its edges */
    bool has_carrier;
    bool is_input_only; /* and has no resistor of its own that pulls it up */
    uint8_t group;      /* of pins that share a part of the chip's supply; all in one where it is 0 */
    const char *note;   /* what else it is for: "is the serial line's"; NULL: nothing */
} board_pin;

typedef struct board {
    const char *id;
    const char *chip;
    const char *source; /* of the facts */
    double min_mhz;
    double max_mhz;
    const board_pin *pins; /* ends with a NULL name */
    const char *left;  /* what is printed beside its pins, from above, its USB on top: down the left side, */
    const char *right; /* and down the right one */
    const char *analog_only; /* of these, those that are no pins for this; NULL: none */
    const char *supply_pin;  /* that passes on USB's 5 V, */
    const char *logic_pin;   /* and the one with the voltage of its pins: another one where that is 3.3 V */
    const char *pins_text;   /* "0 to 13 and A0 to A5" */
    double facts_mhz;        /* the times hold at this clock */
    double masked_us;        /* longest that the port masks interrupts: for one pixel, or not at all */
    double capture_us;       /* its handlers */
    double alarm_us;
    double poll_us; /* of a poll while a frame comes in, in the mean (155 on the ATmega328P), and of the loop
                       around it */
    double logic_volts;     /* of a pin that is high */
    double longest_poll_us; /* whatever the plan; 0: it isn't known */
    const char *port;       /* what the library ships for it, for that clock, is named after; NULL: nothing */
    unsigned ram;           /* bytes */
    unsigned flash;         /* likewise, where the library ships a port */
    unsigned boot_bytes;    /* of it, the usual boot loader takes */
    drom_port_store store;  /* bytes and page_bytes alone; 0: there is none for values that are kept */
    unsigned store_writes;  /* that each byte of it bears */
    unsigned pin_ma;        /* the data sheet's figure for use, not its absolute maximum */
    unsigned pin_ohms;      /* of what a pin gives, about */
    unsigned group_ma;      /* of the pins of a group; 0: there are no groups */
    unsigned all_pins_ma;
    unsigned supply_ma;  /* what it can pass on at its supply pin, from USB */
    uint8_t pwm_bits;    /* of a duty */
    uint8_t clock_timer; /* which is the clock's, and has no PWM to give; NO_TIMER: it has one of its own */
    uint8_t carrier_timer;
    bool has_usb;         /* and can be a computer's keyboard */
    bool sends_by_itself; /* pixels go out without the processor */
} board;

/* NULL when there is no such board. */
const board *board_by_id(const char *id);

/* The ids of all boards, ending with NULL. */
const char *const *board_ids(void);

/* NULL when the board has no such pin. */
const board_pin *board_pin_by_name(const board *chosen, const char *name);

#endif
