/* The program of any baked plan, with the drom_config.h that was baked with it. */
#include "avr.h"

#ifndef DROM_PLAN
#error "drom_config.h names no plan: take the one that was baked with it"
#endif

extern const drom_plan DROM_FLASH DROM_PLAN;

int main(void)
{
    drom_avr_open();
    if (drom_engine_start(&drom_avr_engine, &DROM_PLAN, &drom_avr_port) == DROM_OK) {
        for (;;) {
            drom_engine_idle(&drom_avr_engine, drom_engine_poll(&drom_avr_engine));
        }
    }
    return 1;
}
