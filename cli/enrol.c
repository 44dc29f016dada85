/* enrol: names in, presses in, a sheet out. Each key is pressed until two presses in a row agree. */
#include "cli.h"

#include "csv_table.h"
#include "hearing.h"
#include "merge.h"
#include "plan.h"
#include "source.h"

#include <errno.h>
#include <string.h>
#include <unistd.h>

typedef struct enrolment {
    hearing *by;
    GPtrArray *names;
    GArray *keys; /* of sheet_key: those that are done */
    sheet *known; /* the sheet that is added to, or NULL */
    more_protocols more;
    GPtrArray *own; /* what `more` points to */
    plan *of;       /* whose other sheets shall not have the same codes, or NULL */
    const char *sheet_path;
    drom_code last;
    drom_code before_last;
    unsigned agreed;  /* presses in a row that said the same */
    unsigned presses; /* of the key that is pressed now */
    unsigned times;   /* how many must agree */
    bool allows_twins;
    bool is_live;
    bool has_told_toggle;
    bool has_failed; /* in a capture a key can't be asked for again */
} enrolment;

static const char *wanted_name(const enrolment *in)
{
    return in->keys->len < in->names->len ? g_ptr_array_index(in->names, in->keys->len) : NULL;
}

static void ask(const enrolment *in)
{
    const char *const name = wanted_name(in);
    if (in->is_live && name != NULL) {
        (void)fprintf(stderr, "press '%s'%s\n", name, in->agreed > 0 ? " once more" : "");
    }
}

/* The key that has a code already: of this sheet, done or known; NULL when none has. */
static const sheet_key *find_twin(const enrolment *in, const drom_code *code, const char *name)
{
    for (guint i = 0; i < in->keys->len; i++) {
        const sheet_key *const key = &g_array_index(in->keys, sheet_key, i);
        if (drom_code_equal(&key->code, code)) {
            return key;
        }
    }
    const sheet_key *const known = in->known != NULL ? sheet_find_code(in->known, code) : NULL;
    return known != NULL && strcmp(known->name, name) != 0 ? known : NULL;
}

/* Other handsets of the plan that send the same. */
static void warn_of_others(const enrolment *in, const drom_code *code, const char *name)
{
    if (in->of == NULL) {
        return;
    }
    const drom_keys_plan *const keys = &plan_tables(in->of)->keys;
    for (unsigned i = 0; i < plan_handset_count(in->of); i++) {
        for (unsigned j = 0; j < keys->handsets.rows[i].codes.count; j++) {
            const bool is_itself =
                in->sheet_path != NULL && strcmp(plan_sheet_path(in->of, i), in->sheet_path) == 0;
            if (!is_itself && drom_code_equal(&keys->handsets.rows[i].codes.rows[j], code)) {
                complain("enrol",
                         "warning: '%s.%s' of the plan has the code of '%s'; only one of them can count",
                         plan_handset_name(in->of, i), plan_key_name(in->of, i, j), name);
            }
        }
    }
}

static void note_toggle(enrolment *in, const drom_code *code)
{
    if (code->protocol->has_toggle && !in->has_told_toggle) {
        in->has_told_toggle = true;
        complain(
            "enrol",
            "note: %s has a toggle bit, so that a key sends two numbers by turns; the sheet needs it once",
            code->protocol->id);
    }
}

static void take_key(enrolment *in, const drom_code *code)
{
    const char *const name = wanted_name(in);
    const sheet_key *const twin = find_twin(in, code, name);
    in->agreed = 0;
    in->presses = 0;
    if (twin != NULL && !in->allows_twins) {
        complain(
            "enrol", "'%s' sends the code of '%s'; %s", name, twin->name,
            in->is_live
                ? "press another key, or start again with --allow-twins"
                : "was a key pressed too often, or too seldom? Two names for one code need --allow-twins");
        in->has_failed = !in->is_live;
        return;
    }
    const sheet_key key = {.name = g_strdup(name), .code = *code};
    note_toggle(in, code);
    warn_of_others(in, code, name);
    g_array_append_val(in->keys, key);
    if (in->is_live) {
        g_autofree char *text = code_text(code);
        (void)fprintf(stderr, "'%s' is %s\n", name, text);
    }
}

