/* The serial line, byte by byte, independent of the engine's interrupts. */
#include "../../src/compiler.h"

#include "avr.h"

#include <avr/interrupt.h>
#include <avr/io.h>

/* If the transmitter was switched off before, some simulators have no free data register until its interrupt
 * was enabled for a moment. */
void drom_avr_open_serial(uint32_t baud)
{
    const uint8_t status = SREG;
    UCSR0A = 1 << U2X0;
    UBRR0 = (uint16_t)((F_CPU / 4 / baud - 1) / 2);
    cli();
    UCSR0B = 1 << RXEN0 | 1 << TXEN0 | 1 << UDRIE0;
    UCSR0B = 1 << RXEN0 | 1 << TXEN0;
    SREG = status;
}

bool drom_avr_put_byte(uint8_t byte)
{
    const bool is_free = (UCSR0A & (1 << UDRE0)) != 0;
    if (is_free) {
        UDR0 = byte;
    }
    return is_free;
}

bool drom_avr_take_byte(uint8_t *byte)
{
    const bool has_come = (UCSR0A & (1 << RXC0)) != 0;
    if (has_come) {
        *byte = UDR0;
    }
    return has_come;
}
