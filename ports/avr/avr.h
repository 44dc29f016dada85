/* The port for the ATmega328P at 16 MHz, on boards that number its pins D0 to D13 and A0 to A5 (14 to 19).
 *
 *     drom_avr_open();
 *     if (drom_engine_start(&drom_avr_engine, &lantern_plan, &drom_avr_port) == DROM_OK) {
 *         for (;;) {
 *             drom_engine_idle(&drom_avr_engine, drom_engine_poll(&drom_avr_engine));
 *         }
 *     }
 *
 * Timer 1 is the clock (0.5 µs), latches the receiver's edges, and is the alarm. Timer 2 is the carrier, on
 * D3. Timer 0 gives PWM on D5 and D6. So D9, D10 and D11 have no PWM here. The receiver is on D8, whose edges
 * timer 1 latches itself; where drom_config.h says DROM_AVR_RECEIVER_PIN it is on any other pin, whose edges
 * an interrupt stamps. */
#ifndef DROMIKOS_AVR_H
#define DROMIKOS_AVR_H

#include "../../include/dromikos/engine.h"

#ifdef __cplusplus
extern "C" {
#endif

/** The pin of the receiver, whose output is low during a mark. */
#ifndef DROM_AVR_RECEIVER_PIN
#define DROM_AVR_RECEIVER_PIN 8
#endif

/** The engine that the interrupts serve: its address is fixed, so that they are short. */
extern drom_engine drom_avr_engine;

extern const drom_port DROM_FLASH drom_avr_port;

/** The guard (guard.c); and how often the clock still wraps before it acts; 0: the guard is off. */
extern const drom_port_guard DROM_FLASH drom_avr_guard;
extern volatile uint8_t drom_avr_unfed;

/** The EEPROM (store.c). */
extern const drom_port_store DROM_FLASH drom_avr_store;

/** Starts the clock and the receiver, and enables interrupts. Call it once, before the engine is started. */
void drom_avr_open(void);

/** True while the receiver's line is in a mark. Main or interrupt. */
bool drom_avr_line_is_active(void);

/** Opens the serial port on D0 and D1, 8 bits, no parity. `baud`: 1200 to 115200. */
void drom_avr_open_serial(uint32_t baud);

/** Sends a byte; false while the last one is being sent. Main only, never waits. */
bool drom_avr_put_byte(uint8_t byte);

/** Takes a received byte; false if there is none. If bytes arrive faster than they are taken, the third is
 * lost. Main only, never waits. */
bool drom_avr_take_byte(uint8_t *byte);

#ifdef __cplusplus
}
#endif

#endif
