/* chart: a capture as its waveform, a plan as its wiring sheet, a rehearsal over time: as a picture. */
#include "cli/io/io.h"

#include "cli/io/here.h"
#include "cli/io/files.h"
#include "cli/receive/diagnose.h"
#include "cli/receive/reception.h"
#include "cli/rehearse/rehearsal.h"
#include "cli/verbs/verbs.h"

#include "chart/curves.h"
#include "chart/rehearsed.h"
#include "chart/waveform.h"
#include "chart/wiring.h"
#include "plan/wiring/wiring.h"

#include <stdlib.h>
#include <string.h>

enum { MAX_INPUTS = 1000, MIN_PX = 640, MAX_PX = 8000 };

/* The options of the command line. */
typedef struct chart_order {
    char *into;   /* NULL: standard output */
    char *format; /* "png" or "svg"; NULL: by the file's ending */
    char *size;
    double from_s;
    double for_s;
    int press; /* 0: all */
    bool is_dark;
    bool is_on_chip;
    bool is_netlist;
    char *signal;
    bool is_idle_low;
    bool is_light_drawn;
    unsigned width;
    unsigned height;
    picture_format as;
} chart_order;

static int write_picture(const chart_order *order, const picture *drawn)
{
    g_autoptr(GError) error = NULL;
    char *bytes = NULL;
    size_t length = 0;
    FILE *const out = order->into != NULL ? open_memstream(&bytes, &length) : stdout;
    bool is_written = picture_write(drawn, order->as, out, &error);
    if (!is_written) {
        complain("chart", "%s: can't be written: %s", order->into != NULL ? order->into : "standard output",
                 error->message);
    }
    if (order->into != NULL) {
        (void)fclose(out);
        is_written = is_written && write_bytes("chart", order->into, bytes, length);
        free(bytes);
    }
    return is_written ? EXIT_DONE : EXIT_FILE;
}

/* Reads the time of an option; false, and reported, where it is no time. */
static bool take_window(const chart_order *order, const rehearsed *made, lanes_view *view)
{
    enum { BEFORE_US = 100000, MIN_US = 1000000, MAX_US = 10000000 };
    if (order->press > 0 && (guint)order->press > made->presses->len) {
        complain("chart", "--press is %d; there %s %u", order->press, made->presses->len == 1 ? "is" : "are",
                 made->presses->len);
        return false;
    }
    if (order->press > 0) {
        const uint64_t at_us = g_array_index(made->presses, uint64_t, order->press - 1);
        const bool is_last = (guint)order->press == made->presses->len;
        const uint64_t next_us =
            is_last ? made->until_us : g_array_index(made->presses, uint64_t, order->press);
        view->from_us = at_us > BEFORE_US ? at_us - BEFORE_US : 0;
        view->until_us = CLAMP(next_us, view->from_us + MIN_US, view->from_us + MAX_US);
    }
    if (order->from_s * 1e6 >= (double)made->until_us) {
        complain("chart", "--from is %g s; it is over after %.3f s", order->from_s,
                 (double)made->until_us / 1e6);
        return false;
    }
    if (order->from_s > 0) {
        view->from_us = (uint64_t)(order->from_s * 1e6);
        view->until_us = made->until_us;
    }
    if (order->for_s > 0) {
        view->until_us = view->from_us + MAX((uint64_t)(order->for_s * 1e6), 1);
    }
    return true;
}

static int draw_rehearsal(const chart_order *order, const rehearsal *run, const GArray *rows)
{
    rehearsed made = rehearsed_of(run->plan, rows);
    lanes_view view = {.heading = made.heading,
                       .below = made.below,
                       .until_us = made.until_us,
                       .width = order->width,
                       .height = order->height,
                       .is_fitted = order->size == NULL,
                       .is_dark = order->is_dark};
    int code = EXIT_WRONG;
    if (take_window(order, &made, &view)) {
        picture *const drawn = lanes_draw(made.lanes, &view);
        code = write_picture(order, drawn);
        picture_free(drawn);
    }
    rehearsed_clear(&made);
    return code;
}

/* What is to be wired, for a simulator: all pins go up and down. */
static int write_netlist(const chart_order *order, const plan *loaded)
{
    circuit *const all = circuit_of(loaded);
    g_autofree char *rows = circuit_netlist(loaded, all, NULL);
    g_autofree char *text = g_strconcat(rows, ".tran 20u 40m\n.end\n", NULL);
    circuit_free(all);
    if (order->into == NULL) {
        put_text("%s", text);
        return EXIT_DONE;
    }
    return write_text("chart", order->into, text) ? EXIT_DONE : EXIT_FILE;
}

