/* What the plan language must know of a board: which pins there are. */
#ifndef DROMIKOS_PLAN_BOARDS_H
#define DROMIKOS_PLAN_BOARDS_H

#include <stdint.h>

typedef struct board_pin {
    const char *name;
    uint8_t number; /* as the port counts them */
} board_pin;

typedef struct board {
    const char *id;
    const char *chip;
    double least_mhz;
    double most_mhz;
    const board_pin *pins; /* ends with a NULL name */
} board;

/* NULL when there is no such board. */
const board *board_by_id(const char *id);

/* The ids of all boards, ending with NULL. */
const char *const *board_ids(void);

/* NULL when the board has no such pin. */
const board_pin *board_pin_by_name(const board *on, const char *name);

#endif