static void on_key(void *context, uint64_t at_us, const drom_key_event *event)
{
    enrolment *const in = context;
    if (event->gesture != DROM_PRESS || wanted_name(in) == NULL || in->has_failed) {
        return;
    }
    const drom_code *const code = hearing_code(in->by, event->handset, event->key);
    const bool is_same = in->agreed > 0 && drom_code_equal(&in->last, code);
    if (in->agreed > 0 && !is_same) {
        const bool is_by_turns =
            in->presses >= 3 && code->protocol == &drom_unknown && drom_code_equal(&in->before_last, code);
        complain(
            "enrol",
            is_by_turns
                ? "%.1f s: '%s' sends two fingerprints by turns: it has a toggle bit. 'dromikos infer' can "
                  "find it"
                : "%.1f s: two presses of '%s' disagree; the next ones will tell",
            (double)at_us / 1e6, wanted_name(in));
    }
    in->before_last = in->last;
    in->last = *code;
    in->presses++;
    in->agreed = is_same ? in->agreed + 1 : 1;
    if (in->agreed >= in->times) {
        take_key(in, code);
    }
    ask(in);
}

static void ignore_frame(void *context, uint64_t at_us, const drom_frame *frame)
{
    (void)context;
    (void)at_us;
    (void)frame;
}

static void ignore_row(void *context)
{
    (void)context;
}

