#include "cli/rehearse/conditions.h"

typedef enum condition_of { DISTANCE, ANGLE, BATTERY, LAMPS, OTHER, OWN_CODE, MASKED } condition_of;

/* The settings of a condition; the first is ideal unless stated otherwise. */
static const struct {
    const char *name;
    unsigned start;
    struct {
        const char *text; /* NULL: end of the list */
        double value;
    } steps[12];
} all[CONDITIONS] = {
    [DISTANCE] = {"distance",
                  2,
                  {{"0.5 m", 0.5},
                   {"1 m", 1},
                   {"3 m", 3},
                   {"5 m", 5},
                   {"7 m", 7},
                   {"9 m", 9},
                   {"11 m", 11},
                   {"13 m", 13},
                   {"15 m", 15}}},
    [ANGLE] = {"angle", 0, {{"0", 0}, {"15", 15}, {"30", 30}, {"45", 45}, {"60", 60}, {"75", 75}}},
    [BATTERY] = {"battery", 0, {{"100 %", 1}, {"80 %", 0.8}, {"60 %", 0.6}, {"40 %", 0.4}, {"25 %", 0.25}}},
    [LAMPS] = {"lamps", 0, {{"0", 0}, {"1", 1}, {"2", 2}, {"4", 4}, {"8", 8}}},
    [OTHER] = {"other handset", 0, {{"no", 0}, {"yes", 1}}},
    [OWN_CODE] = {"delay each loop",
                  0,
                  {{"0", 0},
                   {"1 ms", 1000},
                   {"5 ms", 5000},
                   {"20 ms", 20000},
                   {"50 ms", 50000},
                   {"100 ms", 100000},
                   {"200 ms", 200000},
                   {"500 ms", 500000}}},
    [MASKED] = {"interrupts off",
                0,
                {{"0", 0}, {"0.1 ms", 100}, {"0.5 ms", 500}, {"1 ms", 1000}, {"3 ms", 3000}}},
};

static double turned_to(const conditions *now, condition_of which)
{
    return all[which].steps[now->turned[which]].value;
}

static void show(conditions *now)
{
    for (unsigned i = 0; i < CONDITIONS; i++) {
        now->shown[i] = (live_condition){.name = all[i].name,
                                         .value = all[i].steps[now->turned[i]].text,
                                         .is_plain = now->turned[i] == all[i].start};
    }
}

void conditions_begin(conditions *now)
{
    *now = (conditions){0};
    for (unsigned i = 0; i < CONDITIONS; i++) {
        now->turned[i] = all[i].start;
    }
    show(now);
}

void conditions_turn(conditions *now, unsigned which, int steps)
{
    unsigned *const until = &now->turned[which];
    const bool has_more =
        *until + 1 < G_N_ELEMENTS(all[0].steps) && all[which].steps[*until + 1].text != NULL;
    if (steps > 0 && has_more) {
        ++*until;
    } else if (steps < 0 && *until > 0) {
        --*until;
    }
    show(now);
}

sim_place conditions_place(const conditions *now)
{
    return (sim_place){turned_to(now, DISTANCE), turned_to(now, ANGLE), turned_to(now, BATTERY)};
}

uint64_t conditions_own_code_us(const conditions *now)
{
    return (uint64_t)turned_to(now, OWN_CODE);
}

void conditions_disturb(conditions *now, sim_bench *bench, uint64_t until_us)
{
    enum { MASK_EACH_US = 20000, OTHER_EACH_US = 700000, OTHER_HELD_US = 150000 };
    const double masked_us = turned_to(now, MASKED);
    if (until_us <= now->disturbed_us) {
        return;
    }
    for (unsigned i = 0; i < (unsigned)turned_to(now, LAMPS); i++) {
        sim_bench_add_noise(bench, SIM_NOISE_LAMP, now->disturbed_us, until_us);
    }
    for (uint64_t us = now->disturbed_us; masked_us > 0 && us < until_us; us += MASK_EACH_US) {
        sim_bench_mask(bench, us, masked_us);
    }
    if (turned_to(now, OTHER) > 0 && now->other_us <= now->disturbed_us) {
        const sim_press press = {.waveform = &drom_nec_waveform,
                                 .code = {DROM_NEC, 0x99, 0x15},
                                 .at_us = now->disturbed_us,
                                 .held_us = OTHER_HELD_US};
        (void)sim_bench_press(bench, &press);
        now->other_us = now->disturbed_us + OTHER_EACH_US;
    }
    now->disturbed_us = until_us;
}
