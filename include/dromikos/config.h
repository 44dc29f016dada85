/* The configuration: the profile, one switch per feature, and the types that depend on the target.
 *
 * drom_config.h is yours: a program has its own copy of the library's folders and its own drom_config.h, so
 * that it needs no option on the compiler's command line. `dromikos bake` writes one for its plan. It may
 * contain:
 *
 * - `#define DROM_PROFILE_ALL`: all features on; the default, except on AVR
 * - `#define DROM_PROFILE_SMALL`: only what the smallest programs need; the default on AVR
 * - `#define DROM_WITH_PIXELS 1`: a feature on (1) or off (0), before the profile; features.def.h lists them
 * - `#define DROM_PLAN lantern_plan`: the one plan of the program
 * - `#define DROM_PORT drom_avr_port`: its port; with both, and -flto, unused code is not linked
 * - `#define DROM_EDGES 64`: slots of the capture ring: 8, 16, 32 (the default), 64 or 128
 * - `#define DROM_RECEIVER_PIN 2`: the receiver's pin, as the port numbers pins
 * - `#define DROM_CHIP DROM_CHIP_ATMEGA328P` and `#define DROM_MHZ 16`: the port refuses to be compiled for
 *   another chip or clock
 *
 * A feature that is off takes no memory. Functions of that feature aren't declared, and drom_engine_init()
 * refuses a plan that needs it. A switch changes neither the meaning of a function nor the layout of a
 * struct. */
#ifndef DROMIKOS_CONFIG_H
#define DROMIKOS_CONFIG_H

#include "drom_config.h"

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#if defined(DROM_PROFILE_SMALL) && defined(DROM_PROFILE_ALL)
#error "define DROM_PROFILE_SMALL or DROM_PROFILE_ALL, not both"
#elif defined(__AVR__) && !defined(DROM_PROFILE_ALL) && !defined(DROM_PROFILE_SMALL)
#define DROM_PROFILE_SMALL
#endif

#include "internal/compiler.h"
#include "internal/features.h"

#define DROM_VERSION "0.2.0"

#ifndef DROM_EDGES
#define DROM_EDGES 32
#endif

#if DROM_WITH_CARRIER && !DROM_WITH_TIMED_EDGES
#error "DROM_WITH_CARRIER needs DROM_WITH_TIMED_EDGES"
#endif
#if DROM_EDGES < 8 || DROM_EDGES > 128 || (DROM_EDGES & (DROM_EDGES - 1)) != 0
#error "DROM_EDGES must be 8, 16, 32, 64 or 128"
#endif

/** The features that a plan may use, by their bits. */
enum {
#define DROM_FEATURE(name, small, what) DROM_FEATURE_##name,
#define DROM_OPTION(name, small, what)
#include "features.def.h"
    DROM_FEATURES
};

/** The bit of a feature: DROM_USES(PIXELS). */
#define DROM_USES(name) (UINT32_C(1) << DROM_FEATURE_##name)

/** No row of a table, no pin. */
#define DROM_NONE 255

/** A time or a duration in µs. Wraps after 71 min 35 s; compare times with drom_is_due() and drom_until()
 * only. */
typedef uint32_t drom_us;

/** Two times that are compared lie less than this apart: 35 min 47 s. */
#define DROM_LONGEST_US UINT32_C(0x7fffffff)

/** The longest time in a plan, in ms: 30 minutes. */
#define DROM_LONGEST_MS UINT32_C(1800000)

/** The longest time of a timer, in ms: 24 hours. */
#define DROM_TIMER_LONGEST_MS UINT32_C(86400000)

/** How long a poll may be delayed if no edge arrives, in µs. An 8-bit chip counts in 16 bits. */
#ifdef __AVR__
typedef uint16_t drom_wait;
#else
typedef drom_us drom_wait;
#endif

/** The longest wait: 65 ms or more on AVR, unlimited on a host. */
#define DROM_LONG ((drom_wait)-1)

#endif
