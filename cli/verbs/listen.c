/* listen: passes a line through receiver and keys, and reports the results at once. */
#include "cli/io/io.h"

#include "cli/io/here.h"
#include "cli/io/progress.h"
#include "cli/program/ear.h"
#include "cli/receive/diagnose.h"
#include "cli/receive/line_source.h"
#include "cli/receive/reception.h"
#include "cli/verbs/verbs.h"

#include "plan/model/plan.h"

#include <string.h>

typedef struct listener {
    output_format format;
    reception *pipeline;
    row_writer rows;
    GString *row; /* a frame that is being reported: its key event continues the row */
    uint64_t row_at_us;
    GArray *presses; /* of code_count, in the order of their first frames */
} listener;

/* A code, its presses, and the margin of its worst frame. */
typedef struct code_count {
    drom_code code;
    unsigned handset;
    unsigned key;
    unsigned presses;
    unsigned frames;
    uint8_t margin;
} code_count;

static code_count *count_of(listener *heard, const drom_code *code)
{
    for (guint i = 0; i < heard->presses->len; i++) {
        code_count *const known = &g_array_index(heard->presses, code_count, i);
        if (drom_code_equal(&known->code, code)) {
            return known;
        }
    }
    const code_count added = {.code = *code, .handset = reception_handsets(heard->pipeline), .margin = 100};
    g_array_append_val(heard->presses, added);
    return &g_array_index(heard->presses, code_count, heard->presses->len - 1);
}

/* "wand.power", or the code of a key that no sheet has. */
static char *shown_key(const listener *heard, unsigned handset, unsigned key)
{
    const char *const name = reception_key_name(heard->pipeline, handset, key);
    const drom_code *const code = reception_code(heard->pipeline, handset, key);
    if (name != NULL) {
        return g_strdup_printf("%s.%s", reception_handset_name(heard->pipeline, handset), name);
    }
    return code->protocol == DROM_UNKNOWN ? g_strdup_printf("key %08x", code->address)
                                          : g_strdup_printf("key %u of %u", code->command, code->address);
}

static void end_row(void *context)
{
    listener *const heard = context;
    if (heard->row->len > 0) {
        put_row(&heard->rows, heard->row_at_us, g_strchomp(heard->row->str), TONE_PLAIN, true);
        g_string_truncate(heard->row, 0);
    }
}

static void report_key(void *context, uint64_t at_us, const drom_key_event *event)
{
    listener *const heard = context;
    const drom_code *const code = reception_code(heard->pipeline, event->handset, event->key);
    if (event->gesture == DROM_PRESS) {
        code_count *const count = count_of(heard, code);
        count->presses++;
        count->handset = event->handset;
        count->key = event->key;
    }
    if (heard->format == FORMAT_JSONL) {
        put_row_json(
            &(timeline_row){.kind = ROW_KEY,
                            .at_us = at_us,
                            .subject = reception_handset_name(heard->pipeline, event->handset),
                            .key = reception_key_name(heard->pipeline, event->handset, event->key),
                            .data.pressed = {event->gesture, event->held_us,
                                             reception_protocol(heard->pipeline, code->protocol), *code}});
        return;
    }
    if (event->gesture == DROM_TAP) { /* press and release have reported it */
        return;
    }
    if (heard->row->len == 0) {
        g_string_printf(heard->row, "%-42s", "");
        heard->row_at_us = at_us;
    }
    g_autofree char *key = shown_key(heard, event->handset, event->key);
    g_string_append_printf(heard->row, " %s %s", key, gesture_participle(event->gesture));
    if (event->held_us > 0 && (event->gesture == DROM_RELEASE || event->gesture == DROM_HOLD)) {
        g_string_append_printf(heard->row, event->gesture == DROM_HOLD ? " for %u ms" : " after %u ms",
                               event->held_us / 1000);
    }
    put_row(&heard->rows, heard->row_at_us, heard->row->str,
            event->gesture == DROM_PRESS ? TONE_STRONG : TONE_PLAIN, event->gesture == DROM_REPEAT);
    g_string_truncate(heard->row, 0);
}

static void report_frame(void *context, uint64_t at_us, const drom_frame *frame)
{
    listener *const heard = context;
    const bool has_numbers = frame->kind == DROM_FRAME_WHOLE || frame->kind == DROM_FRAME_HEADERLESS;
    if (frame->kind == DROM_FRAME_BOUNDARY) { /* no key, and not worth reporting */
        return;
    }
    if (has_numbers) {
        code_count *const count = count_of(heard, &frame->code);
        count->frames++;
        count->margin = MIN(count->margin, drom_frame_margin(frame));
    }
    if (heard->format == FORMAT_JSONL) {
        put_row_json(&(timeline_row){.kind = ROW_FRAME, .at_us = at_us, .data.frame = *frame});
        return;
    }
    heard->row_at_us = at_us;
    if (frame->protocol == &drom_unknown) {
        g_autofree char *text =
            g_strdup_printf("unknown, %u intervals, %08x", frame->intervals, frame->code.address);
        g_string_printf(heard->row, "%-42s", text);
        return;
    }
    g_autofree char *code = has_numbers ? code_text(frame->protocol, &frame->code)
                                        : g_strdup_printf("%s  the same again", frame->protocol->id);
    g_autofree char *toggle =
        has_numbers && frame->protocol->has_toggle ? g_strdup_printf("  t%u", frame->toggle) : g_strdup("");
    g_autofree char *text = g_strconcat(code, toggle, NULL);
    if (has_numbers) {
        g_string_printf(heard->row, "%-37s%3u %%", text, drom_frame_margin(frame));
    } else {
        g_string_printf(heard->row, "%-42s", text);
    }
}

