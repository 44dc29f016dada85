/* The cue ring: changes of pins on their way from main to the alarm interrupt.
 *
 * Who needs an exact time (a step, the edge of a burst) works it out ahead, in main, and leaves it here. The
 * alarm then has nothing to think about: it turns pins over, and arms itself for the next cue. One producer
 * (main), one consumer (the alarm), no lock. Cues are in the order of their times, whoever they are from. */
#ifndef DROMIKOS_CUES_H
#define DROMIKOS_CUES_H

#include "timing.h"

/** Slots of the ring; a power of two. They must outlast what keeps main from its poll: a strip of 60 pixels
 * takes 2 ms, in which an infrared frame has up to five edges and a stepper one step. */
enum { DROM_CUES = 8 };

/** No cue is made further ahead than this: what begins now comes after those that are made already. It must
 * stay below 16 ms, so that timers of 2 MHz and 16 bits can hold it. */
#define DROM_CUE_HORIZON_US 8000

/** Pins that turn over at a time. */
typedef struct drom_cue {
    uint32_t toggles; /**< what of the port turns over; the port's own bits, see drom_port.toggle_pin */
    uint16_t at;      /**< the low 16 bits of the time in µs */
} drom_cue;

typedef struct drom_cues {
    drom_cue slots[DROM_CUES];
    drom_us last_at; /**< main's: the newest cue's time */
    uint8_t head;    /**< written by main alone; free-running */
    uint8_t tail;    /**< written by the alarm alone; free-running */
} drom_cues;

/** True when no more cues fit. Main only. */
static inline bool drom_cues_are_full(const drom_cues *cues)
{
    return (uint8_t)(cues->head - __atomic_load_n(&cues->tail, __ATOMIC_ACQUIRE)) >= DROM_CUES;
}

/** True when every cue has been taken. Interrupt or main. */
static inline bool drom_cues_are_empty(const drom_cues *cues)
{
    return __atomic_load_n(&cues->head, __ATOMIC_ACQUIRE) == __atomic_load_n(&cues->tail, __ATOMIC_ACQUIRE);
}

/** Adds a cue to a ring that isn't full. `at` is not before the newest cue's, and within the horizon. Arm the
 * alarm afterwards. Main only. */
void drom_cues_put(drom_cues *cues, drom_us at, uint32_t toggles);

/** Drops all cues. The alarm must be off or masked. Main only. */
void drom_cues_drop(drom_cues *cues);

/** The oldest cue of a ring that isn't empty. The alarm's handler, or main while the alarm is off. */
static inline const drom_cue *drom_cues_first(const drom_cues *cues)
{
    return &cues->slots[cues->tail % DROM_CUES];
}

/** Lets the oldest cue go. The alarm's handler only. */
static inline void drom_cues_take(drom_cues *cues)
{
    __atomic_store_n(&cues->tail, (uint8_t)(cues->tail + 1), __ATOMIC_RELEASE);
}

#endif
