/* begin: a folder for a new plan, with all that the first steps need. */
#include "cli/io/io.h"

#include "cli/io/files.h"
#include "cli/program/ear.h"
#include "cli/program/rules.h"
#include "cli/verbs/verbs.h"

#include "plan/board/boards.h"

#include <string.h>

/* A pin that may drive something: any but the receiver's, the serial line's and the LED's. */
static const board_pin *free_pin(const board *chosen, const board_pin *receiver)
{
    const board_pin *found = chosen->pins;
    while (found[1].name != NULL && (found == receiver || found->note != NULL || found->is_input_only)) {
        found++;
    }
    return found;
}

static char *skeleton(const char *title, const board *chosen, double mhz, const board_pin *receiver)
{
    g_autofree char *clock = mhz > 0 ? g_strdup_printf(" at %g MHz", mhz) : g_strdup("");
    return g_strdup_printf(
        "# Begun with 'dromikos begin'. Say here what is wired to the board, and what each key of "
        "the remote does.\n\n"
        "plan \"%s\"\nboard %s%s\nreceiver on pin %s\n\n"
        "relay light on pin %s, on a relay board\n\n"
        "# 'dromikos enrol remote' adds the remote, and a rule for each of its keys.\n",
        title, chosen->id, clock, receiver->name, free_pin(chosen, receiver)->name);
}

/* The folder's name is the plan's. NULL, and reported, if it can't be. */
static char *name_for(const char *folder)
{
    g_autofree char *absolute = g_canonicalize_filename(folder, NULL);
    g_autofree char *name = g_path_get_basename(absolute);
    if (strspn(name, G_CSET_A_2_Z G_CSET_a_2_z G_CSET_DIGITS "_-") != strlen(name) ||
        !g_ascii_isalpha(name[0])) {
        complain("begin",
                 "a plan can't be called '%s': letters, digits, '_' and '-' make a name that every IDE takes",
                 name);
        return NULL;
    }
    return g_steal_pointer(&name);
}

static bool write_text_here(const char *folder, const char *name, const char *ending, const char *text)
{
    g_autofree char *file = g_strconcat(name, ending, NULL);
    g_autofree char *path = g_build_filename(folder, file, NULL);
    return write_into_folder("begin", path, text);
}

/* A handset that is known already: its sheet goes into the folder, under its own name. */
static bool take_sheet(const char *folder, const char *plan_path, const char *sheet_path)
{
    g_autofree char *text = NULL;
    g_autoptr(GError) error = NULL;
    g_autofree char *file = g_path_get_basename(sheet_path);
    g_autofree char *handset = handset_of(file);
    if (!g_file_get_contents(sheet_path, &text, NULL, &error)) {
        complain("begin", "%s", error->message);
        return false;
    }
    return write_text_here(folder, handset, ".csv", text) && rules_add("begin", plan_path, handset);
}

static int begin(const char *folder, const ear_wish *wish, const char *sheet_path)
{
    g_autofree char *name = name_for(folder);
    if (name == NULL) {
        return EXIT_WRONG;
    }
    g_autoptr(GDir) there = g_dir_open(folder, 0, NULL);
    if (g_file_test(folder, G_FILE_TEST_EXISTS) && (there == NULL || g_dir_read_name(there) != NULL)) {
        complain("begin",
                 "%s exists and isn't an empty folder; nothing was written. Name one that doesn't exist yet",
                 folder);
        return EXIT_FILE;
    }
    g_autofree char *plan_text = skeleton(name, wish->board, wish->mhz, wish->pin);
    g_autofree char *plan_file = g_strconcat(name, ".plan", NULL);
    g_autofree char *plan_path = g_build_filename(folder, plan_file, NULL);
    g_autofree char *ear_name = g_strconcat(name, "-ear", NULL);
    g_autofree char *ear_path = g_build_filename(folder, ear_name, NULL);
    if (!write_into_folder("begin", plan_path, plan_text) ||
        !write_text_here(folder, name, ".csv", "at_ms,handset,key,held_ms,expect\n") ||
        (sheet_path != NULL && !take_sheet(folder, plan_path, sheet_path))) {
        return EXIT_FILE;
    }
    const int code = wish->board->port != NULL ? ear_write("begin", ear_path, wish) : EXIT_DONE;
    if (code != EXIT_DONE) {
        return code;
    }
    put_text("%s  the plan: what is wired, and what each key does\n", plan_path);
    put_text("%s/%s.csv   a script, to rehearse it with\n", folder, name);
    if (wish->board->port == NULL) {
        put_text("next: cd %s; the library has no program for the %s yet, but 'dromikos rehearse' and "
                 "'dromikos vet'\n",
                 folder, wish->board->chip);
        return code;
    }
    put_text("%s   the ear, a program that prints what the receiver receives\n", ear_path);
    put_text(
        "next: cd %s; load %s/%s.ino in the IDE, or 'make -C %s flash PORT=...'; then: dromikos listen\n",
        folder, ear_name, ear_name, ear_name);
    return code;
}

int begin_verb(int argc, char **argv)
{
    g_autofree char *board_id = NULL;
    g_autofree char *pin_name = NULL;
    g_autofree char *sheet_path = NULL;
    double mhz = 0;
    const GOptionEntry entries[] = {
        {"board", 0, 0, G_OPTION_ARG_STRING, &board_id,
         "The board: uno, nano, pro, mini, leonardo, micro, mega", "BOARD"},
        {"mhz", 0, 0, G_OPTION_ARG_DOUBLE, &mhz, "Its clock, if it comes with several; 16 by default", "MHZ"},
        {"receiver", 0, 0, G_OPTION_ARG_STRING, &pin_name,
         "The pin of the receiver's output, as it is printed on the board; by default the best one", "PIN"},
        {"sheet", 0, 0, G_OPTION_ARG_FILENAME, &sheet_path,
         "A handset's sheet that exists already: a rule for each key", "FILE"},
        {0},
    };
    int code = EXIT_WRONG;
    if (!take_options(
            "FOLDER --board BOARD [--receiver PIN]",
            "Makes a folder with a plan to fill in, a script, and the ear: a program that prints what the\n"
            "receiver receives. In that folder, the other verbs find plan, script and serial line by\n"
            "themselves.",
            entries, 1, 1, &argc, argv, &code)) {
        return code;
    }
    ear_wish wish = {0};
    if (!ear_wish_take("begin", board_id, mhz, pin_name, &wish)) {
        return finish("begin", EXIT_WRONG);
    }
    return finish("begin", begin(argv[1], &wish, sheet_path));
}
