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
/** Numbers of values in times, degrees and turns. */
#ifndef DROM_WITH_MULTIPLES
#define DROM_WITH_MULTIPLES 1
#endif
/** Sums of values and numbers. */
#ifndef DROM_WITH_SUMS
#define DROM_WITH_SUMS 1
#endif
/** Orders that hold while a key is down. */
#ifndef DROM_WITH_HOLDS
#define DROM_WITH_HOLDS 1
#endif

/** Rules about any frame that is heard. */
#ifndef DROM_WITH_HEARD
#define DROM_WITH_HEARD 1
#endif
/** Events that own code posts: drom_engine_post() and drom_engine_post_from(). */
#ifndef DROM_WITH_POSTS
#define DROM_WITH_POSTS 1
#endif
/** Outputs of which only one may be on. */
#ifndef DROM_WITH_INTERLOCKS
#define DROM_WITH_INTERLOCKS 1
#endif
/** A computer's keyboard. */
#ifndef DROM_WITH_HID
#define DROM_WITH_HID 1
#endif
/** Outputs that rest where the program hangs: motors. */
#ifndef DROM_WITH_GUARD
#define DROM_WITH_GUARD 1
#endif

/** Lamps in colour. */
#ifndef DROM_WITH_COLOUR
#define DROM_WITH_COLOUR 1
#endif
/** Parts of strips. */
#ifndef DROM_WITH_PARTS
#define DROM_WITH_PARTS 1
#endif
/** Strips that may take so much current. */
#ifndef DROM_WITH_CURRENT
#define DROM_WITH_CURRENT 1
#endif

/** Steppers that find home at a switch. */
#ifndef DROM_WITH_HOMING
#define DROM_WITH_HOMING 1
#endif

/** Keys that are passed on in presses, one after the other. */
#ifndef DROM_WITH_EACH
#define DROM_WITH_EACH 1
#endif

/** Values that outlast a power cut. */
#ifndef DROM_WITH_KEPT
#define DROM_WITH_KEPT 1
#endif

/** Slots of the capture ring, a power of two up to 128; see ring.h. */
#ifndef DROM_EDGES
#define DROM_EDGES 32
#endif

/** What a plan may make use of that can be switched off. Bits. */
#define DROM_USES_TIMED_EDGES UINT32_C(1)
#define DROM_USES_CARRIER UINT32_C(2)
#define DROM_USES_PIXELS UINT32_C(4)
#define DROM_USES_PWM UINT32_C(8)
#define DROM_USES_HID UINT32_C(0x10)
#define DROM_USES_CONFIRMATION UINT32_C(0x20)
#define DROM_USES_PAUSES UINT32_C(0x40)
#define DROM_USES_SINGLE_LEADER UINT32_C(0x80)
#define DROM_USES_WAITS UINT32_C(0x100)
#define DROM_USES_MODES UINT32_C(0x200)
#define DROM_USES_VALUES UINT32_C(0x400)
#define DROM_USES_TIMERS UINT32_C(0x800)
#define DROM_USES_SCENES UINT32_C(0x1000)
#define DROM_USES_CONDITIONS UINT32_C(0x2000)
#define DROM_USES_NUMBERS UINT32_C(0x4000)
#define DROM_USES_HOLDS UINT32_C(0x8000)
#define DROM_USES_INPUTS UINT32_C(0x10000)
#define DROM_USES_GUARD UINT32_C(0x20000)
#define DROM_USES_CODE_INDEX UINT32_C(0x40000)
#define DROM_USES_HEARD UINT32_C(0x80000)
#define DROM_USES_INTERLOCKS UINT32_C(0x100000)
#define DROM_USES_COLOUR UINT32_C(0x200000)
#define DROM_USES_PARTS UINT32_C(0x400000)
#define DROM_USES_CURRENT UINT32_C(0x800000)
#define DROM_USES_HOMING UINT32_C(0x1000000)
#define DROM_USES_KEPT UINT32_C(0x2000000)
#define DROM_USES_POSTS UINT32_C(0x4000000)
#define DROM_USES_EACH UINT32_C(0x8000000)
#define DROM_USES_MULTIPLES UINT32_C(0x10000000)
#define DROM_USES_SUMS UINT32_C(0x20000000)

