/* A program that takes orders from outside (orders.c) in a simulated chip, and the checks of what it does. */
#ifndef DROMIKOS_TESTS_AVR_WISHES_H
#define DROMIKOS_TESTS_AVR_WISHES_H

#include "cli/rehearse/board_chip.h"

enum { CYCLES_PER_MS = 16000 };

/* As orders.c has them. */
enum { WISH_STOP = 1, WISH_START, WISH_ACT, WISH_HANG, WISH_HANG_MASKED };

void wait_ms(chip *mcu, double ms);

/* Has a wish granted, before it returns. */
void grant(chip *mcu, uint8_t wish);

/* Gives an output an order. */
void act(chip *mcu, uint8_t output, uint8_t verb, uint32_t value);

/* Says that a thing is right, or wrong; and how many were wrong. */
void check(bool is_right, const char *what);
unsigned wrong_things(void);

/* Any pixels are right. */
unsigned any_picture(const uint8_t *bytes);

/* Says whether the program still runs, and closes it. */
void close_checked(chip *mcu);

#endif
