/* How the library is compiled. A program may have its own copy of the library's folders, with a file of its
 * own in this one's place; then nothing need be said on the compiler's command line. This one says nothing:
 * everything is on, for any plan on any port.
 *
 *     #define DROM_PLAN lantern_plan                        the one plan of the program
 *     #define DROM_PLAN_HEADER "../../plan/lantern_plan.h"  what was baked beside it, as seen from here
 *     #define DROM_PORT drom_avr_port                       and its port
 *     #define DROM_RULES_USED (DROM_RULES_WAIT | DROM_RULES_HOLD)  where no plan is named: what the rules of
 *                                                            its plans make use of (rules.h); others are
 *                                                            refused
 *     #define DROM_UNOBSERVED                                drom_engine_observe() is never called
 *     #define DROM_AVR_RECEIVER_PIN 2                       the receiver's, on an ATmega328P */
#ifndef DROMIKOS_DROM_CONFIG_H
#define DROMIKOS_DROM_CONFIG_H

#endif