/** Those that are on. */
#define DROM_USABLE                                                                                          \
    (DROM_WITH_TIMED_EDGES * DROM_USES_TIMED_EDGES | DROM_WITH_CARRIER * DROM_USES_CARRIER |                 \
     DROM_WITH_PIXELS * DROM_USES_PIXELS | DROM_WITH_PWM * DROM_USES_PWM |                                   \
     DROM_WITH_CONFIRMATION * DROM_USES_CONFIRMATION | DROM_WITH_CODE_INDEX * DROM_USES_CODE_INDEX |         \
     DROM_WITH_PAUSES * DROM_USES_PAUSES | DROM_WITH_SINGLE_LEADER * DROM_USES_SINGLE_LEADER |               \
     DROM_WITH_WAITS * DROM_USES_WAITS | DROM_WITH_MODES * DROM_USES_MODES |                                 \
     DROM_WITH_VALUES * DROM_USES_VALUES | DROM_WITH_TIMERS * DROM_USES_TIMERS |                             \
     DROM_WITH_SCENES * DROM_USES_SCENES | DROM_WITH_CONDITIONS * DROM_USES_CONDITIONS |                     \
     DROM_WITH_NUMBERS * DROM_USES_NUMBERS | DROM_WITH_HOLDS * DROM_USES_HOLDS |                             \
     DROM_WITH_INPUTS * DROM_USES_INPUTS | DROM_WITH_GUARD * DROM_USES_GUARD |                               \
     DROM_WITH_HID * DROM_USES_HID | DROM_WITH_HEARD * DROM_USES_HEARD |                                     \
     DROM_WITH_INTERLOCKS * DROM_USES_INTERLOCKS | DROM_WITH_COLOUR * DROM_USES_COLOUR |                     \
     DROM_WITH_PARTS * DROM_USES_PARTS | DROM_WITH_CURRENT * DROM_USES_CURRENT |                             \
     DROM_WITH_HOMING * DROM_USES_HOMING | DROM_WITH_KEPT * DROM_USES_KEPT |                                 \
     DROM_WITH_POSTS * DROM_USES_POSTS | DROM_WITH_EACH * DROM_USES_EACH |                                   \
     DROM_WITH_MULTIPLES * DROM_USES_MULTIPLES | DROM_WITH_SUMS * DROM_USES_SUMS)

#ifdef DROM_PLAN
#define DROM_IS_BOUND 1
#else
#define DROM_IS_BOUND 0
#endif

/* The two functions that start an engine are linked by a name with all switches in it, so that a program and
 * a library that were compiled differently don't go together. */
#define DROM_JOIN_ALL(name, bound, a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q, r, s, t, u, v, w, x,   \
                      y, z, aa, ab, ac, ad, ae, af, ag, edges)                                               \
    name##_with_##bound##a##b##c##d##e##f##g##h##i##j##k##l##m##n##o##p##q##r##s##t##u##v##w##x##y##z##aa##ab##ac##ad##ae##af##ag##_##edges
#define DROM_JOIN(...) DROM_JOIN_ALL(__VA_ARGS__)
#define DROM_CONFIGURED(name)                                                                                \
    DROM_JOIN(name, DROM_IS_BOUND, DROM_WITH_TIMED_EDGES, DROM_WITH_CARRIER, DROM_WITH_PIXELS,               \
              DROM_WITH_PWM, DROM_WITH_OBSERVER, DROM_WITH_CHECKS, DROM_WITH_CONFIRMATION,                   \
              DROM_WITH_CODE_INDEX, DROM_WITH_PAUSES, DROM_WITH_SINGLE_LEADER, DROM_WITH_WAITS,              \
              DROM_WITH_MODES, DROM_WITH_VALUES, DROM_WITH_TIMERS, DROM_WITH_SCENES, DROM_WITH_CONDITIONS,   \
              DROM_WITH_NUMBERS, DROM_WITH_HOLDS, DROM_WITH_INTERVALS, DROM_WITH_INPUTS, DROM_WITH_GUARD,    \
              DROM_WITH_HID, DROM_WITH_HEARD, DROM_WITH_INTERLOCKS, DROM_WITH_COLOUR, DROM_WITH_PARTS,       \
              DROM_WITH_CURRENT, DROM_WITH_HOMING, DROM_WITH_KEPT, DROM_WITH_POSTS, DROM_WITH_EACH,          \
              DROM_WITH_MULTIPLES, DROM_WITH_SUMS, DROM_EDGES)

#if DROM_WITH_CARRIER && !DROM_WITH_TIMED_EDGES
#error "DROM_WITH_CARRIER needs DROM_WITH_TIMED_EDGES"
#endif
#if DROM_EDGES < 8 || DROM_EDGES > 128 || (DROM_EDGES & (DROM_EDGES - 1)) != 0
#error "DROM_EDGES must be 8, 16, 32, 64 or 128"
#endif

#endif
