#include "knobs.h"

typedef enum knob_of { DISTANCE, ANGLE, BATTERY, LAMPS, OTHER, OWN_CODE, MASKED } knob_of;

/* The settings of a condition; the first is ideal unless stated otherwise. */
static const struct {
    const char *name;
    unsigned start;
    struct {
        const char *text; /* NULL: end of the list */
        double value;
    } steps[12];
} all[KNOBS] = {
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

static double turned_to(const knobs *room, knob_of which)
{
    return all[which].steps[room->turned[which]].value;
}

static void show(knobs *room)
{
    for (unsigned i = 0; i < KNOBS; i++) {
        room->shown[i] = (live_knob){.name = all[i].name,
                                     .value = all[i].steps[room->turned[i]].text,
                                     .is_plain = room->turned[i] == all[i].start};
    }
}

void knobs_begin(knobs *room)
{
    *room = (knobs){0};
    for (unsigned i = 0; i < KNOBS; i++) {
        room->turned[i] = all[i].start;
    }
    show(room);
}

void knobs_turn(knobs *room, unsigned which, int steps)
{
    unsigned *const until = &room->turned[which];
    const bool has_more =
        *until + 1 < G_N_ELEMENTS(all[0].steps) && all[which].steps[*until + 1].text != NULL;
    if (steps > 0 && has_more) {
        ++*until;
    } else if (steps < 0 && *until > 0) {
        --*until;
    }
    show(room);
}

sim_place knobs_place(const knobs *room)
{
    return (sim_place){turned_to(room, DISTANCE), turned_to(room, ANGLE), turned_to(room, BATTERY)};
}

uint64_t knobs_own_code_us(const knobs *room)
{
    return (uint64_t)turned_to(room, OWN_CODE);
}

void knobs_disturb(knobs *room, sim_bench *bench, uint64_t until_us)
{
    enum { MASK_EACH_US = 20000, OTHER_EACH_US = 700000, OTHER_HELD_US = 150000 };
    const double masked_us = turned_to(room, MASKED);
    if (until_us <= room->disturbed_us) {
        return;
    }
    for (unsigned i = 0; i < (unsigned)turned_to(room, LAMPS); i++) {
        sim_bench_add_noise(bench, SIM_NOISE_LAMP, room->disturbed_us, until_us);
    }
    for (uint64_t us = room->disturbed_us; masked_us > 0 && us < until_us; us += MASK_EACH_US) {
        sim_bench_mask(bench, us, masked_us);
    }
    if (turned_to(room, OTHER) > 0 && room->other_us <= room->disturbed_us) {
        const sim_press press = {.waveform = &drom_nec_waveform,
                                 .code = {DROM_NEC, 0x99, 0x15},
                                 .at_us = room->disturbed_us,
                                 .held_us = OTHER_HELD_US};
        (void)sim_bench_press(bench, &press);
        room->other_us = room->disturbed_us + OTHER_EACH_US;
    }
    room->disturbed_us = until_us;
}
