/* A simulated ATmega328P with things wired to its pins, each of which is read by means of its own. */
#ifndef DROMIKOS_BENCH_CHIP_H
#define DROMIKOS_BENCH_CHIP_H

#include <stdbool.h>
#include <stdint.h>

enum { CHIP_PIXELS = 60, CHIP_LATCH_CYCLES = 144 }; /* 9 µs: the touchiest strips */

/* A pin that is watched: its newest edges. */
typedef struct chip_pin {
    bool is_high;
    uint64_t changed_at; /* in cycles */
} chip_pin;

typedef struct chip_strip {
    uint8_t bytes[3 * CHIP_PIXELS];
    unsigned bits;
    unsigned refreshes;
    unsigned wrong_pixels;
    unsigned cut;         /* refreshes that ended before their last bit, or went on after it */
    uint64_t longest_gap; /* within a refresh, in cycles */
} chip_strip;

typedef struct chip_stepper {
    int phase; /* -1: the coils are off */
    uint8_t levels;
    uint64_t stepped_at;
    unsigned steps;
    unsigned bad_steps; /* the field jumped */
    uint64_t shortest;  /* between steps, in cycles, once at full speed */
    uint64_t longest;
} chip_stepper;

typedef struct chip_relay {
    uint64_t at[64]; /* the newest times at which it was switched */
    unsigned count;
} chip_relay;

typedef struct chip chip;

/* How many pixels of a whole refresh show what the plan can't have meant. */
typedef unsigned chip_picture(const uint8_t *bytes);

/* Loads a program, with the receiver at pin 8 or another D n, and relays at two pins D n. Ends the program
 * with a message when it can't. */
chip *chip_open(const char *elf, unsigned receiver, unsigned relay_a, unsigned relay_b,
                chip_picture *picture);
void chip_close(chip *unwanted);

/* The receiver's line: whether somebody else sends just now. */
void chip_set_line(chip *of, bool is_mark);

/* Whether the receiver sees the sender's own light, too. */
void chip_hear_itself(chip *of, bool is_hearing);

/* Lets the chip run up to a cycle. */
void chip_run(chip *of, uint64_t until);

uint64_t chip_now(const chip *of);
bool chip_is_alive(const chip *of);

const chip_strip *chip_strip_of(const chip *of);
const chip_stepper *chip_stepper_of(const chip *of);
chip_relay *chip_relay_of(chip *of, unsigned relay);

/* When the sender's newest burst began, and ended; 0: none has, or it goes on. */
uint64_t chip_burst_from(const chip *of);
uint64_t chip_burst_until(const chip *of);

/* The runs of a burst that is over, in µs: mark, space, mark and so on; 0 runs when there is none that is
 * new. */
unsigned chip_take_burst(chip *of, double *runs_us, unsigned most);

/* Measured in cycles. */
uint64_t chip_worst_capture(const chip *of);
uint64_t chip_worst_poll(const chip *of);
double chip_mean_poll(const chip *of); /* of those that end while a frame comes in */
uint64_t chip_worst_alarm(const chip *of);

/* The deepest that the stack has been, in bytes. */
unsigned chip_deepest_stack(const chip *of);

/* From the program's symbols, in bytes: flash; static memory; that of it whose name begins so. */
unsigned chip_flash(const chip *of);
unsigned chip_static(const chip *of);
unsigned chip_size_of(const chip *of, const char *prefix);

#endif
