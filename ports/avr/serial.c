/* The serial line, byte by byte, independent of the engine's interrupts. */
#include "../../src/compiler.h"

#include "chips/chip.h"

#include <avr/interrupt.h>
#include <avr/io.h>

/* The registers of the chip's serial port. */
#define JOIN_(name, number, end) name##number##end
#define JOIN(...) JOIN_(__VA_ARGS__)
#define STATUS JOIN(UCSR, CHIP_SERIAL, A)
#define CONTROL JOIN(UCSR, CHIP_SERIAL, B)
#define BAUD JOIN(UBRR, CHIP_SERIAL, )
#define DATA JOIN(UDR, CHIP_SERIAL, )

/* The bits have the same places in all of them. */
enum {
    DOUBLE_SPEED = 1 << 1,
    EMPTY = 1 << 5,
    COMPLETE = 1 << 7,
    SENDER = 1 << 3,
    RECEIVER = 1 << 4,
    ASKS_FOR_MORE = 1 << 5
};

/* If the transmitter was switched off before, some simulators have no free data register until its interrupt
 * was enabled for a moment. */
void drom_avr_open_serial(uint32_t baud)
{
    const uint8_t status = SREG;
    STATUS = DOUBLE_SPEED;
    BAUD = (uint16_t)((F_CPU / 4 / baud - 1) / 2);
    cli();
    CONTROL = RECEIVER | SENDER | ASKS_FOR_MORE;
    CONTROL = RECEIVER | SENDER;
    SREG = status;
}

bool drom_avr_put_byte(uint8_t byte)
{
    const bool is_free = (STATUS & EMPTY) != 0;
    if (is_free) {
        DATA = byte;
    }
    return is_free;
}

bool drom_avr_take_byte(uint8_t *byte)
{
    const bool has_come = (STATUS & COMPLETE) != 0;
    if (has_come) {
        *byte = DATA;
    }
    return has_come;
}
