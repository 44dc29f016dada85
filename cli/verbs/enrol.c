/* enrol: presses in, a sheet out. The names of the keys are given beforehand, or typed as the keys are
 * pressed. */
#include "cli/io/io.h"

#include "cli/io/files.h"
#include "cli/io/here.h"
#include "cli/program/ear.h"
#include "cli/program/rules.h"
#include "cli/receive/enrolment.h"
#include "cli/receive/line_source.h"
#include "cli/verbs/verbs.h"

#include <poll.h>
#include <string.h>
#include <unistd.h>

/* The options. */
typedef struct wishes {
    char *names_path;
    char *sheet_path;
    char *plan_path;
    char *signal;
    char *idle;
    gint baud;
    gint times;
    gboolean allows_twins;
} wishes;

/* What an enrolment needs besides. */
typedef struct helpers {
    plan *plan;
    GPtrArray *own; /* the waveforms of the plan's declared protocols */
    more_protocols more;
} helpers;

static void on_key(void *context, uint64_t at_us, const drom_key_event *event)
{
    enrolment *const in = context;
    if (event->gesture == DROM_PRESS) {
        enrolment_press(in, at_us, reception_code(in->pipeline, event->handset, event->key));
    }
}

/* One name per line; blank lines and comments (#) are skipped. */
static bool read_names(enrolment *in, const char *path)
{
    FILE *const file = open_input("enrol", path);
    char line[256];
    if (file == NULL) {
        return false;
    }
    if (file == stdin && isatty(STDIN_FILENO)) {
        put_note("the names of the keys, one a line; an empty line ends them\n");
    }
    while (fgets(line, sizeof line, file) != NULL) {
        line[strcspn(line, "#\r\n")] = '\0';
        const char *const name = g_strstrip(line);
        if (*name == '\0' && file == stdin && isatty(STDIN_FILENO)) {
            break;
        }
        if (*name != '\0') {
            g_ptr_array_add(in->names, g_strdup(name));
        }
    }
    close_input(file);
    return true;
}

static bool check_names(const enrolment *in)
{
    if (in->names->len > SHEET_MAX_KEYS) {
        complain("enrol", "%u names were given; a sheet holds %d keys at most", in->names->len,
                 SHEET_MAX_KEYS);
        return false;
    }
    for (guint i = 0; i < in->names->len; i++) {
        const char *const name = g_ptr_array_index(in->names, i);
        if (!sheet_is_key_name(name)) {
            complain("enrol", "the key name '%s' must be made of letters, digits and '_', as in 'vol_up'",
                     name);
            return false;
        }
        for (guint j = 0; j < i; j++) {
            if (strcmp(g_ptr_array_index(in->names, j), name) == 0) {
                complain("enrol", "the name '%s' is given twice", name);
                return false;
            }
        }
    }
    return true;
}

static int read_plan(enrolment *in, helpers *with, const char *path)
{
    if (path == NULL) {
        return EXIT_DONE;
    }
    report *const faults = report_new();
    with->plan = plan_load(path, faults);
    report_print(faults, stderr);
    const int code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    for (unsigned i = 0; with->plan != NULL && i < plan_declared_count(with->plan); i++) {
        const drom_waveform *const own = plan_declared_waveform(with->plan, i);
        g_ptr_array_add(with->own, (gpointer)own);
        reception_add_protocol(in->pipeline, own->protocol);
    }
    with->more = (more_protocols){(const drom_waveform *const *)with->own->pdata, with->own->len};
    in->plan = with->plan;
    return with->plan != NULL ? EXIT_DONE : code;
}

/* Asks for the name of the pressed key. False if there is none: that was all. */
static bool take_typed_name(enrolment *in)
{
    char line[256];
    for (;;) {
        put_note("its name (Enter alone ends): ");
        if (fgets(line, sizeof line, stdin) == NULL) {
            (void)fputc('\n', stderr);
            return false;
        }
        const char *const name = g_strstrip(line);
        if (*name == '\0') {
            return false;
        }
        const char *const wrong = enrolment_name(in, name);
        if (wrong == NULL) {
            return true;
        }
        put_note("'%s': %s\n", name, wrong);
    }
}

/* If names are typed, Enter alone also ends before a press. Waits for input from either side. */
static bool is_ended_by_hand(const enrolment *in, const line_source *source)
{
    char line[256];
    struct pollfd waits[] = {{.fd = fileno(source->file), .events = POLLIN},
                             {.fd = STDIN_FILENO, .events = POLLIN}};
    if (!in->is_live || in->names->len > 0 || !isatty(STDIN_FILENO) || poll(waits, 2, -1) <= 0 ||
        waits[1].revents == 0) {
        return false;
    }
    if (fgets(line, sizeof line, stdin) == NULL || *g_strstrip(line) == '\0') {
        return true;
    }
    put_note("press the key first; then its name is asked for\n");
    return false;
}

