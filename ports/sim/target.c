/* Another appliance: it sees the light of an LED and knows a few codes by its own, plain way of
 * measuring. A frame is over when the light has been off for 8 ms. */
#include "devices.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

enum { OVER_US = 8000 };

typedef struct pulse_code {
    const char *name;
    double leader_us;
    double leader_space_us;
    double one_us; /* mark and space together are a one from here on */
    unsigned bits;
    bool is_by_mark; /* the mark has the bits */
} pulse_code;

static const pulse_code codes[] = {
    {"nec", 9000, 4500, 1700, 32, false},  {"samsung32", 4500, 4500, 1700, 32, false},
    {"lg28", 9000, 4500, 1700, 28, false}, {"jvc", 8400, 4200, 1600, 16, false},
    {"sirc12", 2400, 600, 900, 12, true},  {"kaseikyo", 3456, 1728, 1300, 48, false},
};

static bool is_about(double us, double nominal_us)
{
    return us > nominal_us * 0.85 && us < nominal_us * 1.15;
}

static bool read_pulses(sim_target *target, const pulse_code *code)
{
    const double *const runs = target->runs_us;
    const unsigned runs_needed = 2 + 2 * code->bits - (code->is_by_mark ? 1 : 0) + (code->is_by_mark ? 0 : 1);
    if (target->count != runs_needed || !is_about(runs[0], code->leader_us) ||
        !is_about(runs[1], code->leader_space_us)) {
        return false;
    }
    unsigned long long bits = 0;
    for (unsigned i = 0; i < code->bits; i++) {
        const double us = code->is_by_mark ? runs[2 + 2 * i] : runs[2 + 2 * i] + runs[3 + 2 * i];
        bits |= (unsigned long long)(us >= code->one_us) << i;
    }
    (void)snprintf(target->heard, sizeof target->heard, "%s 0x%llx", code->name, bits);
    return true;
}

/* nec and lg28 say of a held key that it is the same again. */
static bool read_repeat(sim_target *target)
{
    const double *const runs = target->runs_us;
    const bool is_repeat = target->count == 3 && is_about(runs[0], 9000) && is_about(runs[1], 2250);
    if (is_repeat) {
        (void)snprintf(target->heard, sizeof target->heard, "the same again");
    }
    return is_repeat;
}

void sim_target_light(sim_target *target, double now_us, bool is_own, bool is_handset)
{
    const bool is_on = is_own || is_handset;
    target->has_ours |= is_own;
    if (is_on == target->is_on) {
        return;
    }
    if (target->light != NULL) {
        target->light(target->context, (uint64_t)now_us, is_on);
    }
    if (target->appliance != NULL) {
        sim_appliance_light(target->appliance, now_us, is_on);
    }
    const double us = now_us - target->changed_at_us;
    if (is_on && (us >= OVER_US || target->count == 0)) {
        target->count = 0;
    } else if (target->count < SIM_MAX_RUNS) {
        target->runs_us[target->count++] = us;
    }
    target->is_on = is_on;
    target->changed_at_us = now_us;
}

double sim_target_due(const sim_target *target)
{
    return target->is_on || target->count == 0 ? INFINITY : target->changed_at_us + OVER_US;
}

bool sim_target_settle(sim_target *target, double now_us)
{
    if (now_us < sim_target_due(target)) {
        return false;
    }
    if (target->appliance != NULL) {
        sim_appliance_pass(target->appliance, now_us);
    }
    if (!target->has_ours) {
        target->count = 0;
        return false;
    }
    const bool is_understood =
        target->appliance != NULL &&
        sim_appliance_has_heard(target->appliance, target->heard, sizeof target->heard);
    bool is_known = read_repeat(target);
    for (size_t i = 0; i < sizeof codes / sizeof codes[0] && !is_known; i++) {
        is_known = read_pulses(target, &codes[i]);
    }
    if (is_known || is_understood) {
        target->frames++;
    } else {
        (void)snprintf(target->heard, sizeof target->heard, "a burst of %u runs", target->count);
        target->unknown++;
    }
    target->count = 0;
    target->has_ours = false;
    return true;
}