/* Lists the codes, as earlier rows may have scrolled away. */
static void put_codes(const listener *heard)
{
    put_text("\npresses  frames  worst  code\n");
    for (guint i = 0; i < heard->presses->len; i++) {
        const code_count *const count = &g_array_index(heard->presses, code_count, i);
        const bool is_known = count->handset < reception_handsets(heard->pipeline);
        const bool has_name =
            is_known && reception_key_name(heard->pipeline, count->handset, count->key) != NULL;
        g_autofree char *code =
            count->code.protocol == DROM_UNKNOWN
                ? g_strdup_printf("unknown  0x%08x  0", count->code.address)
                : code_text(reception_protocol(heard->pipeline, count->code.protocol), &count->code);
        g_autofree char *key = has_name ? shown_key(heard, count->handset, count->key) : g_strdup("");
        g_autofree char *margin = count->code.protocol == DROM_UNKNOWN
                                      ? g_strdup("    -") /* its bits are unknown */
                                      : g_strdup_printf("%3u %%", count->margin);
        g_autofree char *line =
            g_strdup_printf("%7u  %6u  %s  %-35s%s", count->presses, count->frames, margin, code, key);
        put_text("%s\n", g_strchomp(line));
    }
}

/* "wand=wand.csv", or "wand.csv", which names the handset after the file. False on an error, which has been
 * reported. */
static bool add_sheet(reception *pipeline, const char *text, report *faults)
{
    const char *const equals = strchr(text, '=');
    const char *const path = equals != NULL ? equals + 1 : text;
    g_autofree char *file = g_path_get_basename(path);
    char *const name =
        equals != NULL ? g_strndup(text, (gsize)(equals - text)) : g_strndup(file, strcspn(file, "."));
    sheet *const keys = sheet_read(path, NULL, faults);
    if (keys == NULL || report_errors(faults) > 0) {
        sheet_free(keys);
        g_free(name);
        return false;
    }
    reception_add_sheet(pipeline, name, keys);
    return true;
}

static bool add_sheets(reception *pipeline, char **sheets, int *code)
{
    report *const faults = report_new();
    bool is_good = true;
    for (char **at = sheets; at != NULL && *at != NULL; at++) {
        is_good &= add_sheet(pipeline, *at, faults);
    }
    report_print(faults, stderr);
    *code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    return is_good;
}

/* The declared protocols and handsets of a plan. NULL if the plan can't be used, which has been reported. Of
 * a plan that wasn't named, only errors are. */
static plan *add_plan(reception *pipeline, const char *path, bool is_named, int *code)
{
    report *const faults = report_new();
    plan *const loaded = plan_load(path, faults);
    if (is_named || loaded == NULL) {
        report_print(faults, stderr);
    }
    *code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    for (unsigned i = 0; loaded != NULL && i < plan_declared_count(loaded); i++) {
        reception_add_protocol(pipeline, plan_declared_waveform(loaded, i)->protocol);
    }
    for (unsigned i = 0; loaded != NULL && i < plan_handset_count(loaded); i++) {
        reception_add_sheet(pipeline, g_strdup(plan_handset_name(loaded, i)), plan_copy_sheet(loaded, i));
    }
    return loaded;
}

/* Returns the exit code; if nothing was recognised, says why. */
static int judge(listener *heard, const line_source *source, capture_read read, bool is_cut, bool is_in_mark,
                 const GError *error)
{
    const char *const path = source->path;
    const line_facts *const facts = reception_facts(heard->pipeline);
    end_rows(&heard->rows);
    if (heard->format == FORMAT_TEXT && heard->presses->len > 0) {
        put_codes(heard);
    }
    if (read == CAPTURE_FAULT) {
        complain("listen", "%s: %s", path, error->message);
        return EXIT_FILE;
    }
    if (is_cut && !progress_is_stopped() && facts->edges > 0 && facts->longest_mark_us < DIAGNOSE_STUCK_US) {
        complain("listen", "%s: ends in the middle of a %s; is it cut short?", path,
                 is_in_mark ? "mark" : "frame");
        return EXIT_FILE;
    }
    if (facts->frames > 0) {
        return EXIT_DONE;
    }
    if (capture_garbage(source->from) > 0 && !capture_has_runs(source->from)) {
        complain("listen", "%s: nothing recognised: no line held runs; docs/tool.md says what runs look like",
                 path);
        return EXIT_NO;
    }
    g_autofree char *advice = diagnose(facts, path);
    complain("listen", "%s: %s", path, advice);
    return EXIT_NO;
}

