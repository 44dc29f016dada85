/* wave: writes a receiver's output during a key's press. */
#include "cli/io/io.h"

#include "cli/rehearse/bench_line.h"
#include "cli/verbs/verbs.h"

#include "plan/handset/sheet.h"

#include <string.h>

/* Parses a whole number from min to max, decimal or with 0x. Reports errors. */
static bool take_number(const char *what, const char *text, uint32_t min, uint32_t max, uint32_t *value)
{
    const bool is_hex = g_ascii_strncasecmp(text, "0x", 2) == 0;
    guint64 number = 0;
    if (!g_ascii_string_to_unsigned(is_hex ? text + 2 : text, is_hex ? 16 : 10, min, max, &number, NULL)) {
        complain("wave", "the %s '%s' must be a whole number from %u to %u (0x%x)", what, text, min, max,
                 max);
        return false;
    }
    *value = (uint32_t)number;
    return true;
}

static int take_code(char **words, sim_press *press)
{
    uint32_t command = 0;
    press->waveform = waveform_by_id(words[0]);
    if (press->waveform == NULL) {
        g_autofree char *hint = waveform_hint(words[0]);
        complain("wave", "there is no protocol '%s'%s", words[0], hint);
        return EXIT_WRONG;
    }
    const drom_waveform *const waveform = press->waveform;
    press->code.protocol = waveform->protocol->number;
    if (!take_number("address", words[1], waveform->min_address, waveform->max_address,
                     &press->code.address) ||
        !take_number("command", words[2], 0, waveform->max_command, &command)) {
        return EXIT_WRONG;
    }
    press->code.command = (uint16_t)command;
    return EXIT_DONE;
}

static int take_key(char **words, sim_press *press)
{
    report *const faults = report_new();
    sheet *const keys = sheet_read(words[0], NULL, faults);
    int code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    const int row = keys != NULL ? sheet_find(keys, words[1]) : -1;
    report_print(faults, stderr);
    if (keys != NULL && report_errors(faults) == 0 && row < 0) {
        g_autofree const char **names = sheet_names(keys);
        g_autofree char *hint = did_you_mean(words[1], names);
        complain("wave", "the sheet %s has no key '%s'%s", words[0], words[1], hint);
    } else if (keys != NULL && report_errors(faults) == 0) {
        press->code = g_array_index(keys->keys, sheet_key, (guint)row).code;
        press->waveform = waveform_by_number(press->code.protocol);
        code = press->waveform != NULL ? EXIT_DONE : EXIT_NO;
        if (press->waveform == NULL) {
            complain("wave", "'%s' is known by its fingerprint alone, which can't be sent", words[1]);
        }
    }
    sheet_free(keys);
    report_free(faults);
    return code;
}

int wave_verb(int argc, char **argv)
{
    enum { LEAD_US = 50000, MAX_FRAMES = 10000, USUAL_FRAMES = -1 };
    g_autofree char *format_text = NULL;
    gint frames = USUAL_FRAMES;
    gint toggle = 0;
    const GOptionEntry entries[] = {
        {"frames", 0, 0, G_OPTION_ARG_INT, &frames, "Number of frames; those of a short press by default",
         "N"},
        {"toggle", 0, 0, G_OPTION_ARG_INT, &toggle, "The toggle bit, if the protocol has one; 0 by default",
         "0|1"},
        {"format", 0, 0, G_OPTION_ARG_STRING, &format_text, "vcd (the default) or csv", "FORMAT"},
        {0},
    };
    int code = EXIT_WRONG;
    bool is_csv = false;
    if (!take_options(
            "PROTOCOL ADDRESS COMMAND | SHEET KEY",
            "Writes the output of a receiver during a key's press, as a capture on standard output.\n"
            "\n"
            "Numbers are decimal or begin with 0x. The signal is high when idle and low during a mark.",
            entries, 2, 3, &argc, argv, &code) ||
        !take_either("wave", "format", format_text, "csv", "vcd", &is_csv)) {
        return code;
    }
    if (frames != USUAL_FRAMES && (frames < 1 || frames > MAX_FRAMES)) {
        complain("wave", "--frames is %d; it must be 1 to %d", frames, MAX_FRAMES);
        return EXIT_WRONG;
    }
    if (toggle < 0 || toggle > 1) {
        complain("wave", "--toggle is %d; it must be 0 or 1", toggle);
        return EXIT_WRONG;
    }
    if (argc == 3 && waveform_by_id(argv[1]) != NULL) {
        complain("wave", "%s needs an address and a command, as in: dromikos wave %s %s 2", argv[1], argv[1],
                 argv[2]);
        return EXIT_WRONG;
    }
    sim_press press = {.at_us = LEAD_US, .frames = frames == USUAL_FRAMES ? 0 : (unsigned)frames};
    code = argc == 4 ? take_code(argv + 1, &press) : take_key(argv + 1, &press);
    if (code == EXIT_DONE) {
        sim_bench *const bench = sim_bench_new(1);
        sim_bench_set_toggle(bench, toggle == 1);
        (void)sim_bench_press(bench, &press);
        write_line(stdout, bench, is_csv ? CAPTURE_CSV : CAPTURE_VCD);
        sim_bench_free(bench);
    }
    return finish("wave", code);
}
