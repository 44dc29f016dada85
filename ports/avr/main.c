/* Any baked plan on the board: compiled with -DPLAN=lantern_plan. */
#include "avr.h"

#ifndef PLAN
#error "say which: -DPLAN=lantern_plan"
#endif

extern const drom_plan DROM_FLASH PLAN;

int main(void)
{
    drom_avr_open();
    if (drom_engine_start(&drom_avr_engine, &PLAN, &drom_avr_port) == DROM_OK) {
        for (;;) {
            drom_engine_idle(&drom_avr_engine, drom_engine_poll(&drom_avr_engine));
        }
    }
    return 1;
}
