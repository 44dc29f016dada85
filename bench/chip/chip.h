/* A simulated ATmega328P with devices on its pins, each read by a model of its own. */
#ifndef DROMIKOS_BENCH_CHIP_H
#define DROMIKOS_BENCH_CHIP_H

#include <stdbool.h>
#include <stdint.h>

/* 9 µs of silence end a picture on the most sensitive strips, 280 µs on all. */
#ifndef CHIP_PIXELS
#define CHIP_PIXELS 60
#endif
enum { CHIP_LATCH_CYCLES = 144, CHIP_LATCHED_CYCLES = 280 * 16 };

/* An observed pin: its newest edges. */
typedef struct chip_pin {
    bool is_high;
    uint64_t changed_at; /* in cycles */
} chip_pin;

typedef struct chip_strip {
    uint8_t bytes[3 * CHIP_PIXELS];
    unsigned bits;
    unsigned refreshes;
    unsigned wrong_pixels;
    unsigned cut;           /* refreshes that ended before their last bit, or went on after it */
    unsigned hasty;         /* refreshes that began before every strip had shown the picture before */
    uint64_t longest_gap;   /* within a refresh, in cycles */
    uint64_t longest_still; /* between two refreshes, likewise */
} chip_strip;

typedef struct chip_stepper {
    int phase; /* -1: the coils are off */
    uint8_t levels;
    uint64_t stepped_at;
    int position; /* of the rotor */
    unsigned steps;
    unsigned bad_steps; /* the field jumped */
    uint64_t shortest;  /* between steps, in cycles, once at full speed */
    uint64_t longest;
} chip_stepper;

typedef struct chip chip;

/* A pin that is observed. */
typedef struct chip_observed {
    const chip *mcu;
    uint64_t at[64]; /* the newest times at which it changed, or was written again */
    unsigned count;
    bool is_high;
    uint64_t high_cycles; /* in all, up to the newest time */
} chip_observed;

/* Returns the number of pixels of whole refreshes with colours that the plan doesn't have. */
typedef unsigned chip_picture(const uint8_t *bytes);

/* Loads a program, with the receiver at pin 8 or another, and relays at two pins; pins are numbered as in the
 * port. Ends the program with a message on an error. */
chip *chip_open(const char *elf, unsigned receiver, unsigned relay_a, unsigned relay_b,
                chip_picture *picture);
void chip_close(chip *unwanted);

/* Sets the receiver's line: whether a handset transmits. */
void chip_set_line(chip *mcu, bool is_mark);

/* Opens or closes a contact between a pin and ground. */
void chip_touch(chip *mcu, unsigned pin, bool is_closed);

/* Sets whether the receiver also receives the sender's light. */
void chip_hear_itself(chip *mcu, bool is_hearing);

/* Lets the chip run up to a cycle. */
void chip_run(chip *mcu, uint64_t until);

/* Returns the program's memory by the name of a variable. Ends the program with a message if there is none.
 */
void chip_read(const chip *mcu, const char *name, void *bytes, unsigned count);
void chip_write(chip *mcu, const char *name, const void *bytes, unsigned count);

uint64_t chip_now(const chip *mcu);
bool chip_is_alive(const chip *mcu);

const chip_strip *chip_strip_of(const chip *mcu);
const chip_stepper *chip_stepper_of(const chip *mcu);
chip_observed *chip_relay_of(chip *mcu, unsigned relay);

/* Observes a pin from now on. At most eight are observed, with the relays. */
chip_observed *chip_observe_pin(chip *mcu, unsigned pin);

/* Returns when the sender's newest burst began, or ended; 0: there is none, or it goes on. */
uint64_t chip_burst_from(const chip *mcu);
uint64_t chip_burst_until(const chip *mcu);

/* Returns when its light was last on. */
uint64_t chip_lit_at(const chip *mcu);

/* Returns the runs of a finished burst, in µs: mark, space, mark and so on; 0 runs if there is no new one. */
unsigned chip_take_burst(chip *mcu, double *runs_us, unsigned max);

/* Takes the bytes that the chip has sent on its serial line since the last call: at most `max`. Returns their
 * number. */
unsigned chip_take_bytes(chip *mcu, uint8_t *bytes, unsigned max);

/* Measured in cycles. */
uint64_t chip_worst_capture(const chip *mcu);
uint64_t chip_worst_poll(const chip *mcu);
double chip_mean_poll(const chip *mcu); /* of polls that end while a frame comes in */
uint64_t chip_worst_alarm(const chip *mcu);

/* The largest depth of the stack, in bytes. */
unsigned chip_deepest_stack(const chip *mcu);

/* From the program's symbols, in bytes: flash; static memory; the part of it whose names begin so. */
unsigned chip_flash(const chip *mcu);
unsigned chip_static(const chip *mcu);
unsigned chip_size_of(const chip *mcu, const char *prefix);

#endif
