/* rehearse: a plan runs on the simulated bench, and each step from the frame to the relay's contacts is told.
 */
#include "cli.h"

#include "capture.h"
#include "line.h"
#include "plan.h"
#include "script.h"
#include "sheet.h"
#include "timeline.h"

#include "sim.h"

#include <errno.h>
#include <math.h>
#include <string.h>

/* A plan on the bench. */
typedef struct rehearsal {
    plan *of;
    sim_bench *bench;
    drom_engine engine;
    timeline *told;
    uint64_t seed;
    double jitter_us;
} rehearsal;

/* False, and told, when a press can't be sent. */
static bool add_presses(rehearsal *run, const GArray *presses)
{
    for (guint i = 0; i < presses->len; i++) {
        const script_press *const press = &g_array_index(presses, script_press, i);
        const drom_code code =
            plan_tables(run->of)->keys.handsets.rows[press->handset].codes.rows[press->key];
        const sim_press finger = {
            .waveform = plan_waveform(run->of, code.protocol),
            .code = code,
            .at_us = press->at_ms * UINT64_C(1000),
            .held_us = press->held_ms * UINT64_C(1000),
            .room = {.jitter_us = run->jitter_us},
        };
        if (finger.waveform == NULL || !sim_bench_press(run->bench, &finger)) {
            complain("rehearse", "the press of '%s' at %u ms can't be sent",
                     plan_key_name(run->of, press->handset, press->key), press->at_ms);
            return false;
        }
    }
    return true;
}

static int add_capture(rehearsal *run, FILE *file, const char *path, const char *signal, bool is_idle_low)
{
    g_autoptr(GError) error = NULL;
    capture *const from = capture_open(file, signal, is_idle_low, &error);
    capture_edge edge;
    capture_read read = from != NULL ? capture_next(from, &edge, &error) : CAPTURE_FAULT;
    bool is_mark = false;
    uint64_t edges = 0;
    for (; read == CAPTURE_EDGE || read == CAPTURE_TIME; read = capture_next(from, &edge, &error)) {
        if (read == CAPTURE_EDGE && edge.is_mark != is_mark) {
            sim_bench_add_edge(run->bench, edge.at_us, edge.is_mark);
            is_mark = edge.is_mark;
            edges++;
        }
    }
    const unsigned garbage = from != NULL ? capture_garbage(from) : 0;
    capture_free(from);
    if (garbage > 0) {
        complain("rehearse", "%s: %u line%s held no runs, passed over", path, garbage,
                 garbage == 1 ? "" : "s");
    }
    if (read == CAPTURE_END) {
        return garbage > 0 && edges == 0 ? EXIT_FILE : EXIT_DONE;
    }
    complain("rehearse", "%s: %s", path, error->message);
    return error->code == CAPTURE_ERROR_CHOICE ? EXIT_WRONG : EXIT_FILE;
}

/* A script begins with the name of a column, a VCD with '$'. What is neither is read as a VCD, which says
 * why. */
static bool is_script(FILE *file)
{
    int byte = getc(file);
    while (byte == ' ' || byte == '\n' || byte == '\r' || byte == '\t') {
        byte = getc(file);
    }
    if (file == stdin) {
        (void)ungetc(byte, file);
    } else {
        rewind(file);
    }
    return byte == '"' || byte == 0xef || g_ascii_isalnum(byte);
}

static int add_script(rehearsal *run, const char *path)
{
    report *const faults = report_new();
    GArray *const presses = script_read(path, run->of, faults);
    report_print(faults, stderr);
    int code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    if (presses != NULL) {
        code = add_presses(run, presses) ? EXIT_DONE : EXIT_NO;
        g_array_unref(presses);
    }
    return code;
}

/* What the bench is to hear: a script or a capture. */
static int take_input(rehearsal *run, const char *path, const char *signal, bool is_idle_low)
{
    FILE *const file = open_input("rehearse", path);
    if (file == NULL) {
        return EXIT_FILE;
    }
    const int code =
        is_script(file) ? add_script(run, path) : add_capture(run, file, path, signal, is_idle_low);
    close_input(file);
    return code;
}

/* Writes what the receiver is going to say as a capture. */
static int record(const rehearsal *run, const char *path)
{
    FILE *const out = fopen(path, "w");
    if (out == NULL) {
        complain("rehearse", "%s: can't be written: %s", path, g_strerror(errno));
        return EXIT_FILE;
    }
    write_line(out, run->bench, CAPTURE_VCD);
    const bool is_written = !ferror(out);
    if (fclose(out) != 0 || !is_written) {
        complain("rehearse", "%s: can't be written: %s", path, g_strerror(errno));
        return EXIT_FILE;
    }
    return EXIT_DONE;
}

