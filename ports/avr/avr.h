/* The port for the ATmega328P, the ATmega32U4 and the ATmega2560 at 16 or 8 MHz. Pins have the numbers that
 * are printed on the usual boards, A0 and up follow the others (chips/).
 *
 *     drom_avr_open();
 *     if (drom_engine_start(&drom_avr_engine, &lantern_plan, &drom_avr_port) == DROM_OK) {
 *         for (;;) {
 *             drom_engine_idle(&drom_avr_engine, drom_engine_poll(&drom_avr_engine));
 *         }
 *     }
 *
 * Timer 1 is the clock, latches the receiver's edges, and is the alarm: its pins have no PWM here. Timer 0
 * gives PWM, and its compare interrupt is the guard's. The carrier is made by timer 2, on the ATmega32U4 by
 * timer 3; without a sender that timer gives PWM, too.
 *
 * | chip       | receiver, latched | receiver, by an interrupt   | carrier | timed edges             |
 * |------------|-------------------|-----------------------------|---------|-------------------------|
 * | ATmega328P | 8                 | any                         | 3       | any                     |
 * | ATmega32U4 | 4                 | 0 to 3, 7 to 11             | 5       | all but 5 and 13        |
 * | ATmega2560 | none              | 2, 3, 10 to 13, 18 to 21, 50 to 53 | 9 | 10 to 13, 22 to 37, 50 to 53 |
 */
#ifndef DROMIKOS_AVR_H
#define DROMIKOS_AVR_H

#include "../../include/dromikos/engine.h"

#ifdef __cplusplus
extern "C" {
#endif

/** The chips for which a plan can be baked: DROM_CHIP in drom_config.h. */
#define DROM_CHIP_ATMEGA328P 1
#define DROM_CHIP_ATMEGA32U4 2
#define DROM_CHIP_ATMEGA2560 3

/** The pin of the receiver, whose output is low during a mark. */
#ifndef DROM_RECEIVER_PIN
#if defined(__AVR_ATmega32U4__)
#define DROM_RECEIVER_PIN 4
#elif defined(__AVR_ATmega2560__)
#define DROM_RECEIVER_PIN 2
#else
#define DROM_RECEIVER_PIN 8
#endif
#endif

/** The engine that the interrupts serve: its address is fixed, so that they are short. */
extern drom_engine drom_avr_engine;

extern const drom_port DROM_FLASH drom_avr_port;

/** The guard (guard.c); and how often the clock still wraps before it acts; 0: the guard is off. */
extern const drom_port_guard DROM_FLASH drom_avr_guard;
extern volatile uint8_t drom_avr_unfed;

/** The keyboard (hid.c), in a sketch on an ATmega32U4. */
extern const drom_port_hid DROM_FLASH drom_avr_hid;

/** The EEPROM (store.c). */
extern const drom_port_store DROM_FLASH drom_avr_store;

/** Starts the clock and the receiver, and enables interrupts. Call it once, before the engine is started. */
void drom_avr_open(void);

/** True while the receiver's line is in a mark. Main or interrupt. */
bool drom_avr_line_is_active(void);

/** Opens the serial port on D0 and D1, 8 bits, no parity. `baud`: 1200 to 115200, at 8 MHz to 57600. */
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
