/* rehearse: runs a plan on the simulated bench, and reports each step from the frame to the relay's contacts.
 */
#include "cli/io/io.h"

#include "cli/io/files.h"
#include "cli/io/here.h"
#include "cli/rehearse/bench_line.h"
#include "cli/rehearse/rehearsal.h"
#include "cli/verbs/verbs.h"

#include "chart/report.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

enum { MAX_INPUTS = 1000 };

/* Writes the signal that the receiver will receive as a capture. */
static int record(const rehearsal *run, const char *path)
{
    char *text = NULL;
    size_t length = 0;
    FILE *const out = open_memstream(&text, &length);
    write_line(out, run->bench, CAPTURE_VCD);
    (void)fclose(out);
    const bool is_written = write_bytes("rehearse", path, text, length);
    free(text);
    return is_written ? EXIT_DONE : EXIT_FILE;
}

/* How it is shown. */
typedef struct showing {
    output_format format;
    bool has_contacts;
    const char *record_path; /* NULL: no capture */
    const char *report_path; /* NULL: no report */
} showing;

/* Runs it once more, with the same results, and writes the page. */
static int write_report(const rehearsal *first, char **inputs, const char *path, const char *signal,
                        bool is_idle_low)
{
    rehearsal run = {.verb = first->verb,
                     .seed = first->seed,
                     .jitter_us = first->jitter_us,
                     .is_on_chip = first->is_on_chip,
                     .is_in_sight = first->is_in_sight};
    g_autofree char *text = NULL;
    g_autoptr(GError) error = NULL;
    int code = rehearsal_open(&run, inputs, signal, is_idle_low);
    if (code == EXIT_DONE && !g_file_get_contents(inputs[0], &text, NULL, &error)) {
        complain("rehearse", "%s", error->message);
        code = EXIT_FILE;
    }
    if (code == EXIT_DONE) {
        g_autoptr(GArray) rows = rehearsal_record(&run, &code);
        g_autofree char *page = report_page(run.plan, text, rows);
        code = write_text("rehearse", path, page) ? EXIT_DONE : EXIT_FILE;
    }
    rehearsal_close(&run);
    return code;
}

static int rehearse(rehearsal *run, char **inputs, const showing *how, const char *signal, bool is_idle_low)
{
    int code = rehearsal_open(run, inputs, signal, is_idle_low);
    if (code == EXIT_DONE && (is_read_by_plan("rehearse", how->record_path, run->plan) ||
                              is_read_by_plan("rehearse", how->report_path, run->plan))) {
        rehearsal_close(run);
        return EXIT_WRONG;
    }
    if (code == EXIT_DONE && how->record_path != NULL) {
        code = record(run, how->record_path);
    }
    if (code == EXIT_DONE) {
        timeline *const view = timeline_new(run->plan, run->bench, how->format);
        if (how->has_contacts) {
            timeline_show_contacts(view);
        }
        code = rehearsal_play(run, view);
        timeline_free(view);
    }
    rehearsal_close(run);
    if (how->report_path != NULL && (code == EXIT_DONE || code == EXIT_NO)) {
        const int written = write_report(run, inputs, how->report_path, signal, is_idle_low);
        code = written != EXIT_DONE ? written : code;
    }
    return code;
}

int rehearse_verb(int argc, char **argv)
{
    g_autofree char *format_text = NULL;
    g_autofree char *signal = NULL;
    g_autofree char *idle = NULL;
    g_autofree char *record_path = NULL;
    g_autofree char *report_path = NULL;
    gint64 seed = 1;
    gboolean has_contacts = FALSE;
    gboolean is_on_chip = FALSE;
    gboolean is_in_sight = FALSE;
    rehearsal run = {.verb = "rehearse"};
    const GOptionEntry entries[] = {
        {"format", 0, 0, G_OPTION_ARG_STRING, &format_text, "text (for people, the default) or jsonl",
         "FORMAT"},
        {"jitter", 0, 0, G_OPTION_ARG_DOUBLE, &run.jitter_us,
         "Shift each edge of a script's presses by up to US µs", "US"},
        {"report", 0, 0, G_OPTION_ARG_FILENAME, &report_path,
         "Also write the rehearsal as one page for a browser", "FILE"},
        {"seed", 0, 0, G_OPTION_ARG_INT64, &seed, "Seed of all random values; 1 by default", "N"},
        {"contacts", 0, 0, G_OPTION_ARG_NONE, &has_contacts,
         "Also show when relays' contacts close, open and bounce", NULL},
        {"chip", 0, 0, G_OPTION_ARG_NONE, &is_on_chip, CHIP_HELP, NULL},
        {"in-sight", 0, 0, G_OPTION_ARG_NONE, &is_in_sight,
         "Let the sender's target appliances receive the handset as well", NULL},
        {"record", 0, 0, G_OPTION_ARG_FILENAME, &record_path, "Also write the received signal as a capture",
         "FILE"},
        {"signal", 0, 0, G_OPTION_ARG_STRING, &signal, "The wire of a capture, if it has several", "NAME"},
        {"idle", 0, 0, G_OPTION_ARG_STRING, &idle, "A capture's level between frames: high or low", "LEVEL"},
        {0},
    };
    int code = EXIT_WRONG;
    bool is_idle_low = false;
    output_format format = FORMAT_TEXT;
    if (!take_options(
            "[PLAN] [INPUT | PRESS...]",
            "Runs a plan on the simulated bench, and prints what was received, which gesture it was, which\n"
            "rule fired and what the outputs did.\n"
            "\n"
            "INPUT is a script, a CSV file with the columns at_ms,handset,key,held_ms and optionally "
            "expect;\n"
            "or a capture, in each form that listen reads; or - for standard input. Without it, each key\n"
            "that a rule names is pressed once; or give the presses:\n"
            "  dromikos rehearse stage.plan power 'wand.menu held 2 s'",
            entries, 0, MAX_INPUTS, &argc, argv, &code) ||
        !take_format("rehearse", format_text, &format) ||
        !take_either("rehearse", "idle", idle, "low", "high", &is_idle_low)) {
        return code;
    }
    if (!isfinite(run.jitter_us) || run.jitter_us < 0 || run.jitter_us > 1000) {
        complain("rehearse", "--jitter is %g; it must be 0 to 1000 µs", run.jitter_us);
        return EXIT_WRONG;
    }
    run.seed = (uint64_t)seed;
    run.is_on_chip = is_on_chip;
    run.is_in_sight = is_in_sight;
    const showing how = {format, has_contacts, record_path, report_path};
    g_autoptr(GPtrArray) words = words_with_plan("rehearse", argc, argv, true);
    if (words == NULL) {
        return EXIT_WRONG;
    }
    argv = (char **)words->pdata;
    argc = (int)words->len - 1;
    if (is_an_input("rehearse", report_path, argv + 1) || is_an_input("rehearse", record_path, argv + 1)) {
        return EXIT_WRONG;
    }
    if (report_path != NULL && g_strcmp0(report_path, record_path) == 0) {
        complain("rehearse", "--report and --record are both %s; give them two files", report_path);
        return EXIT_WRONG;
    }
    if (report_path != NULL && argc > 2 && strcmp(argv[2], "-") == 0) {
        complain("rehearse", "a report needs its input twice: give it a file, and not -");
        return EXIT_WRONG;
    }
    code = rehearse(&run, argv + 1, &how, signal, is_idle_low);
    if (code == EXIT_DONE && format == FORMAT_TEXT) {
        put_next("dromikos vet says whether it works on the board; then dromikos bake");
    }
    return finish("rehearse", code);
}