/* An output may go on for ever: so long after the last edge that came in, and after the end of whatever comes
 * to one within a minute, the rehearsal is over. */
static const uint64_t ENDLESS_US = 3000000;
static const uint64_t ENDING_US = 60000000;

static int run_plan(rehearsal *run)
{
    drom_fault fault = {0};
    const drom_status status =
        drom_engine_init(&run->engine, plan_tables(run->of), sim_bench_port(run->bench), &fault);
    if (status != DROM_OK) { /* the checker should have told */
        complain("rehearse", "the engine refuses the plan: table %d, row %u, item %u, reason %d",
                 (int)fault.part, fault.row, fault.item, (int)fault.reason);
        return EXIT_NO;
    }
    sim_bench_wire_engine(run->bench, &run->engine);
    timeline_watch_engine(run->told, &run->engine);
    bool goes_on = true;
    uint64_t heard_at_us = 0;
    uint64_t quiet_at_us = 0;
    while (goes_on && output_is_good() && sim_bench_now(run->bench) < quiet_at_us + ENDLESS_US) {
        const drom_us wait = drom_engine_poll(&run->engine);
        timeline_settle(run->told);
        goes_on = sim_bench_sleep(run->bench, wait);
        size_t edges = 0;
        (void)sim_bench_edges(run->bench, &edges);
        const uint64_t now_us = sim_bench_now(run->bench);
        const bool is_ending = now_us < heard_at_us + ENDING_US && plan_is_ending(run->of);
        heard_at_us = edges > 0 ? now_us : heard_at_us;
        quiet_at_us = edges > 0 || is_ending || !plan_is_endless(run->of) ? now_us : quiet_at_us;
    }
    timeline_end(run->told);
    return EXIT_DONE;
}

static int rehearse(rehearsal *run, char **words, output_format format, const char *signal, bool is_idle_low,
                    const char *record_path)
{
    report *const faults = report_new();
    run->of = plan_load(words[0], faults);
    report_print(faults, stderr);
    int code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    if (run->of == NULL) {
        return code;
    }
    run->bench = sim_bench_new(run->seed);
    code = take_input(run, words[1], signal, is_idle_low);
    if (code == EXIT_DONE && record_path != NULL) {
        code = record(run, record_path);
    }
    if (code == EXIT_DONE) {
        run->told = timeline_new(run->of, run->bench, format);
        code = run_plan(run);
        timeline_free(run->told);
    }
    sim_bench_free(run->bench);
    plan_free(run->of);
    return code;
}

int rehearse_verb(int argc, char **argv)
{
    g_autofree char *format_text = NULL;
    g_autofree char *signal = NULL;
    g_autofree char *idle = NULL;
    g_autofree char *record_path = NULL;
    gint64 seed = 1;
    rehearsal run = {0};
    const GOptionEntry entries[] = {
        {"format", 0, 0, G_OPTION_ARG_STRING, &format_text, "text (for people, the default) or jsonl",
         "FORMAT"},
        {"jitter", 0, 0, G_OPTION_ARG_DOUBLE, &run.jitter_us,
         "Move each edge of a script's presses by up to US µs", "US"},
        {"seed", 0, 0, G_OPTION_ARG_INT64, &seed, "Decides all that is random; 1 unless given", "N"},
        {"record", 0, 0, G_OPTION_ARG_FILENAME, &record_path,
         "Also write what the receiver hears, as a capture", "FILE"},
        {"signal", 0, 0, G_OPTION_ARG_STRING, &signal, "Which wire of a capture, where it has several",
         "NAME"},
        {"idle", 0, 0, G_OPTION_ARG_STRING, &idle, "A captured line's level between frames: high or low",
         "LEVEL"},
        {0},
    };
    int code = EXIT_WRONG;
    bool is_idle_low = false;
    output_format format = FORMAT_TEXT;
    if (!take_options(
            "PLAN INPUT",
            "Runs a plan on the simulated bench, and tells what came in, which gesture it was, which\n"
            "rule it fired and what the outputs did.\n\n"
            "INPUT is a script of presses, which is CSV with the columns at_ms,handset,key,held_ms;\n"
            "or a capture, which is VCD. Either may come from standard input, as -.",
            entries, 2, 2, &argc, argv, &code) ||
        !take_format("rehearse", format_text, &format) ||
        !take_either("rehearse", "idle", idle, "low", "high", &is_idle_low)) {
        return code;
    }
    if (!isfinite(run.jitter_us) || run.jitter_us < 0 || run.jitter_us > 1000) {
        complain("rehearse", "--jitter is %g; it must be 0 to 1000 µs", run.jitter_us);
        return EXIT_WRONG;
    }
    run.seed = (uint64_t)seed;
    return finish("rehearse", rehearse(&run, argv + 1, format, signal, is_idle_low, record_path));
}
