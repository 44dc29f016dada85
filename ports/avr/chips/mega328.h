/* The ATmega328P, on boards that number its pins D0 to D13 and A0 to A5 (14 to 19). Pins of the capture and
 * of the compare outputs: data sheet, "Pin Configurations". */
#ifndef DROMIKOS_AVR_MEGA328_H
#define DROMIKOS_AVR_MEGA328_H

#include "../avr.h"

#include <avr/io.h>

#if defined(DROM_CHIP) && DROM_CHIP != DROM_CHIP_ATMEGA328P
#error "this plan was baked for another chip: name the right board in the plan and bake it again"
#endif

/* Pins; the one whose edges timer 1 latches; the carrier's; and which timer makes it. */
#define CHIP_PINS 20
#define CHIP_LATCH_PIN 8
#define CHIP_LATCH_INPUT PINB
#define CHIP_LATCH_BIT 0
#define CHIP_CARRIER_PIN 3

/* An interrupt can stamp the edges of any pin: a change within its group. */
#if DROM_RECEIVER_PIN < 8
#define CHIP_RECEIVER PCINT2_vect, PIND, DROM_RECEIVER_PIN
#define CHIP_OPEN_RECEIVER (PCMSK2 = 1 << DROM_RECEIVER_PIN, PCICR = 1 << PCIE2)
#elif DROM_RECEIVER_PIN < 14
#define CHIP_RECEIVER PCINT0_vect, PINB, (DROM_RECEIVER_PIN - 8)
#define CHIP_OPEN_RECEIVER (PCMSK0 = 1 << (DROM_RECEIVER_PIN - 8), PCICR = 1 << PCIE0)
#elif DROM_RECEIVER_PIN < CHIP_PINS
#define CHIP_RECEIVER PCINT1_vect, PINC, (DROM_RECEIVER_PIN - 14)
#define CHIP_OPEN_RECEIVER (PCMSK1 = 1 << (DROM_RECEIVER_PIN - 14), PCICR = 1 << PCIE1)
#endif

/* Pins with timed edges: those of three ports, each with a byte of the toggles. The fourth byte is the
 * carrier's. */
#define CHIP_EDGE_INPUTS PIND, PINB, PINC
#define CHIP_TOGGLE_OTHERS ""
#define CHIP_CARRIER_CONTROL TCCR2A
#define CHIP_CARRIER_BIT COM2B1

static inline volatile uint8_t *chip_port(uint8_t pin)
{
    return pin < 8 ? &PORTD : pin < 14 ? &PORTB : &PORTC;
}

static inline uint8_t chip_bit(uint8_t pin)
{
    return pin < 8 ? pin : (uint8_t)(pin < 14 ? pin - 8 : pin - 14);
}

/* Returns the byte of the toggles that has a pin. */
static inline uint8_t chip_edge_byte(uint8_t pin)
{
    return pin < 8 ? 0 : pin < 14 ? 1 : 2;
}

/* PWM on the pins of timers 0 and 2, at 976 Hz with a clock of 16 MHz. Timer 2 is the carrier's, if something
 * is sent. */
#if DROM_WITH_CARRIER
#define CHIP_PWM(with) with(5, OCR0B, TCCR0A, COM0B1) with(6, OCR0A, TCCR0A, COM0A1)
#define CHIP_OPEN_PWM ((void)0)
#else
#define CHIP_PWM(with)                                                                                       \
    with(5, OCR0B, TCCR0A, COM0B1) with(6, OCR0A, TCCR0A, COM0A1) with(3, OCR2B, TCCR2A, COM2B1)             \
        with(11, OCR2A, TCCR2A, COM2A1)
#define CHIP_OPEN_PWM (TCCR2A = 1 << WGM21 | 1 << WGM20, TCCR2B = 1 << CS22)
#endif

/* Timer 2 counts from 0 to OCR2A; the pin is high for the first third. */
static inline void chip_open_carrier(uint8_t top, bool is_fast)
{
    TCCR2A = 1 << WGM21 | 1 << WGM20;
    TCCR2B = is_fast ? 1 << WGM22 | 1 << CS20 : 1 << WGM22 | 1 << CS21;
    OCR2A = top;
    OCR2B = top / 3;
}

/* The serial line, on D0 and D1. */
#define CHIP_SERIAL 0

#endif
