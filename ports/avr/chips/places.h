/* Pins whose ports follow no rule: a byte of flash for each, the letter of its port and its bit. */
#ifndef DROMIKOS_AVR_PLACES_H
#define DROMIKOS_AVR_PLACES_H

#include "chip.h"

#define PLACE(letter, bit) (uint8_t)((PLACE_##letter) << 3 | (bit))

/* In the order of the ports' addresses, three registers each: A to G, and from H on in the upper range. */
enum { PLACE_A, PLACE_B, PLACE_C, PLACE_D, PLACE_E, PLACE_F, PLACE_G, PLACE_H, PLACE_J, PLACE_K, PLACE_L };

/* Where the ranges begin; port A has no registers on some chips. */
#define PORTA_OF_ALL _SFR_MEM8(0x22)
#define PORTH_OF_ALL _SFR_MEM8(0x102)

static const uint8_t DROM_FLASH chip_places[] = {CHIP_PLACES};

static inline volatile uint8_t *chip_port(uint8_t pin)
{
    const uint8_t letter = chip_places[pin] >> 3;
    const uint16_t before = letter * 3u;
    return letter < PLACE_H ? &PORTA_OF_ALL + before : &PORTH_OF_ALL + (before - PLACE_H * 3u);
}

static inline uint8_t chip_bit(uint8_t pin)
{
    return chip_places[pin] & 7;
}

static inline uint8_t chip_edge_byte(uint8_t pin)
{
    const uint8_t letter = chip_places[pin] >> 3;
    return letter == CHIP_FIRST_LETTER    ? 0
           : letter == CHIP_SECOND_LETTER ? 1
           : letter == CHIP_THIRD_LETTER  ? 2
                                          : 3;
}

#endif
