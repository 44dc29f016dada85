/* The chips that are simulated: where their pins are, by the data sheets' tables. Written apart from the
 * port's own tables, against which this is a check. */
#ifndef DROMIKOS_BENCH_MCUS_H
#define DROMIKOS_BENCH_MCUS_H

#include <stdbool.h>

enum { MCU_MAX_PINS = 70 };

typedef struct mcu_pwm {
    unsigned pin;
    unsigned control; /* address of the register that connects the pin to its timer */
    unsigned bit;
    unsigned compare;
} mcu_pwm;

typedef struct mcu {
    const char *name; /* the compiler's and the simulator's */
    unsigned pins;
    const char *places; /* "D2 D3": port and bit of each pin, from 0 on */
    mcu_pwm pwm[16];    /* ends with a control of 0 */
    mcu_pwm
        carrier; /* where the simulator doesn't move the carrier's pin: its register; control 0 elsewhere */
} mcu;

/* Returns a chip; ends the program with a message if there is none with this name. */
const mcu *mcu_by_name(const char *name);

/* The port of a pin, 'A' to 'L', and its bit. */
char mcu_port(const mcu *chip, unsigned pin);
unsigned mcu_bit(const mcu *chip, unsigned pin);

/* Returns the address of a pin's port register. */
unsigned mcu_port_address(const mcu *chip, unsigned pin);

#endif
