/* The serial port of the board: sends a word, and then echoes each byte up to a full stop. */
#include "avr.h"

#include <avr/interrupt.h>
#include <avr/sleep.h>

static void say(uint8_t byte)
{
    while (!drom_avr_put_byte(byte)) {
    }
}

int main(void)
{
    static const char DROM_FLASH word[] = "serial line\n";
    drom_avr_open();
    drom_avr_open_serial(38400);
    for (const char DROM_FLASH *at = word; *at != '\0'; at++) {
        say((uint8_t)*at);
    }
    uint8_t byte;
    if (drom_avr_take_byte(&byte)) {
        say('?'); /* nothing has been sent to it */
    }
    for (uint16_t i = 0; i < 3000; i++) { /* the last byte goes out */
        (void)drom_avr_port.clock->now(NULL);
    }
    cli();
    sleep_cpu();
    return 0;
}
