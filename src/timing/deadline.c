/* Comparing times, and deadlines. */
#include "../compiler.h"

#include "../../include/dromikos/internal/timing.h"

DROM_NOINLINE bool drom_is_due(drom_us now, drom_us at)
{
    return (drom_us)(now - at) <= DROM_LONGEST_US;
}

DROM_NOINLINE drom_wait drom_until(drom_us now, drom_us at)
{
    const drom_us us = at - now;
    return us > DROM_LONGEST_US ? 0 : us > DROM_LONG ? DROM_LONG : (drom_wait)us;
}

void drom_deadline_arm(drom_deadline *deadline, drom_us now, drom_us delay)
{
    deadline->at = now + delay;
    deadline->is_armed = true;
}

bool drom_deadline_passed(drom_deadline *deadline, drom_us now)
{
    if (!deadline->is_armed || !drom_is_due(now, deadline->at)) {
        return false;
    }
    deadline->is_armed = false;
    return true;
}

drom_wait drom_deadline_wait(const drom_deadline *deadline, drom_us now)
{
    return deadline->is_armed ? drom_until(now, deadline->at) : DROM_LONG;
}
