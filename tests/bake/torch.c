/* Plays a baked plan whose sender sends keys of declared protocols, and prints how often an appliance that
 * knows them received each. */
#include "torch_plan.h"

#include "dromikos/dromikos.h"
#include "dromikos/outputs/sender.h"

#include "sim.h"

#include <stdio.h>

int main(void)
{
    static drom_engine engine;
    sim_bench *const bench = sim_bench_new(1);
    const drom_sender_settings *const horn = torch_plan.outputs.outputs.rows[TORCH_OUTPUT_HORN].settings;
    sim_target *const appliance = sim_bench_wire_target(bench, horn->pin);
    sim_target_learn(appliance, horn->keys.rows, horn->keys.count);
    if (drom_engine_init(&engine, &torch_plan, sim_bench_port(bench), NULL) != DROM_OK) {
        return 1;
    }
    sim_bench_wire_engine(bench, &engine);
    while (sim_bench_now(bench) < 5000000) {
        const drom_us wait = drom_engine_poll(&engine);
        (void)sim_bench_sleep(bench, wait < 1000 ? wait : 1000);
    }
    for (uint8_t i = 0; i < horn->keys.count; i++) {
        (void)printf("%s %u kHz %u\n", horn->keys.rows[i].waveform->protocol->id,
                     horn->keys.rows[i].waveform->carrier_khz, sim_target_presses(appliance, i));
    }
    sim_bench_free(bench);
    return 0;
}
