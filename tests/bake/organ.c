/* Plays the baked organ on the bench with three keys, and prints its calls. */
#include "organ_plan.h"

#include "dromikos/dromikos.h"

#include "sim.h"

#include <stdio.h>

void organ_play(int16_t tune)
{
    (void)printf("play %d, ", tune);
}

void organ_hush(int16_t is_hushed)
{
    (void)printf("hush %d, ", is_hushed);
}

int main(void)
{
    static const uint16_t keys[] = {0x22, 0x26, 0x19}; /* up, mute, 9 */
    static drom_engine engine;
    sim_bench *const bench = sim_bench_new(1);
    if (drom_engine_init(&engine, &organ_plan, sim_bench_port(bench), NULL) != DROM_OK) {
        return 1;
    }
    sim_bench_wire_engine(bench, &engine);
    for (unsigned i = 0; i < 3; i++) {
        const sim_press press = {.waveform = &drom_nec_waveform,
                                 .code = {DROM_NEC, 0x5c, keys[i]},
                                 .at_us = 500000 + i * UINT64_C(1000000),
                                 .held_us = 100000};
        if (!sim_bench_press(bench, &press)) {
            return 1;
        }
    }
    while (sim_bench_sleep(bench, drom_engine_poll(&engine))) {
    }
    sim_bench_free(bench);
    return 0;
}
