/* bake: a plan becomes three C files, for a chip. */
#include "cli/io/io.h"

#include "cli/io/files.h"
#include "cli/io/here.h"
#include "cli/program/folder.h"
#include "cli/program/shipped.h"
#include "cli/verbs/verbs.h"

#include "plan/vet/vet.h"

#include "plan/bake/bake.h"
#include "plan/bake/program.h"

#include <string.h>

/* A file's name without folder and ending, as a C identifier. To be freed. */
static char *identifier_of(const char *path)
{
    char *const name = g_path_get_basename(path);
    char *const dot = strchr(name, '.');
    if (dot != NULL) {
        *dot = '\0';
    }
    g_strcanon(name, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_", '_');
    if (!g_ascii_isalpha(name[0])) {
        char *const good = g_strconcat("my_", name, NULL);
        g_free(name);
        return good;
    }
    return name;
}

/* The last line of what bake writes: by it bake finds out whether the file was changed since. To be freed. */
static char *mark_of(const char *text, gsize length)
{
    enum { DIGITS = 16 };
    g_autofree char *sum = g_compute_checksum_for_data(G_CHECKSUM_SHA256, (const guchar *)text, length);
    return g_strdup_printf("/* baked as %.*s: a change by hand is found by that */\n", DIGITS, sum);
}

static bool is_as_baked(const char *path)
{
    g_autofree char *text = NULL;
    gsize length = 0;
    if (!g_file_get_contents(path, &text, &length, NULL)) {
        return !g_file_test(path, G_FILE_TEST_IS_REGULAR);
    }
    const char *const line = length > 1 ? g_strrstr_len(text, (gssize)length - 1, "\n") : NULL;
    const gsize before = line != NULL ? (gsize)(line + 1 - text) : 0;
    g_autofree char *mark = mark_of(text, before);
    return strlen(mark) == length - before && memcmp(mark, text + before, length - before) == 0;
}

/* A file that is written. */
typedef struct part {
    char *path;
    char *text;
} part;

static void clear_part(gpointer data)
{
    g_free(((part *)data)->path);
    g_free(((part *)data)->text);
}

static void add_part(GArray *parts, const char *folder, const char *name, const char *ending, char *text)
{
    g_autofree char *file = g_strconcat(name, ending, NULL);
    g_autofree char *mark = mark_of(text, strlen(text));
    const part added = {g_build_filename(folder, file, NULL), g_strconcat(text, mark, NULL)};
    g_array_append_val(parts, added);
    g_free(text);
}

/* Nothing is written unless all of it may be. */
static int write_parts(const GArray *parts, const plan *loaded, bool is_anyway)
{
    for (guint i = 0; i < parts->len; i++) {
        const char *const path = g_array_index(parts, part, i).path;
        if (is_read_by_plan("bake", path, loaded)) {
            return EXIT_WRONG;
        }
        if (!is_anyway && !is_as_baked(path)) {
            complain(
                "bake",
                "%s was changed since it was baked, or was never baked; nothing was written. Move it away, "
                "or have it written over with --anyway",
                path);
            return EXIT_NO;
        }
    }
    for (guint i = 0; i < parts->len; i++) {
        const part *const one = &g_array_index(parts, part, i);
        if (!write_into_folder("bake", one->path, one->text)) {
            return EXIT_FILE;
        }
        put_text("%s\n", one->path);
    }
    return EXIT_DONE;
}

/* Reports what fails, and does not bake. */
static bool is_worth_baking(const plan *loaded)
{
    vet_result *const result = vet_plan(loaded);
    const GPtrArray *const lists[] = {result->times, result->pins, result->currents};
    const bool is_good = vet_worst(result) != VET_FAILS;
    for (gsize i = 0; i < G_N_ELEMENTS(lists) && !is_good; i++) {
        for (guint j = 0; j < lists[i]->len; j++) {
            const vet_finding *const finding = g_ptr_array_index(lists[i], j);
            if (finding->verdict == VET_FAILS) {
                g_autofree char *text = vet_finding_text(finding);
                complain("bake", "%s: %s", finding->about, text);
            }
        }
    }
    if (!is_good) {
        complain("bake", "this plan would not work, and nothing was written; 'dromikos vet' says more. "
                         "--anyway bakes it nevertheless");
    }
    vet_free(result);
    return is_good;
}

/* Writes a text of a program and frees it. What is baked lies in src/plan/, from which the library's headers
 * are reached. */
static bool put_program_part(program_folder *folder, const char *before, const char *name, const char *after,
                             char *text)
{
    g_autofree char *file = g_strconcat(before, name, after, NULL);
    g_autoptr(GString) moved = g_string_new(text);
    g_free(text);
    (void)g_string_replace(moved, "#include \"dromikos/", "#include \"../include/dromikos/", 0);
    return folder_put(folder, file, moved->str);
}

static bool write_program(program_folder *folder, const plan *loaded, const char *name, bool is_sketch)
{
    const board *const chosen = plan_board(loaded);
    g_autofree char *tables = plan_bake_source(loaded, name);
    g_autofree char *functions = program_functions(loaded, name);
    g_autofree char *config = plan_bake_config(loaded, name);
    g_autofree char *own = is_sketch ? program_sketch(loaded, name) : program_main(loaded, name);
    g_autofree char *own_file =
        is_sketch ? g_strconcat(folder_name(folder), ".ino", NULL) : g_strdup("main.c");
    g_autoptr(GPtrArray) texts = g_ptr_array_new_with_free_func(g_free);
    g_ptr_array_add(texts, g_strdup(tables));
    g_ptr_array_add(texts, g_strdup(functions));
    for (unsigned i = 0; i < plan_output_count(loaded); i++) {
        g_ptr_array_add(texts, g_strconcat("drom_", plan_output_kind(loaded, i)->name, NULL));
    }
    g_ptr_array_add(texts, NULL);
    g_autoptr(GPtrArray) files = shipped_needed((const char *const *)texts->pdata, "ports/avr");
    return folder_put_sources(folder, files, config) &&
           put_program_part(folder, "src/plan/", name, "_plan.h", plan_bake_header(loaded, name)) &&
           put_program_part(folder, "src/plan/", name, "_plan.c", g_steal_pointer(&tables)) &&
           put_program_part(folder, "src/plan/", name, ".h", program_header(loaded, name)) &&
           put_program_part(folder, "src/plan/", name, ".c", g_steal_pointer(&functions)) &&
           (is_sketch ||
            put_program_part(folder, "", "Makefile", "", program_makefile(chosen, plan_mhz(loaded), name))) &&
           folder_put_once(folder, own_file, own) && folder_finish(folder);
}

static void say_next(const program_folder *folder, const char *path, const plan *loaded, bool is_sketch)
{
    const char *const line = plan_board(loaded)->has_usb ? "/dev/ttyACM0" : "/dev/ttyUSB0";
    if (is_sketch) {
        put_text("%s: a sketch for the board %s; %s.ino is yours to change\n"
                 "next: open %s/%s.ino in the IDE, choose the board, and load it\n",
                 path, plan_board(loaded)->id, folder_name(folder), path, folder_name(folder));
    } else {
        put_text("%s: a program for the board %s; main.c is yours to change\n"
                 "next: make -C %s flash PORT=%s\n",
                 path, plan_board(loaded)->id, path, line);
    }
}

static int bake_program(const plan *loaded, const char *into, const char *name, bool is_sketch)
{
    g_autofree char *path =
        into != NULL ? g_strdup(into) : g_strconcat(name, is_sketch ? "-sketch" : "-program", NULL);
    if (plan_board(loaded)->port == NULL) {
        complain(
            "bake",
            "the library has no port for the %s; without --as, bake writes the tables for a port of yours",
            plan_board(loaded)->chip);
        return EXIT_NO;
    }
    if (!is_sketch && (drom_plan_uses(plan_tables(loaded)) & DROM_USES(HID)) != 0) {
        complain("bake", "a keyboard needs the USB of the IDE's core: bake it --as sketch");
        return EXIT_NO;
    }
    int code = EXIT_FILE;
    program_folder *const folder = folder_open("bake", path, is_sketch ? "a sketch" : "a program", &code);
    const bool is_written = folder != NULL && write_program(folder, loaded, name, is_sketch);
    if (is_written) {
        say_next(folder, path, loaded, is_sketch);
    }
    folder_free(folder);
    return is_written ? EXIT_DONE : code;
}

/* What bake makes of a plan. */
typedef enum form { FORM_TABLES, FORM_SKETCH, FORM_PROGRAM } form;

static int bake(const char *path, const char *folder, const char *name, form as, bool is_anyway)
{
    report *const faults = report_new();
    plan *const loaded = plan_load(path, faults);
    report_print(faults, stderr);
    int code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    if (loaded == NULL) {
        return code;
    }
    if (!is_anyway && !is_worth_baking(loaded)) {
        plan_free(loaded);
        return EXIT_NO;
    }
    if (as != FORM_TABLES) {
        code = bake_program(loaded, folder, name, as == FORM_SKETCH);
        plan_free(loaded);
        return code;
    }
    g_autoptr(GArray) parts = g_array_new(FALSE, FALSE, sizeof(part));
    g_array_set_clear_func(parts, clear_part);
    folder = folder != NULL ? folder : ".";
    add_part(parts, folder, name, "_plan.h", plan_bake_header(loaded, name));
    add_part(parts, folder, name, "_plan.c", plan_bake_source(loaded, name));
    add_part(parts, folder, "drom_config", ".h", plan_bake_config(loaded, name));
    code = write_parts(parts, loaded, is_anyway);
    plan_free(loaded);
    return code;
}

int bake_verb(int argc, char **argv)
{
    g_autofree char *folder = NULL;
    g_autofree char *name = NULL;
    g_autofree char *as_text = NULL;
    gboolean is_anyway = FALSE;
    const GOptionEntry entries[] = {
        {"as", 0, 0, G_OPTION_ARG_STRING, &as_text,
         "Write a whole folder: a sketch for the IDE, or a program with a Makefile", "sketch|program"},
        {"into", 0, 0, G_OPTION_ARG_FILENAME, &folder,
         "The folder for the files, created if missing; by default the current one, with --as NAME-sketch or "
         "NAME-program",
         "FOLDER"},
        {"name", 0, 0, G_OPTION_ARG_STRING, &name, "The name of the tables; the plan's file name by default",
         "NAME"},
        {"anyway", 0, 0, G_OPTION_ARG_NONE, &is_anyway,
         "Bake although vet says that it would not work, and overwrite changed files", NULL},
        {0},
    };
    int code = EXIT_WRONG;
    bool is_sketch = false;
    if (!take_options(
            "PLAN",
            "Writes NAME_plan.c and NAME_plan.h, the plan as constant tables, the same that a rehearsal\n"
            "runs; and drom_config.h, which configures the library for this plan. See docs/porting.md.\n"
            "With --as, writes a folder that can be compiled and loaded: see docs/boards.md. Without PLAN, "
            "the\n"
            "only plan in the folder becomes a sketch.",
            entries, 0, 1, &argc, argv, &code) ||
        (as_text != NULL && !take_either("bake", "as", as_text, "sketch", "program", &is_sketch))) {
        return code;
    }
    /* Without a plan's name, it is the folder's, and its sketch. */
    g_autoptr(GPtrArray) words = words_with_plan("bake", argc, argv, false);
    if (words == NULL) {
        return EXIT_WRONG;
    }
    const char *const path = words->pdata[1];
    g_autofree char *identifier = identifier_of(name != NULL ? name : path);
    const bool is_whole = as_text != NULL || argc < 2;
    const form as = !is_whole ? FORM_TABLES : is_sketch || as_text == NULL ? FORM_SKETCH : FORM_PROGRAM;
    return finish("bake", bake(path, folder, identifier, as, is_anyway));
}
