/* A plan on the board that takes orders through variables, for tests that write the simulated chip's memory.
 */
#include "avr.h"

#include "dromikos/plan.h"

#include <avr/interrupt.h>

extern const drom_plan DROM_FLASH DROM_PLAN;

/** The order to be done; 0 again when it is done. */
volatile uint8_t wish;
enum { WISH_STOP = 1, WISH_START, WISH_ACT, WISH_HANG, WISH_HANG_MASKED };

/** With WISH_ACT. */
drom_action wished_action;

/** For WISH_HANG: the program hangs until this is 0. */
volatile uint8_t hangs;

/** How many times the plan's first event is posted in each turn of the loop. */
volatile uint8_t posts;

/** The engine's state, after each poll. */
volatile uint8_t engine_state;

static void grant(void)
{
    if (wish == WISH_STOP) {
        drom_engine_stop(&drom_avr_engine);
    } else if (wish == WISH_HANG || wish == WISH_HANG_MASKED) {
        if (wish == WISH_HANG_MASKED) {
            cli();
        }
        hangs = 1;
        wish = 0;
        while (hangs != 0) {
        }
        sei();
    } else if (wish == WISH_START) {
        (void)drom_engine_start(&drom_avr_engine, &DROM_PLAN, &drom_avr_port);
    } else {
        const drom_action action = wished_action;
        (void)drom_engine_order(&drom_avr_engine, action.row, action.verb, action.value);
    }
    wish = 0;
}

enum { AWAKE_US = 50 }; /* the port doesn't sleep for so short a time, which the simulator would extend */

int main(void)
{
    drom_avr_open();
    (void)drom_engine_start(&drom_avr_engine, &DROM_PLAN, &drom_avr_port);
    for (;;) {
        const drom_wait wait = drom_engine_poll(&drom_avr_engine);
        engine_state = drom_avr_engine.state;
#if DROM_WITH_POSTS
        for (uint8_t i = 0; i < posts; i++) {
            (void)drom_engine_post(&drom_avr_engine, 0, i);
        }
#endif
        if (wish != 0) {
            grant();
        } else {
            drom_engine_idle(&drom_avr_engine, wait < AWAKE_US ? wait : AWAKE_US);
        }
    }
}