/* One name a line; blank lines and what follows # are passed over. */
static bool read_names(enrolment *in, const char *path)
{
    FILE *const file = open_input("enrol", path);
    char line[256];
    if (file == NULL) {
        return false;
    }
    if (file == stdin && isatty(STDIN_FILENO)) {
        (void)fprintf(stderr, "the names of the keys, one a line; an empty line ends them\n");
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
    if (in->names->len == 0 || in->names->len > SHEET_MOST_KEYS) {
        complain("enrol", "%u names were given; 1 to %d make a sheet", in->names->len, SHEET_MOST_KEYS);
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

/* The sheet that is added to. False, and told, when it is there and can't be used. */
static int read_known(enrolment *in, char **text)
{
    if (in->sheet_path == NULL || access(in->sheet_path, F_OK) != 0) {
        return EXIT_DONE;
    }
    gsize length = 0;
    report *const told = report_new();
    *text = read_text_file(in->sheet_path, &length, told);
    in->known = *text != NULL ? sheet_read(in->sheet_path, &in->more, told) : NULL;
    report_print(told, stderr);
    const int code = report_has_unreadable(told) ? EXIT_FILE : report_errors(told) > 0 ? EXIT_NO : EXIT_DONE;
    report_free(told);
    return code;
}

static int read_plan(enrolment *in, const char *path)
{
    if (path == NULL) {
        return EXIT_DONE;
    }
    report *const told = report_new();
    in->of = plan_load(path, told);
    report_print(told, stderr);
    const int code = report_has_unreadable(told) ? EXIT_FILE : EXIT_NO;
    report_free(told);
    for (unsigned i = 0; in->of != NULL && i < plan_own_count(in->of); i++) {
        const drom_waveform *const own = plan_own_waveform(in->of, i);
        g_ptr_array_add(in->own, (gpointer)own);
        hearing_add_protocol(in->by, own->protocol);
    }
    in->more = (more_protocols){(const drom_waveform *const *)in->own->pdata, in->own->len};
    return in->of != NULL ? EXIT_DONE : code;
}

static int write_sheet(const enrolment *in, const char *text)
{
    g_autofree char *merged = sheet_merge(text, in->keys);
    g_autoptr(GError) error = NULL;
    if (in->sheet_path == NULL) {
        (void)fputs(merged, stdout);
    } else if (!g_file_set_contents(in->sheet_path, merged, -1, &error)) {
        complain("enrol", "%s", error->message);
        return EXIT_FILE;
    }
    return EXIT_DONE;
}

static int hear_presses(enrolment *in, line_source *source, const char *path)
{
    capture_edge edge;
    g_autoptr(GError) error = NULL;
    capture_read read = CAPTURE_END;
    in->is_live = isatty(fileno(source->file));
    ask(in);
    do {
        read = capture_next(source->from, &edge, &error);
        if (read == CAPTURE_EDGE) {
            hearing_edge(in->by, &edge);
        } else if (read != CAPTURE_FAULT) {
            hearing_until(in->by, edge.at_us);
        }
    } while ((read == CAPTURE_EDGE || read == CAPTURE_TIME) && wanted_name(in) != NULL && !in->has_failed);
    hearing_end(in->by);
    if (read == CAPTURE_FAULT) {
        complain("enrol", "%s: %s", path, error->message);
        return EXIT_FILE;
    }
    if (!in->has_failed && wanted_name(in) != NULL) {
        complain("enrol", "%s: the presses end before '%s'%s; each key must be pressed %u time%s", path,
                 wanted_name(in), in->presses > 0 ? " agrees with itself" : "", in->times,
                 in->times == 1 ? "" : "s");
    }
    return in->has_failed || wanted_name(in) != NULL ? EXIT_NO : EXIT_DONE;
}

static void clear_key(gpointer data)
{
    g_free(((sheet_key *)data)->name);
}

int enrol_verb(int argc, char **argv)
{
    enum { MOST_WORDS = 300, USUAL_BAUD = 115200, MOST_TIMES = 10 };
    g_autofree char *names_path = NULL;
    g_autofree char *sheet_path = NULL;
    g_autofree char *plan_path = NULL;
    g_autofree char *signal = NULL;
    g_autofree char *idle = NULL;
    gint baud = USUAL_BAUD;
    gint times = 2;
    gboolean allows_twins = FALSE;
    const GOptionEntry entries[] = {
        {"names", 0, 0, G_OPTION_ARG_FILENAME, &names_path, "Names from a file, one a line; - to type them",
         "FILE"},
        {"times", 0, 0, G_OPTION_ARG_INT, &times, "How many presses of a key must agree; 2 unless given",
         "N"},
        {"sheet", 0, 0, G_OPTION_ARG_FILENAME, &sheet_path,
         "Write into this sheet, keeping what else is in it", "FILE"},
        {"plan", 0, 0, G_OPTION_ARG_FILENAME, &plan_path,
         "Know the protocols of this plan, and warn of codes that its other sheets have", "PLAN"},
        {"allow-twins", 0, 0, G_OPTION_ARG_NONE, &allows_twins, "Let two names have one code", NULL},
        {"signal", 0, 0, G_OPTION_ARG_STRING, &signal, "Which wire of the capture, where it has several",
         "NAME"},
        {"idle", 0, 0, G_OPTION_ARG_STRING, &idle, "The line's level between frames: high or low", "LEVEL"},
        {"baud", 0, 0, G_OPTION_ARG_INT, &baud, "Speed of a serial line; 115200 unless given", "N"},
        {0},
    };
    int code = EXIT_WRONG;
    bool is_idle_low = false;
    if (!take_options(
            "SOURCE [NAME ...]",
            "Makes a handset's sheet: the keys are pressed in the order of their names, each until two\n"
            "presses in a row agree.\n\n"
            "SOURCE is a capture with pauses between the presses, or a serial line: then the keys are\n"
            "asked for one by one. The sheet goes to standard output unless --sheet is given.",
            entries, 1, MOST_WORDS, &argc, argv, &code) ||
        !take_either("enrol", "idle", idle, "low", "high", &is_idle_low)) {
        return code;
    }
    if (times < 1 || times > MOST_TIMES || !source_has_baud(baud)) {
        complain("enrol", "--times must be 1 to %d, --baud 9600, 19200, 38400, 57600, 115200 or 230400",
                 MOST_TIMES);
        return EXIT_WRONG;
    }
    enrolment in = {.sheet_path = sheet_path, .times = (unsigned)times, .allows_twins = allows_twins};
    g_autofree char *text = NULL;
    line_source source = {0};
    in.names = g_ptr_array_new_with_free_func(g_free);
    in.keys = g_array_new(FALSE, FALSE, sizeof(sheet_key));
    g_array_set_clear_func(in.keys, clear_key);
    in.by = hearing_new(&(hearing_sink){&in, ignore_frame, on_key, ignore_row});
    for (int i = 2; i < argc; i++) {
        g_ptr_array_add(in.names, g_strdup(argv[i]));
    }
    in.own = g_ptr_array_new();
    code = names_path == NULL || read_names(&in, names_path) ? EXIT_DONE : EXIT_FILE;
    code = code == EXIT_DONE && !check_names(&in) ? EXIT_WRONG : code;
    code = code == EXIT_DONE ? read_plan(&in, plan_path) : code;
    code = code == EXIT_DONE ? read_known(&in, &text) : code;
    hearing_start(in.by);
    code = code == EXIT_DONE ? source_open(&source, "enrol", argv[1], signal, is_idle_low, baud) : code;
    if (code == EXIT_DONE) {
        code = hear_presses(&in, &source, argv[1]);
    }
    if (code == EXIT_DONE) {
        code = write_sheet(&in, text);
    }
    source_close(&source);
    hearing_free(in.by);
    sheet_free(in.known);
    plan_free(in.of);
    g_ptr_array_unref(in.own);
    g_ptr_array_unref(in.names);
    g_array_unref(in.keys);
    return finish("enrol", code);
}
