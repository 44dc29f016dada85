/* A C program: a press on the simulated bench reaches a relay. */
#include "relays.h"

#include "sim.h"

#include <stdio.h>

int main(void)
{
    static drom_engine engine;
    drom_fault fault;
    char text[100];
    sim_bench *const bench = sim_bench_new(1);
    if (drom_engine_init(&engine, &relays_plan, sim_bench_port(bench), &fault) != DROM_OK) {
        printf("refused: %s\n", drom_fault_text(&fault, text, sizeof text));
        return 1;
    }
    sim_bench_wire_engine(bench, &engine);
    sim_bench_press(bench, &(sim_press){.waveform = &drom_nec_waveform,
                                        .code = {DROM_NEC, 33, 54},
                                        .at_us = 10000,
                                        .held_us = 50000});
    while (sim_bench_now(bench) < 300000) {
        (void)sim_bench_sleep(bench, drom_engine_poll(&engine));
    }
    printf("lantern %s\n", sim_bench_is_high(bench, 7) ? "on" : "off");
    sim_bench_free(bench);
    return 0;
}
