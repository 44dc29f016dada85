/* Prints what vet takes a board's pins for, like pins.c: board_pins ID 0|1, 1 if the plan has a sender. With
 * 'receivers' instead of it: the numbers of the pins that can be a receiver's, one a line. */
#include "plan/board/boards.h"

#include <stdio.h>
#include <string.h>

int main(int argc, char **argv)
{
    const board *const chosen = argc == 3 ? board_by_id(argv[1], 0) : NULL;
    if (chosen == NULL) {
        fprintf(stderr, "board_pins ID 0|1|receivers\n");
        return 2;
    }
    const bool has_sender = strcmp(argv[2], "1") == 0;
    for (const board_pin *pin = chosen->pins; pin->name != NULL; pin++) {
        if (strcmp(argv[2], "receivers") != 0) {
            const bool has_pwm = pin->timer != NO_TIMER && pin->timer != chosen->clock_timer &&
                                 !(has_sender && pin->timer == chosen->carrier_timer);
            (void)printf("%u %d %d %d\n", pin->number, pin->has_edges, has_sender && pin->has_carrier,
                         has_pwm);
        } else if (pin->has_latch || pin->has_stamp) {
            (void)printf("%u\n", pin->number);
        }
    }
    return 0;
}
