/* The plan on its port, for a sketch. */
#include "theatre.h"

#include "../ports/avr/avr.h"
#include "lantern_plan.h"

bool theatre_begin(void)
{
    drom_avr_open();
    return drom_engine_start(&drom_avr_engine, &lantern_plan, &drom_avr_port) == DROM_OK;
}

void theatre_poll(void)
{
    drom_engine_idle(&drom_avr_engine, drom_engine_poll(&drom_avr_engine));
}
