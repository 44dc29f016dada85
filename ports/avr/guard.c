/* If the engine isn't polled for too long, pins go to rest. The clock's interrupt, every 33 ms (66 ms at 8
 * MHz), only counts. Then an interrupt of timer 0, each millisecond, writes the pins until the engine is
 * polled or restarted: not the overflow's, which the common maker IDE's core uses. If interrupts are masked
 * as well, the watchdog resets the chip, and all pins are inputs. */
#include "../../src/compiler.h"

#include "avr.h"

#if DROM_WITH_GUARD
#include <avr/interrupt.h>
#include <avr/wdt.h>

static uint8_t patience;
static const drom_rest_pin DROM_FLASH *image;
static uint8_t image_count;
static volatile bool is_acting;

/* After a reset by the watchdog, which still runs, at its shortest time. */
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
#if DROM_WITH_HID
    port->hid->detach(port->context);
#endif
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

/* Returns the next watchdog time that leaves the tick interrupt some time to act. */
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
    enum { CLOCK_MS = F_CPU == 16000000 ? 32 : 65 }; /* it wraps every 32.768 or 65.536 ms */
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
