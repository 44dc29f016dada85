/* The clock and its deadlines.
 *
 * Time is microseconds in 32 bits and wraps every 71 min 35 s. Two times can be compared as long as they lie
 * less than DROM_LONGEST_US apart, and only through the helpers here. A deadline that has passed disarms
 * itself, so that an old one can never come round again with the wrap. */
#ifndef DROMIKOS_TIMING_H
#define DROMIKOS_TIMING_H

#include "base.h"

/** A moment or a length of time, in µs. Wraps on purpose. */
typedef uint32_t drom_us;

/** The longest time that can be waited for or compared: 35 min 47 s. */
#define DROM_LONGEST_US UINT32_C(0x7fffffff)

/** The longest time that a plan may ask for, in ms: 30 minutes. */
#define DROM_LONGEST_MS UINT32_C(1800000)

/** "No wake-up needed": the answer of whatever has nothing to wait for. */
#define DROM_NEVER UINT32_C(0xffffffff)

/** How long there is nothing to do, in µs, unless something comes. An 8-bit chip counts it in 16 bits: there
 * DROM_LONG is 65 ms or more, after which one asks again. */
#ifdef __AVR__
typedef uint16_t drom_wait;
#else
typedef drom_us drom_wait;
#endif

/** The longest wait: for ever, or nearly. On a host it is DROM_NEVER. */
#define DROM_LONG ((drom_wait)-1)

/** True when `at` is now or past. The times must be less than DROM_LONGEST_US apart. */
DROM_APART bool drom_is_due(drom_us now, drom_us at);

/** The time from `now` until `at`, 0 when it is due; DROM_LONG where that is shorter. */
DROM_APART drom_wait drom_until(drom_us now, drom_us at);

/** The shorter of two waits. */
static inline drom_wait drom_shorter(drom_wait a, drom_wait b)
{
    return a < b ? a : b;
}

/** A moment that something waits for. */
typedef struct drom_deadline {
    drom_us at;
    bool is_armed;
} drom_deadline;

/** Arms a deadline `delay` µs (at most DROM_LONGEST_US) after `now`. */
void drom_deadline_arm(drom_deadline *deadline, drom_us now, drom_us delay);

/** True once, when an armed deadline has come; it is then disarmed. */
bool drom_deadline_passed(drom_deadline *deadline, drom_us now);

/** The wait until a deadline in µs, 0 when it is due, DROM_LONG when it isn't armed. */
drom_wait drom_deadline_wait(const drom_deadline *deadline, drom_us now);

/** The longest time of a timer, in ms: 24 hours. */
#define DROM_TIMER_LONGEST_MS UINT32_C(86400000)

/** A moment that may be farther away than a deadline's can: so many parts of DROM_TIMER_PART_MS, and the
 * deadline before them. */
typedef struct drom_timer {
    drom_deadline part;
    uint8_t more_parts;
} drom_timer;

/** 17 minutes and 28.576 s. */
#define DROM_TIMER_PART_MS UINT32_C(0x100000)

/** Starts a timer anew, for `ms` from `now` on; DROM_TIMER_LONGEST_MS at most. */
void drom_timer_start(drom_timer *timer, drom_us now, uint32_t ms);

/** Adds `ms` to a timer that runs, up to DROM_TIMER_LONGEST_MS from `now` on; else starts it. */
void drom_timer_add(drom_timer *timer, drom_us now, uint32_t ms);

/** True once, when a timer's time is over; it then stands. Call it at least each 30 minutes. */
bool drom_timer_passed(drom_timer *timer, drom_us now);

#endif
