/* ear: a program for a board that prints what its receiver hears. Its sources lie in this tool. */
#include "cli/io/io.h"

#include "cli/io/files.h"
#include "cli/verbs/verbs.h"

#include "plan/board/boards.h"
#include "plan/text/report.h"

#include <gio/gio.h>
#include <string.h>

#define ROOT "/shipped"

/* The file by which an ear's folder is recognised: such a folder may be written again. */
#define MARK "src/ports/avr/ear/ear.c"

/* Where a shipped file goes. The sketch has the folder's name, as the IDE wants it; a main() would be in its
 * way. */
static char *target_of(const char *file, const char *name)
{
    static const struct {
        const char *file;
        const char *target;
    } moved[] = {{"ports/avr/ear/Makefile", "Makefile"},
                 {"ports/avr/ear/main.c", "program/main.c"},
                 {"LICENSE", "LICENSE"}};
    for (size_t i = 0; i < G_N_ELEMENTS(moved); i++) {
        if (strcmp(file, moved[i].file) == 0) {
            return g_strdup(moved[i].target);
        }
    }
    return strcmp(file, "ports/avr/ear/ear.ino") == 0 ? g_strconcat(name, ".ino", NULL)
                                                      : g_strconcat("src/", file, NULL);
}

static char *config_for(const board_pin *pin)
{
    return g_strdup_printf("/* How the library is compiled for this ear. */\n"
                           "#ifndef DROMIKOS_DROM_CONFIG_H\n"
                           "#define DROMIKOS_DROM_CONFIG_H\n\n"
                           "/* The receiver's output is on pin %s. Pins A0 to A5 are 14 to 19. */\n"
                           "#define DROM_RECEIVER_PIN %u\n\n"
                           "#endif\n",
                           pin->name, pin->number);
}

static bool write_one(const char *file, const char *folder, const char *name, const board_pin *pin)
{
    g_autofree char *resource = g_strconcat(ROOT "/", file, NULL);
    g_autofree char *target = target_of(file, name);
    g_autofree char *path = g_build_filename(folder, target, NULL);
    if (strcmp(file, "include/dromikos/drom_config.h") == 0) {
        g_autofree char *config = config_for(pin);
        return write_into_folder("ear", path, config);
    }
    g_autoptr(GBytes) bytes = g_resources_lookup_data(resource, G_RESOURCE_LOOKUP_FLAGS_NONE, NULL);
    return bytes != NULL && write_into_folder("ear", path, g_bytes_get_data(bytes, NULL));
}

/* Writes all that is shipped, one folder of the resources after another: the one that is named "" first. */
static bool write_all(const char *folder, const char *name, const board_pin *pin)
{
    g_autoptr(GPtrArray) below = g_ptr_array_new_with_free_func(g_free);
    bool is_written = true;
    g_ptr_array_add(below, g_strdup(""));
    for (guint i = 0; is_written && i < below->len; i++) {
        g_autofree char *path = g_strconcat(ROOT "/", below->pdata[i], NULL);
        g_auto(GStrv) children = g_resources_enumerate_children(path, G_RESOURCE_LOOKUP_FLAGS_NONE, NULL);
        for (char **child = children; is_written && *child != NULL; child++) {
            g_autofree char *file = g_strconcat(below->pdata[i], *child, NULL);
            if (g_str_has_suffix(file, "/")) {
                g_ptr_array_add(below, g_steal_pointer(&file));
            } else {
                is_written = write_one(file, folder, name, pin);
            }
        }
    }
    return is_written;
}

/* A new folder, an empty one, or an ear's. */
static bool is_free(const char *folder)
{
    g_autofree char *mark = g_build_filename(folder, MARK, NULL);
    g_autoptr(GError) error = NULL;
    if (!g_file_test(folder, G_FILE_TEST_EXISTS) || g_file_test(mark, G_FILE_TEST_EXISTS)) {
        return true;
    }
    g_autoptr(GDir) entries = g_dir_open(folder, 0, &error);
    if (entries == NULL) {
        complain("ear", "%s", error->message);
        return false;
    }
    if (g_dir_read_name(entries) != NULL) {
        complain("ear",
                 "the folder %s isn't empty, and isn't an ear's; nothing was written. Name one that doesn't "
                 "exist yet",
                 folder);
        return false;
    }
    return true;
}

