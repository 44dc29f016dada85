/* The EEPROM as a store, byte by byte: is_busy() begins the next one. ATmega328P data sheet, "EEPROM Data
 * Memory": 1.8 ms to erase or to write a byte, 100,000 times each. */
#include "../../src/compiler.h"

#include "avr.h"

#if DROM_WITH_KEPT
#include <avr/interrupt.h>
#include <avr/io.h>
#include <util/atomic.h>

enum { PAGE_BYTES = 32, BLANK = 0xff };

static const uint8_t *next_byte; /* null: bytes are erased */
static uint16_t next_at;
static uint8_t left;

static void begin_byte(void)
{
    const uint8_t mode = next_byte != NULL ? 1 << EEPM1 : 1 << EEPM0; /* write, or erase */
    EEAR = next_at;
    EEDR = next_byte != NULL ? *next_byte++ : BLANK;
    ATOMIC_BLOCK(ATOMIC_RESTORESTATE)
    {
        EECR = mode | 1 << EEMPE;
        EECR |= 1 << EEPE; /* within four cycles */
    }
    next_at++;
    left--;
}

static bool is_busy(void *context)
{
    (void)context;
    if ((EECR & 1 << EEPE) != 0) {
        return true;
    }
    if (left == 0) {
        return false;
    }
    begin_byte();
    return true;
}

static void read(void *context, uint16_t at, uint8_t *bytes, uint8_t count)
{
    (void)context;
    for (uint8_t i = 0; i < count; i++) {
        EEAR = (uint16_t)(at + i);
        EECR |= 1 << EERE;
        bytes[i] = EEDR;
    }
}

static void erase(void *context, uint16_t at)
{
    (void)context;
    next_byte = NULL;
    next_at = at - at % PAGE_BYTES;
    left = PAGE_BYTES;
    begin_byte();
}

static void program(void *context, uint16_t at, const uint8_t *bytes, uint8_t count)
{
    (void)context;
    next_byte = bytes;
    next_at = at;
    left = count;
    begin_byte();
}

const drom_port_store DROM_FLASH drom_avr_store = {.read = read,
                                                   .erase = erase,
                                                   .program = program,
                                                   .is_busy = is_busy,
                                                   .bytes = E2END + 1,
                                                   .page_bytes = PAGE_BYTES};
#endif
