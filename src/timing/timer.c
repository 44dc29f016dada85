/* A timer is a deadline that may be followed by further parts of equal length: it counts to a day in 32 bits,
 * and loses no microsecond. */
#include "../compiler.h"

#include "../../include/dromikos/internal/timing.h"

#define PART_US (DROM_TIMER_PART_MS * 1000)

static drom_us rest_us(uint32_t ms)
{
    return (ms % DROM_TIMER_PART_MS) * 1000;
}

void drom_timer_start(drom_timer *timer, drom_us now, uint32_t ms)
{
    const uint32_t at_most = ms < DROM_TIMER_LONGEST_MS ? ms : DROM_TIMER_LONGEST_MS;
    drom_deadline_arm(&timer->part, now, rest_us(at_most));
    timer->more_parts = (uint8_t)(at_most / DROM_TIMER_PART_MS);
}

void drom_timer_add(drom_timer *timer, drom_us now, uint32_t ms)
{
    const uint8_t longest_parts = DROM_TIMER_LONGEST_MS / DROM_TIMER_PART_MS;
    if (!timer->part.is_armed || ms >= DROM_TIMER_LONGEST_MS) {
        drom_timer_start(timer, now, ms);
        return;
    }
    const uint8_t parts = (uint8_t)(timer->more_parts + ms / DROM_TIMER_PART_MS);
    drom_us left_us = drom_is_due(now, timer->part.at) ? 0 : timer->part.at - now;
    left_us += rest_us(ms);
    const bool is_part_more = left_us >= PART_US;
    left_us -= is_part_more ? PART_US : 0;
    timer->more_parts = (uint8_t)(parts + is_part_more);
    drom_deadline_arm(&timer->part, now, left_us);
    if (timer->more_parts > longest_parts ||
        (timer->more_parts == longest_parts && left_us > rest_us(DROM_TIMER_LONGEST_MS))) {
        drom_timer_start(timer, now, DROM_TIMER_LONGEST_MS);
    }
}

bool drom_timer_passed(drom_timer *timer, drom_us now)
{
    if (!drom_deadline_passed(&timer->part, now)) {
        return false;
    }
    if (timer->more_parts > 0) {
        timer->more_parts--;
        drom_deadline_arm(&timer->part, timer->part.at, PART_US);
        return false;
    }
    return true;
}
