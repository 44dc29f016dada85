/* The infrared medium, shared by receivers and senders: whether a handset is sending, when its next frame is
 * expected, and whether we are transmitting. Our own receiver receives what we transmit. The engine keeps the
 * state up to date; outputs ask here before they transmit or block the processor. */
#ifndef DROMIKOS_INTERNAL_AIR_H
#define DROMIKOS_INTERNAL_AIR_H

#include "timing.h"

/** How long the receiver stretches our last mark. */
#define DROM_ECHO_US 300

/** The line must be quiet for this long before we transmit: longer than any space within a frame. */
#define DROM_QUIET_US 12000

/** A frame of a press in progress is begun at most this long before its first edge. */
#define DROM_AHEAD_US 3000

/** When the frames of a held key are sent, from the frames received. */
typedef struct drom_rhythm {
    drom_us heard_at;      /**< start of the newest frame */
    drom_us period_us;     /**< from there to the start of the next */
    drom_us begin_us;      /**< a repeat begins within this time, as handsets' clocks vary */
    drom_us around_us;     /**< a repeat has ended after this time */
    drom_us clear_at;      /**< earliest start of the next frame that isn't `was_covered` or `was_muted` */
    bool has_repeated : 1; /**< a repeat of this press has been received */
    bool was_muted : 1;    /**< a repeat since the newest frame was due while we transmitted */
    bool was_covered : 1;  /**< by a frame that its press didn't need */
} drom_rhythm;

/** The held key whose next frame is expected first. */
typedef struct drom_expected {
    drom_deadline next; /**< its earliest start; not armed: no key is held */
    const drom_rhythm *rhythm;
} drom_expected;

typedef struct drom_air {
    drom_us transmit_from; /**< first edge of our frame */
    drom_deadline echo;    /**< end of our last edge's echo, once known: the transmission is over */
    drom_expected expected;
    drom_us other_at;         /**< newest edge of a mark that wasn't expected */
    bool is_other : 1;        /**< the newest mark wasn't expected */
    bool is_quiet : 1;        /**< no mark for DROM_QUIET_US */
    bool is_free : 1;         /**< likewise, except for repeats of held keys */
    bool is_mark : 1;         /**< the line is in a mark */
    bool is_muted : 1;        /**< we transmit, and our receiver receives it */
    bool is_transmitting : 1; /**< we send a frame, or its echo isn't over */
    bool was_quiet : 1;       /**< `is_quiet` when the transmission began */
    bool is_spare : 1;        /**< our frame continues a press that doesn't need it */
    bool is_taken : 1;        /**< we send a press, and its next frame has a fixed time */
} drom_air;

struct drom_timing;

/** True if a held key may send a frame at this time. */
bool drom_air_expects(const drom_air *air, drom_us at);

/** True if transmitting for `us` may begin: nothing else transmits and no held key will; or held keys never
 * leave such a long gap, and the transmission covers their repeats. */
bool drom_air_is_free(const struct drom_timing *timing, drom_us us);

/** True if blocking the processor for `us` can't lose a frame. `soonest`: time in µs until a frame may be
 * complete. On a port that slices, no frame may be complete before the end; on others, no handset may be
 * sending or expected. */
bool drom_air_allows_refresh(const struct drom_timing *timing, drom_us us, drom_us soonest);

/** Begins a transmission at a time; `is_shielded`: our receiver doesn't receive it. */
void drom_air_begin_transmission(struct drom_timing *timing, drom_us from, bool is_shielded);

/** Sets the time of the last edge of our frame. */
void drom_air_end_transmission(struct drom_timing *timing, drom_us until);

#endif
