/* A burst of no known protocol still has to become one number, the same at each press. Only times from mark
 * to mark count, since a receiver that stretches marks doesn't move their starts; and only their ratio to the
 * mean of the short ones, since a slow clock slows them all. The classes, in half steps, go through FNV-1a.
 */
#include "fingerprint.h"

void drom_fingerprint_mark(drom_fingerprint *fingerprint, drom_us at)
{
    const uint8_t most = sizeof fingerprint->periods / sizeof fingerprint->periods[0];
    if (fingerprint->count > 0 && fingerprint->count <= most) {
        const drom_us period = at - fingerprint->mark_at;
        fingerprint->periods[fingerprint->count - 1] = period > UINT16_MAX ? UINT16_MAX : (uint16_t)period;
    }
    if (fingerprint->count <= most) {
        fingerprint->count++;
    }
    fingerprint->mark_at = at;
}

static uint16_t mean_of_short(const uint16_t *periods, uint8_t count)
{
    uint16_t least = UINT16_MAX;
    for (uint8_t i = 0; i < count; i++) {
        least = periods[i] < least ? periods[i] : least;
    }
    uint32_t sum = 0;
    uint8_t members = 0;
    for (uint8_t i = 0; i < count; i++) {
        if (periods[i] <= least + least / 4u) {
            sum += periods[i];
            members++;
        }
    }
    return (uint16_t)(members == 0 ? 0 : sum / members);
}

uint32_t drom_fingerprint_take(const drom_fingerprint *fingerprint)
{
    enum { LARGEST_CLASS = 7 };
    uint32_t hash = UINT32_C(2166136261);
    const uint8_t count = fingerprint->count == 0 ? 0 : (uint8_t)(fingerprint->count - 1);
    const uint16_t unit = mean_of_short(fingerprint->periods, count);
    if (unit == 0) {
        return hash;
    }
    for (uint8_t i = 0; i < count; i++) {
        const uint32_t half_steps = (2 * (uint32_t)fingerprint->periods[i] + unit / 2u) / unit;
        hash = (hash ^ (half_steps > LARGEST_CLASS ? LARGEST_CLASS : half_steps)) * UINT32_C(16777619);
    }
    return hash;
}

const drom_protocol DROM_FLASH drom_unknown = {.id = "unknown", .period_us = 110000, .has_any_period = true};