/* A plan alone is drawn as what is to be wired for it. */
static int chart_wiring(const chart_order *order, const char *path)
{
    report *const faults = report_new();
    plan *const loaded = plan_load(path, faults);
    report_print(faults, stderr);
    int code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    if (loaded != NULL && is_read_by_plan("chart", order->into, loaded)) {
        code = EXIT_WRONG;
    } else if (loaded != NULL && order->is_netlist) {
        code = write_netlist(order, loaded);
    } else if (loaded != NULL) {
        picture *const drawn = wiring_draw(loaded, order->width, order->height, order->is_dark);
        code = write_picture(order, drawn);
        picture_free(drawn);
    }
    plan_free(loaded);
    return code;
}

/* What a bench has measured. */
static int chart_curves(const chart_order *order, const char *path)
{
    report *const faults = report_new();
    curves *const read = curves_read(path, faults);
    report_print(faults, stderr);
    int code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    if (read != NULL) {
        picture *const drawn = curves_draw(read, order->width, order->height, order->is_dark);
        code = write_picture(order, drawn);
        picture_free(drawn);
        curves_free(read);
    }
    return code;
}

static int chart_rehearsal(const chart_order *order, char **inputs)
{
    rehearsal run = {.verb = "chart", .seed = 1, .is_on_chip = order->is_on_chip};
    int code = rehearsal_open(&run, inputs, NULL, false);
    if (code == EXIT_DONE && is_read_by_plan("chart", order->into, run.plan)) {
        code = EXIT_WRONG;
    }
    if (code == EXIT_DONE) {
        g_autoptr(GArray) rows = rehearsal_record(&run, &code);
        const int drawn = draw_rehearsal(order, &run, rows);
        code = drawn != EXIT_DONE ? drawn : code;
    }
    rehearsal_close(&run);
    return code;
}

static void take_edge_of(GArray *edges, const capture_edge *edge)
{
    const bool was_mark = edges->len > 0 && g_array_index(edges, capture_edge, edges->len - 1).is_mark;
    if (edge->is_mark != was_mark) {
        g_array_append_val(edges, *edge);
    }
}

static void on_frame(void *context, uint64_t at_us, const drom_frame *frame)
{
    const heard_line *const heard = context;
    const heard_frame added = {at_us, *frame};
    if (frame->kind != DROM_FRAME_BOUNDARY) {
        g_array_append_val(heard->frames, added);
    }
}

/* A press begins with the frame that has just come. */
static void on_key(void *context, uint64_t at_us, const drom_key_event *event)
{
    const heard_line *const heard = context;
    (void)at_us;
    if (event->gesture == DROM_PRESS && heard->frames->len > 0) {
        const uint64_t from_us = g_array_index(heard->frames, heard_frame, heard->frames->len - 1).at_us;
        g_array_append_val(heard->presses, from_us);
    }
}

/* Hears a capture to its end, and keeps all of it. */
static int hear(heard_line *heard, reception *pipeline, line_source *source)
{
    g_autoptr(GError) error = NULL;
    capture_edge edge;
    capture_read read = line_next(source, &edge, &error);
    for (; read == CAPTURE_EDGE || read == CAPTURE_TIME; read = line_next(source, &edge, &error)) {
        if (read == CAPTURE_EDGE) {
            take_edge_of(heard->edges, &edge);
            reception_edge(pipeline, &edge);
        }
    }
    reception_end(pipeline);
    if (read == CAPTURE_FAULT) {
        complain("chart", "%s: %s", source->path, error->message);
        return error->code == CAPTURE_ERROR_CHOICE ? EXIT_WRONG : EXIT_FILE;
    }
    return EXIT_DONE;
}

static int draw_capture(const chart_order *order, heard_line *heard, const reception *pipeline,
                        const char *path)
{
    const line_facts *const facts = reception_facts(pipeline);
    g_autofree char *advice = facts->frames == 0 ? diagnose(facts, path) : NULL;
    const waveform_view view = {.press = (unsigned)order->press,
                                .from_us = (uint64_t)(order->from_s * 1e6),
                                .until_us =
                                    order->for_s > 0 ? (uint64_t)((order->from_s + order->for_s) * 1e6) : 0,
                                .width = order->width,
                                .height = order->height,
                                .is_fitted = order->size == NULL,
                                .is_dark = order->is_dark,
                                .is_mark_high = order->is_light_drawn};
    heard->advice = advice;
    if ((guint)order->press > heard->presses->len) {
        complain("chart", "--press is %d; there %s %u", order->press, heard->presses->len == 1 ? "is" : "are",
                 heard->presses->len);
        return EXIT_WRONG;
    }
    picture *const drawn = waveform_draw(heard, &view);
    const int code = write_picture(order, drawn);
    picture_free(drawn);
    return code;
}