static int listen_to(listener *heard, const char *path, const char *signal, bool is_idle_low, int baud)
{
    line_source source = {0};
    g_autoptr(GError) error = NULL;
    int code = line_open(&source, "listen", path, signal, is_idle_low, baud);
    if (code == EXIT_DONE) {
        bool is_cut = false;
        bool is_in_mark = false;
        if (source.is_serial) {
            put_note("listening to %s at %d baud: press keys; Ctrl-C ends\n", path, baud);
        }
        const capture_read read = reception_take(heard->pipeline, &source, &is_cut, &is_in_mark, &error);
        const unsigned lines = capture_garbage(source.from);
        if (lines > 0) {
            complain("listen", "%s: %u line%s held no runs, passed over", path, lines, lines == 1 ? "" : "s");
        }
        code = judge(heard, &source, read, is_cut, is_in_mark, error);
    }
    line_close(&source);
    return code;
}

int listen_verb(int argc, char **argv)
{
    enum { MAX_SHEETS = 200 };
    g_autofree char *format = NULL;
    g_autofree char *signal = NULL;
    g_autofree char *idle = NULL;
    g_autofree char *plan_path = NULL;
    g_auto(GStrv) sheets = NULL;
    gint baud = USUAL_BAUD;
    const GOptionEntry entries[] = {
        {"format", 0, 0, G_OPTION_ARG_STRING, &format, "text (for people, the default) or jsonl", "FORMAT"},
        {"sheet", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &sheets,
         "Name the keys of this handset's sheet; may be given several times", "[NAME=]FILE"},
        {"plan", 0, 0, G_OPTION_ARG_FILENAME, &plan_path, "Use the handsets and protocols of this plan",
         "PLAN"},
        {"signal", 0, 0, G_OPTION_ARG_STRING, &signal, "The wire of the capture, if it has several", "NAME"},
        {"idle", 0, 0, G_OPTION_ARG_STRING, &idle, "The level between frames: high (the default) or low",
         "LEVEL"},
        {"baud", 0, 0, G_OPTION_ARG_INT, &baud, "Speed of a serial line; 115200 by default", "N"},
        {0},
    };
    int code = EXIT_WRONG;
    bool is_idle_low = false;
    listener heard = {.format = FORMAT_TEXT};
    if (!take_options(
            "[SOURCE]",
            "Prints each frame and key event of a received signal as it arrives, with the margin of the\n"
            "frame's worst bit: 100 % is perfect.\n"
            "\n"
            "SOURCE is a capture (VCD, CSV, runs, or lists of times), - for standard input, or a serial line "
            "on\n"
            "which a firmware prints runs: without it, the only line there is. The signal is high when idle "
            "and low during a mark.",
            entries, 0, 1, &argc, argv, &code) ||
        !take_format("listen", format, &heard.format) ||
        !take_either("listen", "idle", idle, "low", "high", &is_idle_low)) {
        return code;
    }
    if (sheets != NULL && g_strv_length(sheets) > MAX_SHEETS) {
        complain("listen", "%u sheets were given; %d can be", g_strv_length(sheets), MAX_SHEETS);
        return EXIT_WRONG;
    }
    if (!line_takes_baud("listen", baud)) {
        return EXIT_WRONG;
    }
    g_autofree char *line = argc < 2 ? line_here("listen") : NULL;
    const char *const path = argc < 2 ? line : argv[1];
    if (path == NULL) {
        return EXIT_FILE;
    }
    const bool is_named = plan_path != NULL;
    if (!is_named && sheets == NULL && argc < 2) {
        plan_path = plan_here();
        baud = baud == USUAL_BAUD ? ear_baud(plan_path) : baud;
    }
    heard.pipeline = reception_new(&(reception_sink){&heard, report_frame, report_key, end_row});
    heard.row = g_string_new(NULL);
    heard.presses = g_array_new(FALSE, FALSE, sizeof(code_count));
    plan *const loaded = plan_path != NULL ? add_plan(heard.pipeline, plan_path, is_named, &code) : NULL;
    const bool is_good = (!is_named || loaded != NULL) && add_sheets(heard.pipeline, sheets, &code);
    reception_start(heard.pipeline);
    if (is_good) {
        code = listen_to(&heard, path, signal, is_idle_low, baud);
    }
    end_rows(&heard.rows);
    g_string_free(heard.row, TRUE);
    g_array_unref(heard.presses);
    reception_free(heard.pipeline);
    if (code == EXIT_DONE && heard.format == FORMAT_TEXT) {
        put_next(loaded != NULL && plan_handset_count(loaded) > 0 ? "dromikos rehearse"
                                                                  : "dromikos enrol remote");
    }
    plan_free(loaded);
    return finish("listen", code);
}