static bool is_done(const enrolment *in)
{
    return in->has_failed || (in->names->len > 0 && enrolment_wanted(in) == NULL);
}

/* Takes presses until all keys are known, or nothing more comes. */
static int hear_presses(enrolment *in, line_source *source, const char *path)
{
    capture_edge edge;
    g_autoptr(GError) error = NULL;
    capture_read read = CAPTURE_TIME;
    bool is_ended = false; /* by hand */
    enrolment_ask(in);
    while ((read == CAPTURE_EDGE || read == CAPTURE_TIME) && !is_done(in) && !is_ended) {
        read = line_next(source, &edge, &error);
        if (read == CAPTURE_EDGE) {
            reception_edge(in->pipeline, &edge);
        } else if (read != CAPTURE_FAULT) {
            reception_until(in->pipeline, edge.at_us);
        }
        line_check(source);
        if (in->is_waiting) {
            is_ended = !take_typed_name(in);
            line_discard(source); /* presses made meanwhile */
            enrolment_ask(in);
        } else {
            is_ended = is_ended_by_hand(in, source);
        }
    }
    if (!is_ended) {
        reception_end(in->pipeline);
    }
    if (read == CAPTURE_FAULT) {
        complain("enrol", "%s: %s", path, error->message);
        return EXIT_FILE;
    }
    if (in->has_failed) {
        return EXIT_FILE;
    }
    const char *const wanted = enrolment_wanted(in);
    if (wanted != NULL) {
        complain("enrol", "%s: the presses end before '%s'%s; each key must be pressed %u time%s%s", path,
                 wanted, in->presses > 0 ? " agrees with itself" : "", in->times, in->times == 1 ? "" : "s",
                 in->keys->len > 0 ? ". The keys before it are saved" : "");
    }
    return wanted != NULL ? EXIT_NO : EXIT_DONE;
}

static int enrol(enrolment *in, const char *path, const wishes *from)
{
    line_source source = {0};
    const bool is_idle_low = from->idle != NULL && strcmp(from->idle, "low") == 0;
    int code = line_open(&source, "enrol", path, from->signal, is_idle_low, from->baud);
    if (code == EXIT_DONE) {
        in->is_live = source.is_serial;
        if (in->names->len == 0 && !in->is_live) {
            complain(
                "enrol",
                "say the names of the keys, in the order in which they are pressed: 1 to %d make a sheet. "
                "On a serial line they may be typed as the keys come",
                SHEET_MAX_KEYS);
            code = EXIT_WRONG;
        } else {
            code = hear_presses(in, &source, path);
        }
    }
    line_close(&source);
    return code;
}

static void clear_key(gpointer data)
{
    g_free(((sheet_key *)data)->name);
}

/* True if the sheet is also an input. */
static bool is_read(const enrolment *in, const char *source, const wishes *from)
{
    char *const inputs[] = {(char *)source, from->plan_path, NULL};
    char *const names[] = {from->names_path, NULL};
    return is_an_input("enrol", in->sheet_path, inputs) || is_an_input("enrol", in->sheet_path, names);
}

static int prepare_and_enrol(int argc, char **argv, const wishes *from)
{
    helpers with = {.own = g_ptr_array_new()};
    enrolment in = {.sheet_path = from->sheet_path,
                    .times = (unsigned)from->times,
                    .allows_twins = from->allows_twins,
                    .names = g_ptr_array_new_with_free_func(g_free),
                    .keys = g_array_new(FALSE, FALSE, sizeof(sheet_key))};
    g_array_set_clear_func(in.keys, clear_key);
    in.pipeline = reception_new(&(reception_sink){&in, NULL, on_key, NULL});
    for (int i = 2; i < argc; i++) {
        g_ptr_array_add(in.names, g_strdup(argv[i]));
    }
    int code = is_read(&in, argv[1], from)                                     ? EXIT_WRONG
               : from->names_path == NULL || read_names(&in, from->names_path) ? EXIT_DONE
                                                                               : EXIT_FILE;
    code = code == EXIT_DONE && !check_names(&in) ? EXIT_WRONG : code;
    code = code == EXIT_DONE ? read_plan(&in, &with, from->plan_path) : code;
    in.more = &with.more;
    code = code == EXIT_DONE ? enrolment_read(&in) : code;
    reception_start(in.pipeline);
    code = code == EXIT_DONE ? enrol(&in, argv[1], from) : code;
    reception_free(in.pipeline);
    sheet_free(in.known);
    g_free(in.known_text);
    plan_free(with.plan);
    g_ptr_array_unref(with.own);
    g_ptr_array_unref(in.names);
    g_array_unref(in.keys);
    return code;
}