static int chart_capture(const chart_order *order, const char *path)
{
    heard_line heard = {.edges = g_array_new(FALSE, FALSE, sizeof(capture_edge)),
                        .frames = g_array_new(FALSE, FALSE, sizeof(heard_frame)),
                        .presses = g_array_new(FALSE, FALSE, sizeof(uint64_t))};
    reception *const pipeline = reception_new(&(reception_sink){&heard, on_frame, on_key, NULL});
    line_source source = {0};
    reception_start(pipeline);
    int code = line_open(&source, "chart", path, order->signal, order->is_idle_low, USUAL_BAUD);
    if (code == EXIT_DONE) {
        code = hear(&heard, pipeline, &source);
        code = code == EXIT_DONE ? draw_capture(order, &heard, pipeline, path) : code;
    }
    line_close(&source);
    reception_free(pipeline);
    g_array_unref(heard.edges);
    g_array_unref(heard.frames);
    g_array_unref(heard.presses);
    return code;
}

typedef enum source_kind { A_PLAN, A_CAPTURE, CURVES } source_kind;

/* A capture is no text that begins with a word; a plan is. */
static source_kind kind_of(const char *path)
{
    if (g_str_has_suffix(path, ".plan")) {
        return A_PLAN;
    }
    FILE *const file = strcmp(path, "-") != 0 ? fopen(path, "r") : NULL;
    char head[512] = "";
    const size_t length = file != NULL ? fread(head, 1, sizeof head - 1, file) : 0;
    if (file != NULL) {
        (void)fclose(file);
    }
    head[length] = '\0';
    const char *const first = head + strspn(head, " \t\r\n");
    const bool is_capture = strcmp(path, "-") == 0 || capture_begins(head);
    return curves_begin(first) ? CURVES : is_capture ? A_CAPTURE : A_PLAN;
}

static int chart_alone(const chart_order *order, const char *path)
{
    const source_kind kind = kind_of(path);
    if (kind != A_CAPTURE && (order->press > 0 || order->from_s > 0 || order->for_s > 0)) {
        complain("chart", "--press, --from and --for are of a capture or a rehearsal; %s",
                 kind == A_PLAN ? "a plan alone is drawn as what is wired for it: add a script or presses"
                                : "curves have no time");
        return EXIT_WRONG;
    }
    if (order->is_netlist && kind != A_PLAN) {
        complain("chart", "--format netlist is of a plan alone");
        return EXIT_WRONG;
    }
    if (order->is_on_chip) {
        complain("chart", "--chip is of a rehearsal: a plan, and a script or presses");
        return EXIT_WRONG;
    }
    switch (kind) {
    case A_CAPTURE:
        return chart_capture(order, path);
    case CURVES:
        return chart_curves(order, path);
    case A_PLAN:
        break;
    }
    return chart_wiring(order, path);
}

/* The format is that of the file's ending, unless it is given. */
static bool take_picture_format(chart_order *order)
{
    const char *const dot = order->into != NULL ? strrchr(order->into, '.') : NULL;
    const char *const said = order->format != NULL ? order->format : dot != NULL ? dot + 1 : "";
    order->as = g_ascii_strcasecmp(said, "svg") == 0 ? PICTURE_SVG : PICTURE_PNG;
    order->is_netlist = order->format != NULL && strcmp(order->format, "netlist") == 0;
    if (order->is_netlist || g_ascii_strcasecmp(said, "png") == 0 || g_ascii_strcasecmp(said, "svg") == 0) {
        return true;
    }
    if (order->format != NULL) {
        complain("chart", "--format is '%s'; it can be png, svg or netlist", order->format);
    } else if (order->into != NULL) {
        complain("chart", "the ending of '%s' says no format; end it with .png or .svg, or give --format",
                 order->into);
    } else {
        complain("chart", "say where the picture goes, as in: --into stage.png; or give --format png or svg "
                          "for standard output");
    }
    return false;
}

static bool take_pixels(const char *text, unsigned min, unsigned *pixels)
{
    guint64 number = 0;
    const bool is_taken = text != NULL && g_ascii_string_to_unsigned(text, 10, min, MAX_PX, &number, NULL);
    *pixels = (unsigned)number;
    return is_taken;
}

static bool take_size(chart_order *order)
{
    g_auto(GStrv) sides = g_strsplit(order->size != NULL ? order->size : "1280x800", "x", -1);
    if (g_strv_length(sides) == 2 && take_pixels(sides[0], MIN_PX, &order->width) &&
        take_pixels(sides[1], 1, &order->height)) {
        return true;
    }
    complain("chart",
             "--size is '%s'; it must be WIDTHxHEIGHT in pixels, as 1280x800, from %d to %d wide and up to "
             "%d high",
             order->size, MIN_PX, MAX_PX, MAX_PX);
    return false;
}

