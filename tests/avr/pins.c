/* Prints over the serial line what the port makes of each pin: "PIN EDGES CARRIER PWM", 0 or 1 each. For
 * tests/pins.sh. */
#include "../../ports/avr/chips/chip.h"

#include <avr/io.h>
#include <avr/sleep.h>

#include <avr/interrupt.h>

/* The registers that connect pins to timers. */
static uint32_t connections(void)
{
    uint32_t all = TCCR0A;
#ifdef TCCR2A
    all = all << 8 | TCCR2A;
#endif
#ifdef TCCR3A
    all = all << 8 | TCCR3A;
#endif
#ifdef OCR4C
#ifdef COM4C0
    all = all << 8 | TCCR4A;
#endif
#endif
    return all;
}

static void put(uint8_t byte)
{
    while (!drom_avr_put_byte(byte)) {
    }
}

static void put_number(uint8_t number)
{
    if (number >= 10) {
        put((uint8_t)('0' + number / 10));
    }
    put((uint8_t)('0' + number % 10));
}

static void put_bit(bool is_set)
{
    put(' ');
    put(is_set ? '1' : '0');
}

int main(void)
{
    const drom_port DROM_FLASH *const port = &drom_avr_port;
    drom_avr_open();
    drom_avr_open_serial(115200);
    for (uint8_t pin = 0; pin < port->facts.pins; pin++) {
        const uint32_t before = connections();
        port->pwm->write(NULL, pin, 0x4000);
        const bool has_pwm = connections() != before;
        port->pwm->write(NULL, pin, 0);
        put_number(pin);
        put_bit(port->edges->toggle(NULL, pin) != 0);
#if DROM_WITH_CARRIER
        put_bit(port->edges->ready_carrier(NULL, pin, 38) != 0);
#else
        put_bit(false);
#endif
        put_bit(has_pwm);
        put('\n');
    }
    for (volatile uint16_t i = 0; i < 20000; i++) { /* the last byte leaves */
    }
    cli();
    sleep_enable();
    sleep_cpu();
}
