/* The bench's handset makes the edges; the chip runs from one to the next. */
#include "press.h"

unsigned press_noting(chip *mcu, const drom_waveform *waveform, const drom_code *code, unsigned held_ms,
                      double *at_us, unsigned max)
{
    const uint64_t origin = chip_now(mcu);
    sim_bench *const bench = sim_bench_new(code->command);
    size_t edges = 0;
    int marks = 0;
    (void)sim_bench_press(bench,
                          &(sim_press){.waveform = waveform,
                                       .code = *code,
                                       .held_us = held_ms * UINT64_C(1000),
                                       .at_us = 100,
                                       .room = {.clock_error = 0.02, .stretch_us = 40, .jitter_us = 30}});
    const sim_edge *const edge = sim_bench_edges(bench, &edges);
    for (size_t i = 0; i < edges; i++) {
        chip_run(mcu, origin + edge[i].at_us * 16);
        marks += edge[i].is_mark ? 1 : -1;
        chip_set_line(mcu, marks > 0);
        if (i < max) {
            at_us[i] = (double)chip_now(mcu) / 16;
        }
    }
    sim_bench_free(bench);
    return (unsigned)edges;
}

void press(chip *mcu, const drom_waveform *waveform, uint32_t address, uint16_t command, unsigned held_ms)
{
    const drom_code code = {waveform->protocol->number, address, command};
    (void)press_noting(mcu, waveform, &code, held_ms, NULL, 0);
}
