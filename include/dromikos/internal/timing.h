/* Comparing times; deadlines and timers. A deadline that has passed is disarmed, so that the wrap of the
 * clock can't make it due again. */
#ifndef DROMIKOS_INTERNAL_TIMING_H
#define DROMIKOS_INTERNAL_TIMING_H

#include "../config.h"

#ifdef __cplusplus
extern "C" {
#endif

/** True if `at` is now or past. */
bool drom_is_due(drom_us now, drom_us at);

/** Returns the time from `now` until `at`; 0 if it is due, at most DROM_LONG. */
drom_wait drom_until(drom_us now, drom_us at);

/** Returns the shorter of two waits. */
static inline drom_wait drom_shorter(drom_wait a, drom_wait b)
{
    return a < b ? a : b;
}

typedef struct drom_deadline {
    drom_us at;
    bool is_armed;
} drom_deadline;

/** Arms a deadline for `delay` µs (at most DROM_LONGEST_US) after `now`. */
void drom_deadline_arm(drom_deadline *deadline, drom_us now, drom_us delay);

/** True once an armed deadline is due; it is then disarmed. */
bool drom_deadline_passed(drom_deadline *deadline, drom_us now);

/** Returns the wait in µs until a deadline: 0 if it is due, DROM_LONG if it isn't armed. */
drom_wait drom_deadline_wait(const drom_deadline *deadline, drom_us now);

/** A deadline that may be further away: a number of parts of DROM_TIMER_PART_MS, after the deadline of the
 * first. */
typedef struct drom_timer {
    drom_deadline part;
    uint8_t more_parts;
} drom_timer;

/** 17 minutes and 28.576 s. */
#define DROM_TIMER_PART_MS UINT32_C(0x100000)

/** Starts a timer, running or not, for `ms` from `now`: at most DROM_TIMER_LONGEST_MS. */
void drom_timer_start(drom_timer *timer, drom_us now, uint32_t ms);

/** Adds `ms` to a running timer, up to DROM_TIMER_LONGEST_MS from `now`; starts a timer that isn't running.
 */
void drom_timer_add(drom_timer *timer, drom_us now, uint32_t ms);

/** True once a running timer has ended; it then stops. Call it at least every 30 minutes. */
bool drom_timer_passed(drom_timer *timer, drom_us now);

#ifdef __cplusplus
}
#endif

#endif
