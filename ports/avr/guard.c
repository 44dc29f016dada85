/* Where the engine is not polled for too long, pins go to rest. The clock's interrupt counts, every 33 ms,
 * and has no time for more. One of timer 0's, which comes each millisecond and is off until then, writes the
 * pins for as long as that goes on: not its overflow's, which the common maker IDE's core has for itself.
 * Where interrupts are off, too, the watchdog starts the chip anew, all of whose pins are inputs then. */
#include "../../src/compiler.h"

#include "avr.h"

#if DROM_WITH_GUARD
#include <avr/interrupt.h>
#include <avr/wdt.h>

static uint8_t patience;
static const drom_rest_pin DROM_FLASH *image;
static uint8_t image_count;
static volatile bool is_acting;

/* After a reset by the watchdog that still runs, at its shortest time. */
__attribute__((naked, used, section(".init3"))) static void calm_watchdog(void)
{
    MCUSR = 0;
    wdt_disable();
}

ISR(TIMER0_COMPA_vect)
{
    const drom_port DROM_FLASH *const port = &drom_avr_port;
    for (uint8_t i = 0; i < image_count; i++) {
        const drom_rest_pin pin = image[i];
#if DROM_WITH_PWM
        port->pwm->write(port->context, pin.pin, pin.is_high ? UINT16_MAX : 0);
#else
        port->pins->write(port->context, pin.pin, pin.is_high);
#endif
    }
    is_acting = true;
}

static void stop(void *context)
{
    (void)context;
    TIMSK0 &= (uint8_t) ~(1 << OCIE0A);
    drom_avr_unfed = 0;
    is_acting = false;
    wdt_disable();
}

/* The next of the watchdog's times that leaves the other some time to act. */
static uint8_t watchdog_time(uint16_t ms)
{
    return ms <= 400    ? WDTO_500MS
           : ms <= 800  ? WDTO_1S
           : ms <= 1800 ? WDTO_2S
           : ms <= 3800 ? WDTO_4S
                        : WDTO_8S;
}

static void feed(void *context)
{
    (void)context;
    drom_avr_unfed = patience;
    wdt_reset();
}

static void start(void *context, uint16_t ms, const drom_rest_pin DROM_FLASH *pins, uint8_t count)
{
    enum { CLOCK_MS = 32 }; /* it wraps every 32.768 ms */
    stop(context);
    image = pins;
    image_count = count;
    patience = (uint8_t)(ms / CLOCK_MS + 2);
    wdt_enable(watchdog_time(ms));
    feed(context);
}

static bool has_acted(void *context)
{
    (void)context;
    return is_acting;
}

const drom_port_guard DROM_FLASH drom_avr_guard = {
    .start = start, .feed = feed, .has_acted = has_acted, .stop = stop};
#endif
