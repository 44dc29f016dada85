/* How the library is compiled. A program has its own copy of the library's folders, with a file of its own in
 * this one's place, so that nothing need be said on the compiler's command line; `dromikos bake` writes one
 * for its plan. This one says nothing: everything is on, for any plan on any port.
 *
 *     #define DROM_PLAN lantern_plan     the one plan of the program
 *     #define DROM_PORT drom_avr_port    and its port
 *     #define DROM_WITH_PIXELS 0         what the program doesn't need: see switches.h
 *     #define DROM_EDGES 64              slots of the capture ring: see ring.h
 *     #define DROM_AVR_RECEIVER_PIN 2    the receiver's, on an ATmega328P */
#ifndef DROMIKOS_DROM_CONFIG_H
#define DROMIKOS_DROM_CONFIG_H

#endif
