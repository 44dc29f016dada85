/* Golden timelines: what each output of a plan did, as text, compared row by row. A file of the folder golden
 * has parts, each after a line that begins with "==": a plan with its sheets, or the name of an example; a
 * script; the time of a stop, if any; and the timeline. GOLDEN_WRITE=1 writes the timelines again; read the
 * diff. */
#include "plan/script/script.h"

#include "run.h"
#include "support.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

enum { NEAR_MS = 5, LASTS_MS = 9000 };

typedef struct golden {
    char *path;
    GHashTable *parts; /* name to text */
    char *stop;        /* "== stop MS"; NULL: none */
} golden;

static void put_part(golden *opened, const char *head, const char *text)
{
    if (g_str_has_prefix(head, "stop ")) {
        opened->stop = g_strdup(head + strlen("stop "));
    } else {
        g_hash_table_insert(opened->parts, g_strdup(head), g_strdup(text));
    }
}

static golden golden_open(const char *path)
{
    golden opened = {.path = g_strdup(path),
                     .parts = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free)};
    g_autofree char *text = NULL;
    ck_assert(g_file_get_contents(path, &text, NULL, NULL));
    g_auto(GStrv) parts = g_strsplit(text, "== ", -1);
    for (char **part = parts + 1; *part != NULL; part++) {
        char *const end = strchr(*part, '\n');
        ck_assert_ptr_nonnull(end);
        *end = '\0';
        put_part(&opened, *part, end + 1);
    }
    return opened;
}

static void golden_close(golden *opened)
{
    g_hash_table_unref(opened->parts);
    g_free(opened->stop);
    g_free(opened->path);
}

static const char *part_of(const golden *opened, const char *name)
{
    const char *const text = g_hash_table_lookup(opened->parts, name);
    ck_assert_msg(text != NULL, "%s has no part '%s'", opened->path, name);
    return text;
}

static const char *const drawn_files[] = {"drawn.plan", "hand.csv", "hall.csv", "presses.csv"};

/* The paths of its plan and script: an example's, or those of written files. */
static void find_files(const golden *opened, char **plan_path, char **script_path)
{
    const char *const example = g_hash_table_lookup(opened->parts, "example");
    if (example != NULL) {
        g_auto(GStrv) names = g_strsplit_set(example, " \n", -1);
        *plan_path = g_build_filename(g_getenv("EXAMPLES"), names[0], NULL);
        *script_path = g_build_filename(g_getenv("EXAMPLES"), names[1], NULL);
        return;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(drawn_files); i++) {
        g_autofree char *written = write_file(drawn_files[i], part_of(opened, drawn_files[i]));
        if (i == 0) {
            *plan_path = g_steal_pointer(&written);
        } else if (i == G_N_ELEMENTS(drawn_files) - 1) {
            *script_path = g_steal_pointer(&written);
        }
    }
}

static char *timeline_of(const golden *opened)
{
    g_autofree char *plan_path = NULL;
    g_autofree char *script_path = NULL;
    find_files(opened, &plan_path, &script_path);
    report *const faults = report_new();
    plan *const loaded = plan_load(plan_path, faults);
    ck_assert_msg(loaded != NULL, "the plan of %s is refused", opened->path);
    g_autoptr(GArray) script = script_read(script_path, loaded, NULL, faults);
    ck_assert_msg(script != NULL, "the script of %s is refused", opened->path);
    bench_run run = {
        .presses = g_array_new(FALSE, FALSE, sizeof(run_press)),
        .break_ms = opened->stop != NULL ? (uint32_t)atoi(opened->stop) : 0,
        .breaks = opened->stop != NULL ? LIFE_STOPS : LIFE_GOES_ON,
        .nap_us = 10000,
        .processor = {.latency_us = 1, .capture_us = 5, .alarm_us = 6.4, .poll_us = 130, .pwm_bits = 8},
        .noise = SIM_NOISES,
        .seed = 7};
    for (guint i = 0; i < script->len; i++) {
        const script_press *const row = &g_array_index(script, script_press, i);
        const run_press press = {row->handset, row->key, row->at_ms, row->held_ms};
        g_array_append_val(run.presses, press);
        run.lasts_ms = MAX(run.lasts_ms, row->at_ms + row->held_ms);
    }
    char *const text = run_timeline(loaded, &run);
    g_array_unref(run.presses);
    plan_free(loaded);
    report_free(faults);
    return text;
}

static void golden_write(const golden *opened, const char *timeline)
{
    g_autoptr(GString) text = g_string_new(NULL);
    const char *const example = g_hash_table_lookup(opened->parts, "example");
    if (example != NULL) {
        g_string_append_printf(text, "== example\n%s", example);
    }
    for (size_t i = 0; i < G_N_ELEMENTS(drawn_files) && example == NULL; i++) {
        g_string_append_printf(text, "== %s\n%s", drawn_files[i], part_of(opened, drawn_files[i]));
    }
    if (opened->stop != NULL) {
        g_string_append_printf(text, "== stop %s\n", opened->stop);
    }
    g_string_append_printf(text, "== timeline\n%s", timeline);
    ck_assert(g_file_set_contents(opened->path, text->str, -1, NULL));
}

/* The rows of one output: "2.067 on", one after another. */
static GPtrArray *rows_of(const char *timeline, const char *output)
{
    GPtrArray *const rows = g_ptr_array_new_with_free_func(g_free);
    g_auto(GStrv) lines = g_strsplit(timeline, "\n", -1);
    for (char **line = lines; *line != NULL; line++) {
        g_auto(GStrv) words = g_strsplit(*line, " ", 3);
        if (g_strv_length(words) == 3 && strcmp(words[1], output) == 0) {
            g_ptr_array_add(rows, g_strdup_printf("%s %s", words[0], words[2]));
        }
    }
    return rows;
}

