/* Which output may transmit, and which may block the processor. */
#include "../compiler.h"

#include "../../include/dromikos/internal/scheduler.h"

#include "../bound.h"

/* True if no held key will send a frame within `us`. */
static bool is_left_alone(const drom_timing *timing, drom_us us)
{
    const drom_deadline *const next = &timing->air.expected.next;
    return !next->is_armed || !drom_is_due(timing->now + us - 1, next->at);
}

DROM_NOINLINE bool drom_air_expects(const drom_air *air, drom_us at)
{
    return air->expected.next.is_armed && at - air->expected.next.at <= air->expected.rhythm->around_us;
}

bool drom_air_is_free(const drom_timing *timing, drom_us us)
{
    const drom_air *const air = &timing->air;
    return air->is_free && !air->is_transmitting &&
           (is_left_alone(timing, us) ||
            us + air->expected.rhythm->around_us + DROM_QUIET_US > air->expected.rhythm->period_us);
}

bool drom_air_allows_refresh(const drom_timing *timing, drom_us us, drom_us soonest)
{
    const drom_air *const air = &timing->air;
    if (drom_port_of(timing)->pixels->can_slice) {
        return air->is_quiet || air->is_muted || soonest >= us;
    }
    return drom_timed_edges_are_empty(&timing->timed_edges) &&
           (air->is_quiet ? is_left_alone(timing, us) : air->is_muted);
}

void drom_air_begin_transmission(drom_timing *timing, drom_us from, bool is_shielded)
{
    drom_air *const air = &timing->air;
    air->transmit_from = from;
    air->is_transmitting = true;
    air->was_quiet = air->is_quiet;
    air->is_muted = !is_shielded;
}

DROM_NOINLINE void drom_air_end_transmission(drom_timing *timing, drom_us until)
{
    drom_deadline_arm(&timing->air.echo, until, DROM_ECHO_US);
}
