/* Its sources lie in this tool. */
#include "cli/program/ear.h"

#include "cli/io/io.h"

#include "cli/program/folder.h"
#include "cli/program/shipped.h"

#include "plan/bake/program.h"
#include "plan/model/plan.h"
#include "plan/text/report.h"

#include <string.h>

#define EAR "ports/avr/ear/"

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

static const board *find_board(const char *verb, const char *id, double mhz)
{
    const board *const chosen = board_by_id(id, mhz);
    if (chosen == NULL) {
        g_autofree char *hint = did_you_mean(id, board_ids());
        g_autofree char *known = g_strjoinv(", ", (char **)board_ids());
        complain(verb, "there is no board '%s'; known are %s%s", id, known, hint);
        return NULL;
    }
    if (mhz > 0 && mhz != chosen->mhz) {
        complain(verb, "the board %s runs at %g MHz, not at %g", id, chosen->mhz, mhz);
        return NULL;
    }
    return chosen;
}

/* The board's serial line, over which the ear speaks, is on pins 0 and 1. */
static const board_pin *find_pin(const char *verb, const board *chosen, const char *name)
{
    enum { SERIAL_PINS = 2 };
    const board_pin *const pin = board_pin_by_name(chosen, name);
    if (pin == NULL) {
        complain(verb, "the board %s has no pin '%s'; it has %s", chosen->id, name, chosen->pins_text);
        return NULL;
    }
    if (pin->number < SERIAL_PINS && !chosen->has_usb) {
        complain(verb, "pin %s is the serial line's, over which the ear speaks; take another, %s for example",
                 name, chosen->receiver);
        return NULL;
    }
    if (!pin->has_latch && !pin->has_stamp) {
        complain(verb, "no interrupt of the %s stamps the edges of pin %s; take pin %s, for example",
                 chosen->chip, name, chosen->receiver);
        return NULL;
    }
    return pin;
}

bool ear_wish_take(const char *verb, const char *board_id, double mhz, const char *pin_name, ear_wish *wish)
{
    if (board_id == NULL) {
        g_autofree char *known = g_strjoinv(", ", (char **)board_ids());
        complain(verb, "say which board, as in --board uno; known are %s", known);
        return false;
    }
    const board *const chosen = find_board(verb, board_id, mhz);
    if (chosen == NULL) {
        return false;
    }
    const char *const best = chosen->receiver != NULL ? chosen->receiver : chosen->pins[2].name;
    *wish = (ear_wish){chosen, mhz, find_pin(verb, chosen, pin_name != NULL ? pin_name : best)};
    return wish->pin != NULL;
}

int ear_baud(const char *plan_path)
{
    enum { BAUD = 115200, SLOW_BAUD = 57600, FAST_MHZ = 16 };
    report *const faults = report_new();
    plan *const loaded = plan_path != NULL ? plan_load(plan_path, faults) : NULL;
    const bool is_slow = loaded != NULL && plan_board(loaded)->port != NULL && plan_mhz(loaded) < FAST_MHZ;
    plan_free(loaded);
    report_free(faults);
    return is_slow ? SLOW_BAUD : BAUD;
}

int ear_write(const char *verb, const char *path, const ear_wish *wish)
{
    int code = EXIT_FILE;
    program_folder *const folder = folder_open(verb, path, "an ear", &code);
    if (folder == NULL || !write_all(folder, wish->board, wish->pin)) {
        folder_free(folder);
        return code;
    }
    folder_free(folder);
    return EXIT_DONE;
}
