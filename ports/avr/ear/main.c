/* The ear as a program of its own; the sketch does the same, and has no use for this file. */
#ifndef ARDUINO
#include "ear.h"

#include "../avr.h"

bool ear_put_byte(uint8_t byte)
{
    return drom_avr_put_byte(byte);
}

int main(void)
{
    drom_avr_open_serial(EAR_BAUD);
    ear_begin();
    for (;;) {
        ear_poll();
    }
}
#endif
