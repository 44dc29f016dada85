/* ear: a program for a board that prints what its receiver hears. Its sources lie in this tool. */
#include "cli/io/io.h"

#include "cli/program/folder.h"
#include "cli/program/shipped.h"
#include "cli/verbs/verbs.h"

#include "plan/bake/program.h"
#include "plan/board/boards.h"
#include "plan/text/report.h"

#include <string.h>

#define EAR "ports/avr/ear/"

enum { EAR_FAST_MHZ = 16 };

static char *config_for(const board *chosen, const board_pin *pin)
{
    g_autofree char *chip = g_ascii_strup(chosen->chip, -1);
    return g_strdup_printf("/* How the library is compiled for this ear. */\n"
                           "#ifndef DROMIKOS_DROM_CONFIG_H\n"
                           "#define DROMIKOS_DROM_CONFIG_H\n\n"
                           "#define DROM_CHIP DROM_CHIP_%s\n"
                           "#define DROM_MHZ %g\n\n"
                           "/* The receiver's output is on pin %s. */\n"
                           "#define DROM_RECEIVER_PIN %u\n\n"
                           "#endif\n",
                           chip, chosen->mhz, pin->name, pin->number);
}

/* The sources, and the sketch, which has the folder's name. */
static bool write_all(program_folder *folder, const board *chosen, const board_pin *pin)
{
    static const char *const own[] = {"ear.h", "ear.c", "main.c"};
    const char *const texts[] = {shipped_text(EAR "ear.c"), shipped_text(EAR "main.c"), NULL};
    g_autoptr(GPtrArray) files = shipped_needed(texts, "ports/avr");
    for (gsize i = 0; i < G_N_ELEMENTS(own); i++) {
        g_ptr_array_add(files, g_strconcat(EAR, own[i], NULL));
    }
    g_autofree char *config = config_for(chosen, pin);
    g_autofree char *makefile = program_makefile(chosen, chosen->mhz, "ear");
    g_autofree char *sketch = g_strconcat(folder_name(folder), ".ino", NULL);
    return folder_put_sources(folder, files, config) && folder_put(folder, "Makefile", makefile) &&
           folder_put(folder, sketch, shipped_text(EAR "ear.ino")) && folder_finish(folder);
}

static const board *find_board(const char *id, double mhz)
{
    const board *const chosen = board_by_id(id, mhz);
    if (chosen == NULL) {
        g_autofree char *hint = did_you_mean(id, board_ids());
        g_autofree char *known = g_strjoinv(", ", (char **)board_ids());
        complain("ear", "there is no board '%s'; known are %s%s", id, known, hint);
        return NULL;
    }
    if (chosen->port == NULL) {
        complain("ear",
                 "there is no ear for %s yet; any capture of the line can be read by 'dromikos listen', too",
                 id);
        return NULL;
    }
    if (mhz > 0 && mhz != chosen->mhz) {
        complain("ear", "the board %s runs at %g MHz, not at %g", id, chosen->mhz, mhz);
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
        return NULL;
    }
    if (pin->number < SERIAL_PINS && !chosen->has_usb) {
        complain("ear",
                 "pin %s is the serial line's, over which the ear speaks; take another, %s for example", name,
                 chosen->receiver);
        return NULL;
    }
    if (!pin->has_latch && !pin->has_stamp) {
        complain("ear", "no interrupt of the %s stamps the edges of pin %s; take pin %s, for example",
                 chosen->chip, name, chosen->receiver);
        return NULL;
    }
    return pin;
}

static int write_ear(const board *chosen, const board_pin *pin, const char *path)
{
    int code = EXIT_FILE;
    program_folder *const folder = folder_open("ear", path, "an ear", &code);
    if (folder == NULL || !write_all(folder, chosen, pin)) {
        folder_free(folder);
        return code;
    }
    const board_pin *const best = board_pin_by_name(chosen, chosen->receiver);
    g_autofree char *hint =
        pin->has_latch || !best->has_latch
            ? g_strdup("")
            : g_strdup_printf(" (on pin %s a timer would stamp its edges, to half a µs)", best->name);
    put_text("%s: an ear for the %s, with the receiver on pin %s%s\n", path, chosen->chip, pin->name, hint);
    put_text("next: open %s/%s.ino in the IDE and load it, or 'make -C %s flash PORT=...'; and then:\n"
             "      dromikos listen %s%s\n",
             path, folder_name(folder), path, chosen->has_usb ? "/dev/ttyACM0" : "/dev/ttyUSB0",
             chosen->mhz < EAR_FAST_MHZ ? " --baud 57600" : "");
    folder_free(folder);
    return EXIT_DONE;
}

int ear_verb(int argc, char **argv)
{
    g_autofree char *board_id = NULL;
    g_autofree char *pin_name = NULL;
    g_autofree char *folder = NULL;
    double mhz = 0;
    const GOptionEntry entries[] = {
        {"board", 0, 0, G_OPTION_ARG_STRING, &board_id,
         "The board: uno, nano, pro, mini, leonardo, micro, mega", "BOARD"},
        {"mhz", 0, 0, G_OPTION_ARG_DOUBLE, &mhz, "Its clock, if it comes with several; 16 by default", "MHZ"},
        {"receiver", 0, 0, G_OPTION_ARG_STRING, &pin_name,
         "The pin of the receiver's output, as it is printed on the board", "PIN"},
        {"into", 0, 0, G_OPTION_ARG_FILENAME, &folder,
         "The folder for the program; created if it doesn't exist", "FOLDER"},
        {0},
    };
    int code = EXIT_WRONG;
    if (!take_options(
            "--board BOARD --receiver PIN --into FOLDER",
            "Writes a program for your board that prints what its receiver receives, at 115200 baud, for\n"
            "'listen' and 'enrol' to read. The folder has a Makefile for avr-gcc, and opens as a sketch\n"
            "in an IDE.",
            entries, 0, 0, &argc, argv, &code)) {
        return code;
    }
    if (board_id == NULL || pin_name == NULL || folder == NULL) {
        complain("ear", "say which board, which pin, and where to: dromikos ear --board uno --receiver 8 "
                        "--into my-ear");
        return EXIT_WRONG;
    }
    const board *const chosen = find_board(board_id, mhz);
    const board_pin *const pin = chosen != NULL ? find_pin(chosen, pin_name) : NULL;
    return finish("ear", pin != NULL ? write_ear(chosen, pin, folder) : EXIT_WRONG);
}
