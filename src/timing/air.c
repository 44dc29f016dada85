/* Who may talk, and who may keep the processor. */
#include "dromikos/air.h"

/* How long no handset will speak that has a key down. */
static drom_us until_next_frame(const drom_timing *timing)
{
    const drom_us since = timing->now - timing->air.as_of;
    const drom_us next = timing->air.next_frame;
    return next == DROM_NEVER ? next : next > since ? next - since : 0;
}

bool drom_air_is_free(const drom_timing *timing, drom_us us)
{
    const drom_air *const air = &timing->air;
    return air->is_quiet && !air->is_talking && until_next_frame(timing) >= us;
}

bool drom_air_allows_refresh(const drom_timing *timing, drom_us us)
{
    const drom_air *const air = &timing->air;
    if (timing->port->facts.can_slice) {
        return air->is_quiet || air->is_deaf || air->soonest >= us;
    }
    return drom_cues_are_empty(&timing->cues) &&
           (air->is_quiet ? until_next_frame(timing) >= us : air->is_deaf);
}

void drom_air_begin_talk(drom_timing *timing, drom_us from, bool is_shielded)
{
    drom_air *const air = &timing->air;
    air->talk_from = from;
    air->is_talking = true;
    air->is_deaf = !is_shielded;
    air->has_last_edge = false;
}

void drom_air_end_talk(drom_timing *timing, drom_us until)
{
    timing->air.talk_until = until;
    timing->air.has_last_edge = true;
}
