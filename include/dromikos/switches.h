/* What the library can do in this program: a switch a need, 1 on and 0 off, each of which drom_config.h may
 * set. What is off takes no memory, and a plan that needs it is refused. A switch changes neither what a
 * function means nor how a struct is laid out; a function of what is off isn't declared. */
#ifndef DROMIKOS_SWITCHES_H
#define DROMIKOS_SWITCHES_H

#include "drom_config.h"

#include <stdint.h>

/** Pins that turn over at exact times: steppers, senders. */
#ifndef DROM_WITH_TIMED_EDGES
#define DROM_WITH_TIMED_EDGES 1
#endif
/** A carrier, and that we hear ourselves: senders. With DROM_WITH_TIMED_EDGES. */
#ifndef DROM_WITH_CARRIER
#define DROM_WITH_CARRIER 1
#endif
/** Strips. */
#ifndef DROM_WITH_PIXELS
#define DROM_WITH_PIXELS 1
#endif
/** Lamps. */
#ifndef DROM_WITH_PWM
#define DROM_WITH_PWM 1
#endif
/** drom_engine_observe(), the margins of frames, and the names of protocols. */
#ifndef DROM_WITH_OBSERVER
#define DROM_WITH_OBSERVER 1
#endif
/** drom_engine_init() and drom_plan_check(). A baked plan needs neither. */
#ifndef DROM_WITH_CHECKS
#define DROM_WITH_CHECKS 1
#endif
/** Pins that are read. */
#ifndef DROM_WITH_INPUTS
#define DROM_WITH_INPUTS 1
#endif
/** A machine that measures marks and spaces by itself. */
#ifndef DROM_WITH_INTERVALS
#define DROM_WITH_INTERVALS 1
#endif
/** Handsets that are believed only after a second frame. */
#ifndef DROM_WITH_CONFIRMATION
#define DROM_WITH_CONFIRMATION 1
#endif
/** Handsets that list their keys by code. */
#ifndef DROM_WITH_CODE_INDEX
#define DROM_WITH_CODE_INDEX 1
#endif
/** Protocols whose frame has a pause in it: denon, sharp. */
#ifndef DROM_WITH_PAUSES
#define DROM_WITH_PAUSES 1
#endif
/** Protocols that send their leader once a press: dish. */
#ifndef DROM_WITH_SINGLE_LEADER
#define DROM_WITH_SINGLE_LEADER 1
#endif
/** Rules: waits. */
#ifndef DROM_WITH_WAITS
#define DROM_WITH_WAITS 1
#endif
#ifndef DROM_WITH_MODES
#define DROM_WITH_MODES 1
#endif
#ifndef DROM_WITH_VALUES
#define DROM_WITH_VALUES 1
#endif
#ifndef DROM_WITH_TIMERS
#define DROM_WITH_TIMERS 1
#endif
#ifndef DROM_WITH_SCENES
#define DROM_WITH_SCENES 1
#endif
#ifndef DROM_WITH_CONDITIONS
#define DROM_WITH_CONDITIONS 1
#endif
/** Numbers of values and events in orders. */
#ifndef DROM_WITH_NUMBERS
#define DROM_WITH_NUMBERS 1
#endif
/** Orders that hold while a key is down. */
#ifndef DROM_WITH_HOLDS
#define DROM_WITH_HOLDS 1
#endif

/** Slots of the capture ring, a power of two up to 128; see ring.h. */
#ifndef DROM_EDGES
#define DROM_EDGES 32
#endif

