/* The program: it checks the plan, and runs it. If the plan is refused, the LED on pin 13 stays on. */
#include "relays.h"

#include "avr.h"

int main(void)
{
    drom_fault fault;
    drom_avr_open();
    if (drom_engine_init(&drom_avr_engine, &relays_plan, &drom_avr_port, &fault) == DROM_OK) {
        for (;;) {
            drom_engine_idle(&drom_avr_engine, drom_engine_poll(&drom_avr_engine));
        }
    }
    drom_avr_port.pins->write(NULL, 13, true);
    return 1;
}
