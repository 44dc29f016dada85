/* A plan, its sheets and presses in one input, through all that is made of a plan. The parts are separated by
 * a line of ===: the plan, hand.csv, hall.csv, and three bytes per press. */
#include "fuzz.h"

#include "plan/bake/bake.h"
#include "run.h"
#include "plan/vet/vet.h"

#include <string.h>

enum { MAX_PRESSES = 8, LASTS_MS = 2500 };

/* Returns the text up to the next line of ===, and the rest. To be freed. */
static char *next_part(const uint8_t **data, size_t *size)
{
    static const char line[] = "\n===\n";
    const uint8_t *const found = memmem(*data, *size, line, sizeof line - 1);
    const size_t length = found != NULL ? (size_t)(found - *data) : *size;
    const size_t passed = found != NULL ? length + sizeof line - 1 : *size;
    char *const part = g_strndup((const char *)*data, length);
    *data += passed;
    *size -= passed;
    return part;
}

static GArray *take_presses(const plan *loaded, const uint8_t *data, size_t size, bench_run *run)
{
    GArray *const presses = g_array_new(FALSE, FALSE, sizeof(run_press));
    const drom_keys_plan *const keys = &plan_tables(loaded)->keys;
    uint32_t at_ms = 50;
    for (size_t i = 0; i + 2 < size && presses->len < MAX_PRESSES && keys->handsets.count > 0; i += 3) {
        const drom_handset *const handset = &keys->handsets.rows[data[i] / 64 % keys->handsets.count];
        const run_press press = {.handset = data[i] / 64 % keys->handsets.count,
                                 .key = data[i] % MAX(handset->codes.count, 1),
                                 .at_ms = at_ms,
                                 .held_ms = data[i + 1] * 4u};
        if (data[i + 2] == '!') {
            run->breaks = LIFE_STOPS;
            run->break_ms = at_ms + data[i + 1];
        } else if (handset->codes.count > 0) {
            g_array_append_val(presses, press);
        }
        at_ms += press.held_ms + data[i + 2] * 3u;
    }
    return presses;
}

static void live(const plan *loaded, const uint8_t *data, size_t size)
{
    bench_run run = {.lasts_ms = LASTS_MS,
                     .nap_us = 10000,
                     .noise = SIM_NOISES,
                     .seed = 1,
                     .clock_start = UINT32_MAX - 1500000};
    run.presses = take_presses(loaded, data, size, &run);
    run.processor = size % 2 == 0
                        ? (sim_processor){0}
                        : (sim_processor){.latency_us = 1, .capture_us = 5, .alarm_us = 6, .poll_us = 130};
    char *const violation = run_check(loaded, &run, NULL);
    if (violation != NULL && strstr(violation, "the engine") != NULL) {
        fprintf(stderr, "%s\n", violation);
        __builtin_trap(); /* it refuses a plan that the checker accepts, or doesn't end */
    }
    g_free(violation);
    g_array_unref(run.presses);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static char *folder;
    if (folder == NULL) {
        folder = g_dir_make_tmp("dromikos-fuzz-XXXXXX", NULL);
    }
    drawn_plan parts = {.plan = next_part(&data, &size)};
    parts.hand = next_part(&data, &size);
    parts.hall = next_part(&data, &size);
    char *text = NULL;
    plan *const loaded = load_drawn(&parts, folder, &text);
    if (loaded != NULL) {
        vet_free(vet_plan(loaded));
        g_free(plan_bake_source(loaded, "fuzz"));
        g_free(plan_bake_header(loaded, "fuzz"));
        g_free(plan_bake_config(loaded, "fuzz"));
        live(loaded, data, size);
    }
    plan_free(loaded);
    g_free(text);
    drawn_plan_clear(&parts);
    return 0;
}
