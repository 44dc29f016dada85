/* The keyboard on the USB of the common maker IDE's core, which needs C++; hid.c makes the port's table of
 * it. */
#ifndef DROMIKOS_AVR_KEYBOARD_H
#define DROMIKOS_AVR_KEYBOARD_H

#include <stdbool.h>
#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

/** Queues a report, as drom_port_hid says; 31 µs, with interrupts off. False while the computer hasn't taken
 * the last one, or isn't there. Main only. */
bool drom_avr_keyboard_send(const uint8_t *report, uint8_t count);

/** True while a computer has configured the keyboard and isn't suspended. Main only. */
bool drom_avr_keyboard_is_ready(void);

#ifdef __cplusplus
}
#endif

#endif
