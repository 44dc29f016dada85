// A C++ program: tables in C, orders and events from C++.
#include "relays.h"

#include "dromikos/outputs/relay.h"

#include "sim.h"

#include <cstdio>
#include <cstring>

int main()
{
    static drom_engine engine;
    drom_fault fault;
    sim_bench *const bench = sim_bench_new(1);
    if (drom_engine_init(&engine, &relays_plan, sim_bench_port(bench), &fault) != DROM_OK) {
        char text[100];
        std::printf("refused: %s\n", drom_fault_text(&fault, text, sizeof text));
        return 1;
    }
    sim_bench_wire_engine(bench, &engine);
    const drom_status ordered = drom_engine_order(&engine, LANTERN, DROM_RELAY_ON, 0);
    const drom_status refused = drom_engine_order(&engine, 9, DROM_RELAY_ON, 0);
    while (sim_bench_now(bench) < 100000) { // µs
        (void)sim_bench_sleep(bench, drom_engine_poll(&engine));
    }
    std::printf("dromikos %s: lantern %s, %d %d\n", DROM_VERSION, sim_bench_is_high(bench, 7) ? "on" : "off", ordered, refused);
    drom_engine_stop(&engine);
    sim_bench_free(bench);
    return std::strcmp(DROM_VERSION, "0.2.0") == 0 ? 0 : 1;
}
