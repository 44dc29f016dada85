/* The ATmega2560, on boards that number its pins D0 to D53 and A0 to A15 (54 to 69). Timer 1 can't latch the
 * receiver here: its pin isn't on the board. Data sheet, "Pin Configurations". */
#ifndef DROMIKOS_AVR_MEGA2560_H
#define DROMIKOS_AVR_MEGA2560_H

#include "../avr.h"

#include <avr/io.h>

#if defined(DROM_CHIP) && DROM_CHIP != DROM_CHIP_ATMEGA2560
#error "this plan was baked for another chip: name the right board in the plan and bake it again"
#endif

#define CHIP_PINS 70
#define CHIP_CARRIER_PIN 9

/* Pins 10 to 13 and 50 to 53 have a common interrupt for changes; 2, 3 and 18 to 21 one each. */
#if DROM_RECEIVER_PIN >= 10 && DROM_RECEIVER_PIN <= 13
#define CHIP_RECEIVER PCINT0_vect, PINB, (DROM_RECEIVER_PIN - 6)
#define CHIP_OPEN_RECEIVER (PCMSK0 = 1 << (DROM_RECEIVER_PIN - 6), PCICR = 1 << PCIE0)
#elif DROM_RECEIVER_PIN >= 50 && DROM_RECEIVER_PIN <= 53
#define CHIP_RECEIVER PCINT0_vect, PINB, (53 - DROM_RECEIVER_PIN)
#define CHIP_OPEN_RECEIVER (PCMSK0 = 1 << (53 - DROM_RECEIVER_PIN), PCICR = 1 << PCIE0)
#elif DROM_RECEIVER_PIN == 2
#define CHIP_RECEIVER INT4_vect, PINE, 4
#define CHIP_OPEN_RECEIVER (EICRB |= 1 << ISC40, EIMSK |= 1 << INT4)
#elif DROM_RECEIVER_PIN == 3
#define CHIP_RECEIVER INT5_vect, PINE, 5
#define CHIP_OPEN_RECEIVER (EICRB |= 1 << ISC50, EIMSK |= 1 << INT5)
#elif DROM_RECEIVER_PIN == 18
#define CHIP_RECEIVER INT3_vect, PIND, 3
#define CHIP_OPEN_RECEIVER (EICRA |= 1 << ISC30, EIMSK |= 1 << INT3)
#elif DROM_RECEIVER_PIN == 19
#define CHIP_RECEIVER INT2_vect, PIND, 2
#define CHIP_OPEN_RECEIVER (EICRA |= 1 << ISC20, EIMSK |= 1 << INT2)
#elif DROM_RECEIVER_PIN == 20
#define CHIP_RECEIVER INT1_vect, PIND, 1
#define CHIP_OPEN_RECEIVER (EICRA |= 1 << ISC10, EIMSK |= 1 << INT1)
#elif DROM_RECEIVER_PIN == 21
#define CHIP_RECEIVER INT0_vect, PIND, 0
#define CHIP_OPEN_RECEIVER (EICRA |= 1 << ISC00, EIMSK |= 1 << INT0)
#endif

/* Pins with timed edges: 10 to 13, 22 to 37 and 50 to 53. */
#define CHIP_EDGE_INPUTS PINA, PINB, PINC
#define CHIP_FIRST_LETTER PLACE_A
#define CHIP_SECOND_LETTER PLACE_B
#define CHIP_THIRD_LETTER PLACE_C
#define CHIP_TOGGLE_OTHERS ""
#define CHIP_CARRIER_CONTROL TCCR2A
#define CHIP_CARRIER_BIT COM2B1

#define CHIP_PLACES                                                                                          \
    PLACE(E, 0), PLACE(E, 1), PLACE(E, 4), PLACE(E, 5), PLACE(G, 5), PLACE(E, 3), PLACE(H, 3), PLACE(H, 4),  \
        PLACE(H, 5), PLACE(H, 6), PLACE(B, 4), PLACE(B, 5), PLACE(B, 6), PLACE(B, 7), PLACE(J, 1),           \
        PLACE(J, 0), PLACE(H, 1), PLACE(H, 0), PLACE(D, 3), PLACE(D, 2), PLACE(D, 1), PLACE(D, 0),           \
        PLACE(A, 0), PLACE(A, 1), PLACE(A, 2), PLACE(A, 3), PLACE(A, 4), PLACE(A, 5), PLACE(A, 6),           \
        PLACE(A, 7), PLACE(C, 7), PLACE(C, 6), PLACE(C, 5), PLACE(C, 4), PLACE(C, 3), PLACE(C, 2),           \
        PLACE(C, 1), PLACE(C, 0), PLACE(D, 7), PLACE(G, 2), PLACE(G, 1), PLACE(G, 0), PLACE(L, 7),           \
        PLACE(L, 6), PLACE(L, 5), PLACE(L, 4), PLACE(L, 3), PLACE(L, 2), PLACE(L, 1), PLACE(L, 0),           \
        PLACE(B, 3), PLACE(B, 2), PLACE(B, 1), PLACE(B, 0), PLACE(F, 0), PLACE(F, 1), PLACE(F, 2),           \
        PLACE(F, 3), PLACE(F, 4), PLACE(F, 5), PLACE(F, 6), PLACE(F, 7), PLACE(K, 0), PLACE(K, 1),           \
        PLACE(K, 2), PLACE(K, 3), PLACE(K, 4), PLACE(K, 5), PLACE(K, 6), PLACE(K, 7)

/* PWM on the pins of timers 0, 2, 3 and 4, at 976 Hz. Timer 2 is the carrier's, if something is sent. */
#if DROM_WITH_CARRIER
#define CHIP_PWM_2(with)
#define CHIP_OPEN_PWM_2 ((void)0)
#else
#define CHIP_PWM_2(with) with(9, OCR2B, TCCR2A, COM2B1) with(10, OCR2A, TCCR2A, COM2A1)
#define CHIP_OPEN_PWM_2 (TCCR2A = 1 << WGM21 | 1 << WGM20, TCCR2B = 1 << CS22)
#endif
#define CHIP_PWM(with)                                                                                       \
    with(4, OCR0B, TCCR0A, COM0B1) with(13, OCR0A, TCCR0A, COM0A1) with(5, OCR3A, TCCR3A, COM3A1)            \
        with(2, OCR3B, TCCR3A, COM3B1) with(3, OCR3C, TCCR3A, COM3C1) with(6, OCR4A, TCCR4A, COM4A1)         \
            with(7, OCR4B, TCCR4A, COM4B1) with(8, OCR4C, TCCR4A, COM4C1) CHIP_PWM_2(with)
#define CHIP_OPEN_PWM                                                                                        \
    (TCCR3A = 1 << WGM30, TCCR3B = 1 << WGM32 | 1 << CS31 | 1 << CS30, TCCR4A = 1 << WGM40,                  \
     TCCR4B = 1 << WGM42 | 1 << CS41 | 1 << CS40, CHIP_OPEN_PWM_2)

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
