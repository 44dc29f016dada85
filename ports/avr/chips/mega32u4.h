/* The ATmega32U4, on boards that number its pins D0 to D13, 14 to 17 (the SPI bus) and A0 to A5 (18 to 23).
 * Data sheet, "Pin Configurations". */
#ifndef DROMIKOS_AVR_MEGA32U4_H
#define DROMIKOS_AVR_MEGA32U4_H

#include "../avr.h"

#include <avr/io.h>

#if defined(DROM_CHIP) && DROM_CHIP != DROM_CHIP_ATMEGA32U4
#error "this plan was baked for another chip: name the right board in the plan and bake it again"
#endif

#define CHIP_PINS 24
#define CHIP_LATCH_PIN 4
#define CHIP_LATCH_INPUT PIND
#define CHIP_LATCH_BIT 4
#define CHIP_CARRIER_PIN 5

/* Pins 8 to 11 have a common interrupt for changes; 0 to 3 and 7 one each. */
#if DROM_RECEIVER_PIN >= 8 && DROM_RECEIVER_PIN <= 11
#define CHIP_RECEIVER PCINT0_vect, PINB, (DROM_RECEIVER_PIN - 4)
#define CHIP_OPEN_RECEIVER (PCMSK0 = 1 << (DROM_RECEIVER_PIN - 4), PCICR = 1 << PCIE0)
#elif DROM_RECEIVER_PIN == 0
#define CHIP_RECEIVER INT2_vect, PIND, 2
#define CHIP_OPEN_RECEIVER (EICRA |= 1 << ISC20, EIMSK |= 1 << INT2)
#elif DROM_RECEIVER_PIN == 1
#define CHIP_RECEIVER INT3_vect, PIND, 3
#define CHIP_OPEN_RECEIVER (EICRA |= 1 << ISC30, EIMSK |= 1 << INT3)
#elif DROM_RECEIVER_PIN == 2
#define CHIP_RECEIVER INT1_vect, PIND, 1
#define CHIP_OPEN_RECEIVER (EICRA |= 1 << ISC10, EIMSK |= 1 << INT1)
#elif DROM_RECEIVER_PIN == 3
#define CHIP_RECEIVER INT0_vect, PIND, 0
#define CHIP_OPEN_RECEIVER (EICRA |= 1 << ISC00, EIMSK |= 1 << INT0)
#elif DROM_RECEIVER_PIN == 7
#define CHIP_RECEIVER INT6_vect, PINE, 6
#define CHIP_OPEN_RECEIVER (EICRB |= 1 << ISC60, EIMSK |= 1 << INT6)
#endif

/* Pins with timed edges: all but 5 and 13. Pin 7 is the only one of port E, and shares its byte with the
 * carrier. */
#define CHIP_EDGE_INPUTS PIND, PINB, PINF
#define CHIP_FIRST_LETTER PLACE_D
#define CHIP_SECOND_LETTER PLACE_B
#define CHIP_THIRD_LETTER PLACE_F
#define CHIP_TOGGLE_OTHERS "mov r25, r24 \n\t andi r25, 0x40 \n\t out %[other], r25 \n\t andi r24, 0x80 \n\t"
#define CHIP_OTHER_INPUT PINE
#define CHIP_OTHER_PIN 7
#define CHIP_OTHER_MASK 0x40
#define CHIP_CARRIER_CONTROL TCCR3A
#define CHIP_CARRIER_BIT COM3A1

#define CHIP_PLACES                                                                                          \
    PLACE(D, 2), PLACE(D, 3), PLACE(D, 1), PLACE(D, 0), PLACE(D, 4), PLACE(C, 6), PLACE(D, 7), PLACE(E, 6),  \
        PLACE(B, 4), PLACE(B, 5), PLACE(B, 6), PLACE(B, 7), PLACE(D, 6), PLACE(C, 7), PLACE(B, 3),           \
        PLACE(B, 1), PLACE(B, 2), PLACE(B, 0), PLACE(F, 7), PLACE(F, 6), PLACE(F, 5), PLACE(F, 4),           \
        PLACE(F, 1), PLACE(F, 0)

/* PWM on the pins of timers 0 and 3, at 976 Hz with a clock of 16 MHz. Timer 3 is the carrier's, if something
 * is sent. */
#if DROM_WITH_CARRIER
#define CHIP_PWM(with) with(3, OCR0B, TCCR0A, COM0B1) with(11, OCR0A, TCCR0A, COM0A1)
#define CHIP_OPEN_PWM ((void)0)
#else
#define CHIP_PWM(with)                                                                                       \
    with(3, OCR0B, TCCR0A, COM0B1) with(11, OCR0A, TCCR0A, COM0A1) with(5, OCR3A, TCCR3A, COM3A1)
#define CHIP_OPEN_PWM (TCCR3A = 1 << WGM30, TCCR3B = 1 << WGM32 | 1 << CS31 | 1 << CS30)
#endif

/* Timer 3 counts from 0 to ICR3; the pin is high for the first third. */
static inline void chip_open_carrier(uint8_t top, bool is_fast)
{
    TCCR3A = 1 << WGM31;
    TCCR3B = is_fast ? 1 << WGM33 | 1 << WGM32 | 1 << CS30 : 1 << WGM33 | 1 << WGM32 | 1 << CS31;
    ICR3 = top;
    OCR3A = top / 3;
}

/* The serial line on D0 and D1; the line over USB is the IDE's. */
#define CHIP_SERIAL 1

#endif
