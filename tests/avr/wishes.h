/* A program that takes orders from outside (orders.c) in a simulated chip, and checks of its behaviour. */
#ifndef DROMIKOS_TESTS_AVR_WISHES_H
#define DROMIKOS_TESTS_AVR_WISHES_H

#include "chip.h"

enum { CYCLES_PER_MS = 16000 };

/* As in orders.c. */
enum { WISH_STOP = 1, WISH_START, WISH_ACT, WISH_HANG, WISH_HANG_MASKED };

void wait_ms(chip *mcu, double ms);

/* Waits until an order is done. */
void grant(chip *mcu, uint8_t wish);

/* Gives an output an order. */
void act(chip *mcu, uint8_t output, uint8_t verb, uint32_t value);

/* Prints whether a check is right or wrong; and returns the number of wrong ones. */
void check(bool is_right, const char *what);
unsigned wrong_things(void);

/* Accepts any pixels. */
unsigned any_picture(const uint8_t *bytes);

/* Checks that the program still runs, and closes it. */
void close_checked(chip *mcu);

#endif
