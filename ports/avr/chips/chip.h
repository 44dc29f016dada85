/* The chip, by the compiler's name for it, and the clock. drom_config.h names the chip and the clock for
 * which a plan was baked: another chip would have other pins. */
#ifndef DROMIKOS_AVR_CHIP_H
#define DROMIKOS_AVR_CHIP_H

#include "../avr.h"

#if F_CPU != 16000000 && F_CPU != 8000000
#error "this port's timers are for clocks of 16 and 8 MHz"
#elif defined(DROM_MHZ) && F_CPU != DROM_MHZ * 1000000
#error "this plan was baked for another clock: say 'board NAME at N MHz' in the plan and bake it again"
#elif F_CPU != 16000000 && DROM_WITH_PIXELS
#error "pixels need a clock of 16 MHz: at 8 MHz no interrupt fits between two pixels"
#endif

#if defined(__AVR_ATmega328P__)
#include "mega328.h"
#elif defined(__AVR_ATmega32U4__)
#include "mega32u4.h"
#elif defined(__AVR_ATmega2560__)
#include "mega2560.h"
#else
#error "this port is for the ATmega328P, the ATmega32U4 and the ATmega2560"
#endif

#endif