/** What a plan may make use of that can be switched off. Bits. */
#define DROM_USES_TIMED_EDGES UINT16_C(1)
#define DROM_USES_CARRIER UINT16_C(2)
#define DROM_USES_PIXELS UINT16_C(4)
#define DROM_USES_PWM UINT16_C(8)
#define DROM_USES_CONFIRMATION UINT16_C(0x10)
#define DROM_USES_CODE_INDEX UINT16_C(0x20)
#define DROM_USES_PAUSES UINT16_C(0x40)
#define DROM_USES_SINGLE_LEADER UINT16_C(0x80)
#define DROM_USES_WAITS UINT16_C(0x100)
#define DROM_USES_MODES UINT16_C(0x200)
#define DROM_USES_VALUES UINT16_C(0x400)
#define DROM_USES_TIMERS UINT16_C(0x800)
#define DROM_USES_SCENES UINT16_C(0x1000)
#define DROM_USES_CONDITIONS UINT16_C(0x2000)
#define DROM_USES_NUMBERS UINT16_C(0x4000)
#define DROM_USES_HOLDS UINT16_C(0x8000)

/** Those that are on. */
#define DROM_USABLE                                                                                          \
    (DROM_WITH_TIMED_EDGES * DROM_USES_TIMED_EDGES | DROM_WITH_CARRIER * DROM_USES_CARRIER |                 \
     DROM_WITH_PIXELS * DROM_USES_PIXELS | DROM_WITH_PWM * DROM_USES_PWM |                                   \
     DROM_WITH_CONFIRMATION * DROM_USES_CONFIRMATION | DROM_WITH_CODE_INDEX * DROM_USES_CODE_INDEX |         \
     DROM_WITH_PAUSES * DROM_USES_PAUSES | DROM_WITH_SINGLE_LEADER * DROM_USES_SINGLE_LEADER |               \
     DROM_WITH_WAITS * DROM_USES_WAITS | DROM_WITH_MODES * DROM_USES_MODES |                                 \
     DROM_WITH_VALUES * DROM_USES_VALUES | DROM_WITH_TIMERS * DROM_USES_TIMERS |                             \
     DROM_WITH_SCENES * DROM_USES_SCENES | DROM_WITH_CONDITIONS * DROM_USES_CONDITIONS |                     \
     DROM_WITH_NUMBERS * DROM_USES_NUMBERS | DROM_WITH_HOLDS * DROM_USES_HOLDS)

#ifdef DROM_PLAN
#define DROM_IS_BOUND 1
#else
#define DROM_IS_BOUND 0
#endif

/* The two functions that start an engine are linked by a name with all switches in it, so that a program and
 * a library that were compiled differently don't go together. */
#define DROM_JOIN_ALL(name, bound, a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r, s, t, edges)        \
    name##_with_##bound##a##b##c##d##e##f##g##h##i##j##k##l##m##n##o##p##q##r##s##t##_##edges
#define DROM_JOIN(...) DROM_JOIN_ALL(__VA_ARGS__)
#define DROM_CONFIGURED(name)                                                                                \
    DROM_JOIN(name, DROM_IS_BOUND, DROM_WITH_TIMED_EDGES, DROM_WITH_CARRIER, DROM_WITH_PIXELS,               \
              DROM_WITH_PWM, DROM_WITH_OBSERVER, DROM_WITH_CHECKS, DROM_WITH_CONFIRMATION,                   \
              DROM_WITH_CODE_INDEX, DROM_WITH_PAUSES, DROM_WITH_SINGLE_LEADER, DROM_WITH_WAITS,              \
              DROM_WITH_MODES, DROM_WITH_VALUES, DROM_WITH_TIMERS, DROM_WITH_SCENES, DROM_WITH_CONDITIONS,   \
              DROM_WITH_NUMBERS, DROM_WITH_HOLDS, DROM_WITH_INTERVALS, DROM_WITH_INPUTS, DROM_EDGES)

#if DROM_WITH_CARRIER && !DROM_WITH_TIMED_EDGES
#error "DROM_WITH_CARRIER needs DROM_WITH_TIMED_EDGES"
#endif
#if DROM_EDGES < 8 || DROM_EDGES > 128 || (DROM_EDGES & (DROM_EDGES - 1)) != 0
#error "DROM_EDGES must be 8, 16, 32, 64 or 128"
#endif

#endif
