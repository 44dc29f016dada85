/* A burst of no known protocol becomes one number, the same at each press.
 *
 * Only times from mark to mark count, as a receiver that stretches marks doesn't move their starts; and only
 * which of these times are equal, as a slow clock slows all of them. Sorted by length, they fall into groups:
 * a step up of an eighth of the length, and of a third of the largest such step, separates two groups. The
 * groups, in the order of the burst, are the input of CRC-32 (the one of Ethernet and PNG), two groups per
 * byte, the first in the low half. The first time is left out: it is mostly the leader's, and doesn't depend
 * on the key. */
#include "../compiler.h"

#include "../../include/dromikos/internal/receive.h"

enum { MAX_PERIODS = sizeof((drom_fingerprint *)0)->periods / sizeof((drom_fingerprint *)0)->periods[0] };

static void take_mark(drom_fingerprint *fingerprint, drom_us at)
{
    if (fingerprint->count > 1 &&
        fingerprint->count <= MAX_PERIODS + 1) { /* the first time is the leader's */
        const drom_us period = at - fingerprint->mark_at;
        fingerprint->periods[fingerprint->count - 2] = period > UINT16_MAX ? UINT16_MAX : (uint16_t)period;
    }
    if (fingerprint->count <= MAX_PERIODS + 1) {
        fingerprint->count++;
    }
    fingerprint->mark_at = at;
}

static void take_run(drom_fingerprint *fingerprint, const drom_interval *run, drom_us ended_at)
{
    if (run->us >= DROM_BURST_GAP_US) {
        fingerprint->began_at = ended_at;
    } else if (fingerprint->intervals < UINT16_MAX) {
        fingerprint->intervals++;
    }
    if (!run->is_mark) {
        take_mark(fingerprint, ended_at);
    }
}

/* Returns the shortest period longer than this; 0 if there is none. */
static uint16_t next_longer(const uint16_t *periods, uint8_t count, uint16_t than)
{
    uint16_t next = 0;
    for (uint8_t i = 0; i < count; i++) {
        if (periods[i] > than && (next == 0 || periods[i] < next)) {
            next = periods[i];
        }
    }
    return next;
}

/* Returns a step up in 256ths of its base; half of the base counts as much as any more. */
static uint16_t step_up(uint16_t from, uint16_t end)
{
    const uint32_t step = (uint32_t)(end - from) * 256 / (from > 0 ? from : 1);
    return step > 128 ? 128 : (uint16_t)step;
}

static uint16_t largest_step(const uint16_t *periods, uint8_t count)
{
    uint16_t largest = 0;
    uint16_t from = next_longer(periods, count, 0);
    for (uint16_t end = next_longer(periods, count, from); end != 0;
         end = next_longer(periods, count, from)) {
        const uint16_t step = step_up(from, end);
        largest = step > largest ? step : largest;
        from = end;
    }
    return largest;
}

/* Returns the last period of the group that begins with this one. */
static uint16_t end_of_group(const uint16_t *periods, uint8_t count, uint16_t from, uint16_t parting_step)
{
    uint16_t end = next_longer(periods, count, from);
    while (end != 0 && step_up(from, end) < parting_step) {
        from = end;
        end = next_longer(periods, count, from);
    }
    return from;
}

/* The remainders of four bits. */
static const uint32_t DROM_FLASH remainders[16] = {
    0,          0x1db71064, 0x3b6e20c8, 0x26d930ac, 0x76dc4190, 0x6b6b51f4, 0x4db26158, 0x5005713c,
    0xedb88320, 0xf00f9344, 0xd6d6a3e8, 0xcb61b38c, 0x9b64c2b0, 0x86d3d2d4, 0xa00ae278, 0xbdbdf21c};

static uint32_t hash_on(uint32_t hash, uint8_t half)
{
    return hash >> 4 ^ remainders[(hash ^ half) & 15];
}

/* In both loops a period grows each time, so that they end after at most `count` rounds. */
static uint32_t number_of(const drom_fingerprint *fingerprint)
{
    enum { MIN_STEP = 32, MAX_GROUPS = 8 };
    uint32_t hash = UINT32_MAX;
    const uint8_t count = fingerprint->count < 2 ? 0 : (uint8_t)(fingerprint->count - 2);
    const uint16_t third = largest_step(fingerprint->periods, count) / 3;
    const uint16_t parting_step = third > MIN_STEP ? third : MIN_STEP;
    uint16_t ends[MAX_GROUPS];
    uint8_t groups = 0;
    uint16_t from = next_longer(fingerprint->periods, count, 0);
    while (from != 0 && groups < MAX_GROUPS) {
        ends[groups] = end_of_group(fingerprint->periods, count, from, parting_step);
        from = next_longer(fingerprint->periods, count, ends[groups++]);
    }
    for (uint8_t i = 0; i < count; i++) {
        uint8_t group = 0;
        while (group + 1 < groups && fingerprint->periods[i] > ends[group]) {
            group++;
        }
        hash = hash_on(hash, group);
    }
    return ~(count % 2 == 0 ? hash : hash_on(hash, 0));
}

static bool end_burst(drom_fingerprint *fingerprint, drom_us ended_at, drom_frame *frame)
{
    const bool is_unknown = !fingerprint->is_reported && fingerprint->intervals >= DROM_UNKNOWN_MIN_INTERVALS;
    if (is_unknown) {
        *frame = (drom_frame){
            .protocol = &drom_unknown,
            .code = {DROM_UNKNOWN, .address = number_of(fingerprint)},
            .at = fingerprint->began_at,
            .lasted_us = ended_at - fingerprint->began_at,
            .intervals = fingerprint->intervals,
        };
    }
    fingerprint->count = 0;
    fingerprint->intervals = 0;
    fingerprint->is_reported = false;
    return is_unknown;
}

static const char DROM_FLASH unknown_id[] = "unknown";

const drom_protocol DROM_FLASH drom_unknown = {
    .id = DROM_ID(unknown_id), .number = DROM_UNKNOWN, .period_us = 110000, .has_any_period = true};

const drom_fingerprinting DROM_FLASH drom_fingerprints = {take_run, end_burst};
