/* Who may talk, and who may keep the processor. */
#include "dromikos/air.h"

#include "../one.h"

/* Will no handset that has a key down speak so soon? */
static bool is_left_alone(const drom_timing *timing, drom_us us)
{
    const drom_deadline *const next = &timing->air.next_frame;
    return !next->is_armed || !drom_is_due(timing->now + us - 1, next->at);
}

bool drom_air_is_free(const drom_timing *timing, drom_us us)
{
    const drom_air *const air = &timing->air;
    return air->is_quiet && !air->is_talking && is_left_alone(timing, us);
}

bool drom_air_allows_refresh(const drom_timing *timing, drom_us us, drom_us soonest)
{
    const drom_air *const air = &timing->air;
    if (DROM_PORT_OF(timing)->facts.can_slice) {
        return air->is_quiet || air->is_deaf || soonest >= us;
    }
    return drom_cues_are_empty(&timing->cues) && (air->is_quiet ? is_left_alone(timing, us) : air->is_deaf);
}

void drom_air_begin_talk(drom_timing *timing, drom_us from, bool is_shielded)
{
    drom_air *const air = &timing->air;
    air->talk_from = from;
    air->is_talking = true;
    air->is_deaf = !is_shielded;
}

DROM_APART void drom_air_end_talk(drom_timing *timing, drom_us until)
{
    drom_deadline_arm(&timing->air.echo, until, DROM_ECHO_US);
}
