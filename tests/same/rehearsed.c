/* A plan in the tool: rehearsed PLAN SCRIPT STIMULUS. Writes the stimulus first. */
#include "bench.h"
#include "dromikos/outputs/strip.h"

#include "plan/model/build.h"
#include "plan/script/script.h"

#include "sim.h"

#include <string.h>

enum { CARRY_ON_MS = 2000, BOUNCE_US = 700 };

static same_kind kind_of(const plan *loaded, guint output, unsigned pin)
{
    const output_line *const line = plan_line(loaded, output);
    const uint8_t needs = line->kind->core->needs;
    return (needs & DROM_USES(PIXELS)) != 0    ? SAME_STRIP
           : (needs & DROM_USES(CARRIER)) != 0 ? SAME_CARRIER
           : (needs & DROM_USES(PWM)) != 0 &&
                   (line->kind->vet.is_pwm == NULL || line->kind->vet.is_pwm(line, pin))
               ? SAME_PWM
               : SAME_LEVEL;
}

static void put_wires(FILE *out, const plan *loaded)
{
    static const char *const names[] = {"", "level", "pwm", "carrier", "strip"};
    for (guint i = 0; i < plan_output_count(loaded); i++) {
        for (unsigned j = 0; j < plan_line(loaded, i)->pin_count; j++) {
            const same_kind kind = kind_of(loaded, i, j);
            const unsigned pixels =
                kind == SAME_STRIP ? ((const drom_strip_settings *)plan_output(loaded, i)->settings)->count
                                   : 0;
            fprintf(out, "wire %s %u %u\n", names[kind], plan_pin(loaded, plan_line(loaded, i), j), pixels);
        }
    }
}

/* A contact bounces once each way. */
static void put_contact(FILE *out, unsigned pin, uint64_t at_us, bool is_closed)
{
    for (unsigned i = 0; i < 3; i++) {
        fprintf(out, "contact %llu %u %d\n", (unsigned long long)(at_us + i * BOUNCE_US), pin,
                is_closed ^ (i == 1));
    }
}

static void put_presses(FILE *out, const plan *loaded, const GArray *script)
{
    sim_bench *const bench = sim_bench_new(1);
    for (guint i = 0; i < script->len; i++) {
        const script_press *const press = &g_array_index(script, script_press, i);
        const uint64_t at_us = press->at_ms * UINT64_C(1000);
        const uint64_t held_us = press->held_ms * UINT64_C(1000);
        if (press->handset == SCRIPT_A_SWITCH) {
            put_contact(out, plan_switch_pin(loaded, press->key), at_us, press->closes);
            continue;
        }
        const int pin = plan_button_pin(loaded, press->handset, press->key);
        if (pin >= 0) {
            put_contact(out, (unsigned)pin, at_us, true);
            put_contact(out, (unsigned)pin, at_us + held_us, false);
            continue;
        }
        const drom_code code = plan_tables(loaded)->keys.handsets.rows[press->handset].codes.rows[press->key];
        (void)sim_bench_press(bench, &(sim_press){.waveform = plan_waveform(loaded, code.protocol),
                                                  .code = code,
                                                  .at_us = at_us,
                                                  .held_us = held_us});
    }
    size_t count = 0;
    const sim_edge *const edges = sim_bench_edges(bench, &count);
    for (size_t i = 0; i < count; i++) {
        fprintf(out, "line %llu %d\n", (unsigned long long)edges[i].at_us, edges[i].is_mark);
    }
    sim_bench_free(bench);
}

static bool write_stimulus(const char *path, const plan *loaded, const char *script_path, report *faults)
{
    GArray *const expected = script_expectations_new();
    GArray *const script = script_read(script_path, loaded, expected, faults);
    FILE *const out = script != NULL ? fopen(path, "w") : NULL;
    if (out != NULL) {
        unsigned end_ms = 0;
        put_wires(out, loaded);
        put_presses(out, loaded, script);
        for (guint i = 0; i < script->len; i++) {
            const script_press *const press = &g_array_index(script, script_press, i);
            end_ms = MAX(end_ms, press->at_ms + press->held_ms);
        }
        for (guint i = 0; i < expected->len; i++) {
            end_ms = MAX(end_ms, g_array_index(expected, script_expectation, i).at_ms);
        }
        fprintf(out, "receiver %u\nend %llu\n",
                board_pin_by_name(plan_board(loaded), loaded->source->receiver_pin.text)->number,
                (end_ms + CARRY_ON_MS) * 1000ull);
        (void)fclose(out);
        g_array_unref(script);
    }
    g_array_unref(expected);
    return out != NULL;
}

int main(int argc, char **argv)
{
    report *const faults = report_new();
    plan *const loaded = argc == 4 ? plan_load(argv[1], faults) : NULL;
    const bool is_written = loaded != NULL && write_stimulus(argv[3], loaded, argv[2], faults);
    report_print(faults, stderr);
    report_free(faults);
    if (!is_written) {
        return 1;
    }
    const same_stimulus with = same_read(argv[3]);
    const bool is_played = same_play(plan_tables(loaded), &with);
    plan_free(loaded);
    return is_played ? 0 : 1;
}
