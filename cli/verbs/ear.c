/* ear: a program for a board that prints what its receiver hears. */
#include "cli/io/io.h"

#include "cli/program/ear.h"
#include "cli/verbs/verbs.h"

enum { EAR_FAST_MHZ = 16 };

static void say_next(const char *path, const ear_wish *wish)
{
    g_autofree char *absolute = g_canonicalize_filename(path, NULL);
    g_autofree char *name = g_path_get_basename(absolute);
    const board_pin *const best = board_pin_by_name(wish->board, wish->board->receiver);
    g_autofree char *hint =
        wish->pin->has_latch || !best->has_latch
            ? g_strdup("")
            : g_strdup_printf(" (on pin %s a timer would stamp its edges, to half a µs)", best->name);
    put_text("%s: an ear for the %s, with the receiver on pin %s%s\n", path, wish->board->chip,
             wish->pin->name, hint);
    put_text("next: open %s/%s.ino in the IDE and load it, or 'make -C %s flash PORT=...'; and then:\n"
             "      dromikos listen %s%s\n",
             path, name, path, wish->board->has_usb ? "/dev/ttyACM0" : "/dev/ttyUSB0",
             wish->board->mhz < EAR_FAST_MHZ ? " --baud 57600" : "");
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
    ear_wish wish = {0};
    if (!ear_wish_take("ear", board_id, mhz, pin_name, &wish)) {
        return finish("ear", EXIT_WRONG);
    }
    if (wish.board->port == NULL) {
        complain("ear",
                 "there is no ear for %s yet; any capture of the line can be read by 'dromikos listen', too",
                 board_id);
        return finish("ear", EXIT_WRONG);
    }
    code = ear_write("ear", folder, &wish);
    if (code == EXIT_DONE) {
        say_next(folder, &wish);
    }
    return finish("ear", code);
}