static bool is_same(const char *row, const char *expected)
{
    const double apart_s = g_ascii_strtod(row, NULL) - g_ascii_strtod(expected, NULL);
    return fabs(apart_s) * 1000 <= NEAR_MS + 0.5 && strcmp(strchr(row, ' '), strchr(expected, ' ')) == 0;
}

static void compare_output(const golden *opened, const char *timeline, const char *output)
{
    g_autoptr(GPtrArray) rows = rows_of(timeline, output);
    g_autoptr(GPtrArray) expected = rows_of(part_of(opened, "timeline"), output);
    for (guint i = 0; i < MAX(rows->len, expected->len); i++) {
        const char *const now = i < rows->len ? rows->pdata[i] : "nothing more";
        const char *const was = i < expected->len ? expected->pdata[i] : "nothing more";
        ck_assert_msg(i < rows->len && i < expected->len && is_same(now, was),
                      "%s: row %u of %s: %s; expected: %s", opened->path, i + 1, output, now, was);
    }
}

static void compare(const golden *opened, const char *timeline)
{
    g_autoptr(GHashTable) outputs = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    g_autofree char *both = g_strconcat(timeline, part_of(opened, "timeline"), NULL);
    g_auto(GStrv) lines = g_strsplit(both, "\n", -1);
    for (char **line = lines; *line != NULL; line++) {
        g_auto(GStrv) words = g_strsplit(*line, " ", 3);
        if (g_strv_length(words) == 3 && g_hash_table_add(outputs, g_strdup(words[1]))) {
            compare_output(opened, timeline, words[1]);
        }
    }
    ck_assert_uint_gt(g_hash_table_size(outputs), 0);
    ck_assert_ptr_null(strstr(both, "VIOLATION"));
}

/* Calls a function for each file. */
static unsigned each_file(void (*take)(golden *opened, void *context), void *context)
{
    unsigned count = 0;
    g_autoptr(GDir) folder = g_dir_open(g_getenv("GOLDEN"), 0, NULL);
    ck_assert_ptr_nonnull(folder);
    for (const char *name = g_dir_read_name(folder); name != NULL; name = g_dir_read_name(folder)) {
        g_autofree char *path = g_build_filename(g_getenv("GOLDEN"), name, NULL);
        golden opened = golden_open(path);
        take(&opened, context);
        golden_close(&opened);
        count++;
    }
    return count;
}

static void compare_file(golden *opened, void *context)
{
    const bool is_written = *(const bool *)context;
    g_autofree char *timeline = timeline_of(opened);
    if (is_written) {
        golden_write(opened, timeline);
    } else {
        compare(opened, timeline);
    }
}

TEST(timelines_are_what_they_were)
{
    bool is_written = g_getenv("GOLDEN_WRITE") != NULL;
    ck_assert_uint_ge(each_file(compare_file, &is_written), 15);
}

static void take_words(golden *opened, void *context)
{
    GString *const all = context;
    const char *const text = g_hash_table_lookup(opened->parts, "drawn.plan");
    if (text != NULL) {
        g_string_append(all, text);
    }
    g_string_append(all, part_of(opened, "timeline"));
}

TEST(they_have_every_kind_and_gesture)
{
    static const char *const words[] = {
        "relay",     "lamp",     "stepper",     "strip",        "sender",   "pressed",  " or repeated",
        "held:",     "held for", "tapped:",     "tapped twice", "released", "at start", "while held",
        "toggle",    "pulse",    "fade to",     "brighter",     "dimmer",   "turn",     "turn back",
        "run",       "run back", "go to",       " stop",        "fill",     "show",     "brightness",
        "palette d", "chase",    "blend",       "breathe",      "sparkle",  "frames",   " moves",
        " shows ",   " sends ",  " stands at ", " of 256",      "at step",
    };
    g_autoptr(GString) all = g_string_new(NULL);
    (void)each_file(take_words, all);
    for (size_t i = 0; i < G_N_ELEMENTS(words); i++) {
        ck_assert_msg(strstr(all->str, words[i]) != NULL, "no golden timeline has '%s'", words[i]);
    }
}

/* Random plans have orders that no example has; the tool has texts for all of them. */
static void try_verbs(golden *opened, void *context)
{
    (void)context;
    g_autofree char *plan_path = NULL;
    g_autofree char *script_path = NULL;
    find_files(opened, &plan_path, &script_path);
    g_auto(said) heard = run_shell("$DROMIKOS rehearse '%s' '%s'", plan_path, script_path);
    ck_assert_msg(heard.code == 0 || heard.code == 1, "rehearse %s: %s", opened->path,
                  heard.err); /* 1: some presses were not received */
    ck_assert_contains(heard.out, " s\n");
    said_free(&heard);
    heard = run_shell("$DROMIKOS rehearse --format jsonl '%s' '%s' | tail -n 1", plan_path, script_path);
    ck_assert_msg(heard.out[0] == '{', "%s: %s", opened->path, heard.out);
    said_free(&heard);
    heard = run_shell("$DROMIKOS vet '%s'", plan_path);
    ck_assert_msg(heard.code == 0 || heard.code == 1, "vet %s: %s", opened->path, heard.err);
    said_free(&heard);
    g_autofree char *folder = write_file("baked.txt", "");
    heard = run_shell("$DROMIKOS bake --anyway --into '%s.folder' '%s'", folder, plan_path);
    ck_assert_msg(heard.code == 0, "bake %s: %s", opened->path, heard.err);
}

TEST(every_verb_takes_them)
{
    (void)each_file(try_verbs, NULL);
}

SUITE("golden")
