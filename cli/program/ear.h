/* The ear: a program that prints what a receiver receives, for a board and a pin. */
#ifndef DROMIKOS_CLI_EAR_H
#define DROMIKOS_CLI_EAR_H

#include "plan/board/boards.h"

#include <stdbool.h>

typedef struct ear_wish {
    const board *board;
    double mhz; /* as given; 0: the board's usual clock */
    const board_pin *pin;
} ear_wish;

/* Finds board and pin by their names; without a pin the board's best for a receiver. False if there is no
 * such board, or the pin can't be a receiver's: this has been reported. */
bool ear_wish_take(const char *verb, const char *board_id, double mhz, const char *pin_name, ear_wish *wish);

/* Writes the folder. Returns an exit code; errors have been reported. The board must have a port. */
int ear_write(const char *verb, const char *path, const ear_wish *wish);

/* Returns the speed of the ear's line on a plan's board: the usual one if `plan_path` is NULL or has errors.
 */
int ear_baud(const char *plan_path);

#endif
