/* The keyboard of an ATmega32U4, in a sketch: the IDE's core has the USB. To detach is to switch off the
 * pull-up by which a computer sees the board; all keys are up for it then. */
#include "../../src/compiler.h"

#include "avr.h"

#if DROM_WITH_HID
#include "usb/keyboard.h"

#include <avr/io.h>

#ifndef UDCON
#error "this chip has no USB of its own: a keyboard needs an ATmega32U4"
#endif

static bool send(void *context, const uint8_t *report, uint8_t count)
{
    (void)context;
    return drom_avr_keyboard_send(report, count);
}

static bool is_ready(void *context)
{
    (void)context;
    return drom_avr_keyboard_is_ready();
}

static void attach(void *context)
{
    (void)context;
    UDCON &= (uint8_t) ~(1 << DETACH);
}

static void detach(void *context)
{
    (void)context;
    UDCON |= 1 << DETACH;
}

const drom_port_hid DROM_FLASH drom_avr_hid = {
    .send = send, .is_ready = is_ready, .attach = attach, .detach = detach};
#endif