static bool are_times_right(const chart_order *order)
{
    const bool are = order->from_s >= 0 && order->for_s >= 0 && order->press >= 0 && order->from_s < 1e9 &&
                     order->for_s < 1e9;
    if (!are) {
        complain("chart", "--from and --for are seconds, and --press a number, none of them below 0");
    } else if (order->press > 0 && order->from_s > 0) {
        complain("chart", "--press and --from exclude each other");
        return false;
    }
    return are;
}

int chart_verb(int argc, char **argv)
{
    chart_order order = {0};
    gboolean is_dark = FALSE;
    gboolean is_on_chip = FALSE;
    g_autofree char *draw = NULL;
    g_autofree char *idle = NULL;
    const GOptionEntry entries[] = {
        {"into", 0, 0, G_OPTION_ARG_FILENAME, &order.into,
         "The file, PNG or SVG by its ending; standard output by default", "FILE"},
        {"format", 0, 0, G_OPTION_ARG_STRING, &order.format,
         "png, svg, or for a plan alone netlist (SPICE); overrides the file's ending", "FORMAT"},
        {"size", 0, 0, G_OPTION_ARG_STRING, &order.size,
         "Size in pixels; 1280 wide and as high as needed by default", "WIDTHxHEIGHT"},
        {"from", 0, 0, G_OPTION_ARG_DOUBLE, &order.from_s, "Begin S seconds after the start", "S"},
        {"for", 0, 0, G_OPTION_ARG_DOUBLE, &order.for_s, "Show S seconds", "S"},
        {"press", 0, 0, G_OPTION_ARG_INT, &order.press, "Show press N of the script and its results", "N"},
        {"dark", 0, 0, G_OPTION_ARG_NONE, &is_dark, "Use a dark background", NULL},
        {"chip", 0, 0, G_OPTION_ARG_NONE, &is_on_chip, CHIP_HELP, NULL},
        {"draw", 0, 0, G_OPTION_ARG_STRING, &draw,
         "Draw a capture as the receiver's pin (pin, the default) or as light", "pin|light"},
        {"signal", 0, 0, G_OPTION_ARG_STRING, &order.signal, "The wire of the capture, if it has several",
         "NAME"},
        {"idle", 0, 0, G_OPTION_ARG_STRING, &idle, "The level between frames: high (the default) or low",
         "LEVEL"},
        {0},
    };
    int code = EXIT_WRONG;
    if (take_options(
            "CAPTURE | CURVES | PLAN [INPUT | PRESS...]",
            "Draws a capture: the waveform with its bits, fields and margins; with several presses an\n"
            "overview, and one press in full with --press.\n"
            "Draws measurements: CSV with the columns figure,x,y,curve,at,value, as './run bench curves'\n"
            "writes them.\n"
            "Draws a plan alone as its wiring sheet: the board from above, the wires and parts of each\n"
            "pin, and what to check; or writes it as a SPICE netlist.\n"
            "Draws a rehearsal, with an INPUT or presses as for 'dromikos rehearse': presses, frames,\n"
            "keys, rules, modes, values and each output over time.\n"
            "\n"
            "  dromikos chart --into press.png --press 1 presses.vcd\n"
            "  dromikos chart --into wiring.png stage.plan\n"
            "  dromikos chart --into evening.png stage.plan stage.csv",
            entries, 0, MAX_INPUTS, &argc, argv, &code)) {
        g_autoptr(GPtrArray) words = words_with_plan("chart", argc, argv, false);
        argv = words != NULL ? (char **)words->pdata : argv;
        argc = words != NULL ? (int)words->len - 1 : argc;
        order.is_dark = is_dark;
        order.is_on_chip = is_on_chip;
        code = EXIT_WRONG;
        if (words != NULL && take_either("chart", "draw", draw, "light", "pin", &order.is_light_drawn) &&
            take_either("chart", "idle", idle, "low", "high", &order.is_idle_low) &&
            take_picture_format(&order) && !is_an_input("chart", order.into, argv + 1) && take_size(&order) &&
            are_times_right(&order)) {
            if (order.is_netlist && argc > 2) {
                complain("chart", "--format netlist is of a plan alone");
            } else {
                code = argc > 2 ? chart_rehearsal(&order, argv + 1) : chart_alone(&order, argv[1]);
            }
        }
    }
    g_free(order.into);
    g_free(order.format);
    g_free(order.size);
    g_free(order.signal);
    return code;
}
