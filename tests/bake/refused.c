/* A plan with a lamp, in a program that has no PWM. */
#include "dromikos/dromikos.h"
#include "dromikos/outputs/lamp.h"

#include "sim.h"

#include <stdio.h>

static const drom_lamp_settings house = {.pin = 5};
static drom_lamp_state house_state;
static const drom_output outputs[] = {DROM_LAMP(house, house_state)};
static const drom_plan stage = {.outputs = {.outputs = DROM_ROWS(outputs)}};

int main(void)
{
    static drom_engine engine;
    drom_fault fault = {0};
    sim_bench *const bench = sim_bench_new(1);
    const bool is_refused =
        drom_engine_start(&engine, &stage, sim_bench_port(bench)) == DROM_BAD_PLAN &&
        drom_engine_init(&engine, &stage, sim_bench_port(bench), &fault) == DROM_BAD_PLAN &&
        fault.part == DROM_PART_PLAN && fault.reason == DROM_REASON_SWITCHED_OFF;
#if DROM_WITH_TEXTS
    char text[80];
    puts(drom_fault_text(&fault, text, sizeof text));
#endif
    sim_bench_free(bench);
    return is_refused ? 0 : 1;
}
