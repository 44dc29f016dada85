// A C++ program for an ATmega328P, with the tables of relays.c.
#include "relays.h"

#include "dromikos/outputs/relay.h"

#include "avr.h"

int main()
{
    drom_avr_open();
    if (drom_engine_init(&drom_avr_engine, &relays_plan, &drom_avr_port, nullptr) != DROM_OK) {
        return 1;
    }
    (void)drom_engine_order(&drom_avr_engine, BELL, DROM_RELAY_PULSE, 300);
    for (;;) {
        drom_engine_idle(&drom_avr_engine, drom_engine_poll(&drom_avr_engine));
    }
}