/* In a maker's folder, 'enrol remote' is for the sheet remote.csv. Returns the handset, to be freed; NULL if
 * the first word is a source. */
static char *handset_named(int argc, char **argv, const wishes *from)
{
    g_autofree char *plan_path = plan_here();
    const bool is_name = argc > 1 && plan_path != NULL && from->sheet_path == NULL &&
                         sheet_is_key_name(argv[1]) && !g_file_test(argv[1], G_FILE_TEST_EXISTS);
    return is_name ? g_strdup(argv[1]) : NULL;
}

/* From the only serial line into the handset's sheet, which the plan then has a rule a key for. */
static int enrol_here(const char *handset, int argc, char **argv, wishes *from)
{
    g_autofree char *line = line_here("enrol");
    g_autofree char *plan_path = plan_here();
    if (line == NULL) {
        return EXIT_FILE;
    }
    from->sheet_path = g_strconcat(handset, ".csv", NULL);
    from->baud = from->baud == USUAL_BAUD ? ear_baud(plan_path) : from->baud;
    argv[1] = line;
    const int code = prepare_and_enrol(argc, argv, from);
    if (g_file_test(from->sheet_path, G_FILE_TEST_EXISTS) && !rules_add("enrol", plan_path, handset)) {
        return EXIT_FILE;
    }
    if (code == EXIT_DONE) {
        put_note("%s has a rule for each key of %s now; change what they do\n", plan_path, handset);
        put_next("dromikos rehearse");
    }
    return code;
}

int enrol_verb(int argc, char **argv)
{
    enum { MAX_WORDS = 300, MAX_TIMES = 10 };
    wishes from = {.baud = USUAL_BAUD, .times = 2};
    const GOptionEntry entries[] = {
        {"names", 0, 0, G_OPTION_ARG_FILENAME, &from.names_path,
         "Read the names from a file, one per line; - to type them first", "FILE"},
        {"times", 0, 0, G_OPTION_ARG_INT, &from.times, "Number of presses that must agree; 2 by default",
         "N"},
        {"sheet", 0, 0, G_OPTION_ARG_FILENAME, &from.sheet_path,
         "Write into this sheet, and keep its other rows", "FILE"},
        {"plan", 0, 0, G_OPTION_ARG_FILENAME, &from.plan_path,
         "Use the protocols of this plan, and warn of codes that its other sheets have", "PLAN"},
        {"allow-twins", 0, 0, G_OPTION_ARG_NONE, &from.allows_twins, "Allow two names for one code", NULL},
        {"signal", 0, 0, G_OPTION_ARG_STRING, &from.signal, "The wire of the capture, if it has several",
         "NAME"},
        {"idle", 0, 0, G_OPTION_ARG_STRING, &from.idle, "The level between frames: high or low", "LEVEL"},
        {"baud", 0, 0, G_OPTION_ARG_INT, &from.baud, "Speed of a serial line; 115200 by default", "N"},
        {0},
    };
    int code = EXIT_WRONG;
    bool is_idle_low = false;
    if (take_options(
            "SOURCE|HANDSET [NAME ...]",
            "Makes a handset's sheet, the table of its codes. With names, press the keys in their order;\n"
            "without, press a key and type its name, and end with Enter alone. Press each key until two\n"
            "presses in a row agree; it is saved at once.\n"
            "\n"
            "SOURCE is a capture with pauses between the presses, or a serial line: then the keys are\n"
            "requested one by one. The sheet is written to standard output unless --sheet is given.\n"
            "In a folder with one plan, HANDSET is enough: the only serial line is used, the sheet is\n"
            "HANDSET.csv, and the plan gets a rule for each key.",
            entries, 1, MAX_WORDS, &argc, argv, &code) &&
        take_either("enrol", "idle", from.idle, "low", "high", &is_idle_low) &&
        line_takes_baud("enrol", from.baud)) {
        if (from.times >= 1 && from.times <= MAX_TIMES) {
            g_autofree char *handset = handset_named(argc, argv, &from);
            code = handset != NULL ? enrol_here(handset, argc, argv, &from)
                                   : prepare_and_enrol(argc, argv, &from);
        } else {
            complain("enrol", "--times is %d; it must be 1 to %d", from.times, MAX_TIMES);
        }
    }
    g_free(from.names_path);
    g_free(from.sheet_path);
    g_free(from.plan_path);
    g_free(from.signal);
    g_free(from.idle);
    return finish("enrol", code);
}