/* The folder's own name, which the IDE wants to be plain. NULL, and reported, when it isn't. */
static char *sketch_name(const char *folder)
{
    g_autofree char *absolute = g_canonicalize_filename(folder, NULL);
    g_autofree char *name = g_path_get_basename(absolute);
    if (strspn(name, G_CSET_A_2_Z G_CSET_a_2_z G_CSET_DIGITS "_-") != strlen(name) || strlen(name) > 63) {
        complain("ear",
                 "a sketch can't be called '%s': the IDE wants up to 63 letters, digits, '_' and '-' for a "
                 "folder's name",
                 name);
        return NULL;
    }
    return g_steal_pointer(&name);
}

static const board *find_board(const char *id)
{
    const board *const chosen = board_by_id(id, 0);
    if (chosen == NULL) {
        g_autofree char *hint = did_you_mean(id, board_ids());
        complain("ear", "there is no board '%s'; there is an ear for mega328 (ATmega328P at 16 MHz)%s", id,
                 hint);
    } else if (chosen->port == NULL) {
        complain("ear",
                 "there is no ear for %s yet, but for mega328 (ATmega328P at 16 MHz): any capture of the "
                 "line can be read by "
                 "'dromikos listen', too",
                 id);
        return NULL;
    }
    return chosen;
}

/* The board's serial line, over which the ear speaks, is on pins 0 and 1. */
static const board_pin *find_pin(const board *chosen, const char *name)
{
    enum { SERIAL_PINS = 2 };
    const board_pin *const pin = board_pin_by_name(chosen, name);
    if (pin == NULL) {
        complain("ear", "the board %s has no pin '%s'; it has %s", chosen->id, name, chosen->pins_text);
    } else if (pin->number < SERIAL_PINS) {
        complain("ear",
                 "pin %s is the serial line's, over which the ear speaks; take another, 8 for the best times",
                 name);
        return NULL;
    }
    return pin;
}

static int write_ear(const board *chosen, const board_pin *pin, const char *folder)
{
    g_autofree char *name = sketch_name(folder);
    if (name == NULL) {
        return EXIT_WRONG;
    }
    if (!is_free(folder) || !write_all(folder, name, pin)) {
        return EXIT_FILE;
    }
    put_text("%s: an ear for the %s, with the receiver on pin %s%s\n", folder, chosen->chip, pin->name,
             pin->has_latch ? "" : " (on pin 8 a timer would stamp its edges, to half a µs)");
    put_text("next: 'make' in %s writes ear.hex; or open %s/%s.ino in the IDE. Load it, and then:\n"
             "      dromikos listen /dev/ttyUSB0\n",
             folder, folder, name);
    return EXIT_DONE;
}

int ear_verb(int argc, char **argv)
{
    g_autofree char *board_id = NULL;
    g_autofree char *pin_name = NULL;
    g_autofree char *folder = NULL;
    const GOptionEntry entries[] = {
        {"board", 0, 0, G_OPTION_ARG_STRING, &board_id, "The board: mega328", "BOARD"},
        {"receiver", 0, 0, G_OPTION_ARG_STRING, &pin_name,
         "The pin of the receiver's output, as it is printed on the board", "PIN"},
        {"into", 0, 0, G_OPTION_ARG_FILENAME, &folder,
         "The folder for the program; created if it doesn't exist", "FOLDER"},
        {0},
    };
    int code = EXIT_WRONG;
    if (!take_options(
            "--board mega328 --receiver PIN --into FOLDER",
            "Writes a program for your board that prints what its receiver receives, at 115200 baud, for\n"
            "'listen' and 'enrol' to read. The folder has a Makefile for avr-gcc, and opens as a sketch\n"
            "in an IDE.",
            entries, 0, 0, &argc, argv, &code)) {
        return code;
    }
    if (board_id == NULL || pin_name == NULL || folder == NULL) {
        complain("ear", "say which board, which pin, and where to: dromikos ear --board mega328 --receiver 8 "
                        "--into my-ear");
        return EXIT_WRONG;
    }
    const board *const chosen = find_board(board_id);
    const board_pin *const pin = chosen != NULL ? find_pin(chosen, pin_name) : NULL;
    return finish("ear", pin != NULL ? write_ear(chosen, pin, folder) : EXIT_WRONG);
}
