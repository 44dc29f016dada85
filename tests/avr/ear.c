/* The ear in a simulated chip: its output for keys of each protocol is compared with the signal at its
 * receiver, run by run, and read over a pseudo-terminal by 'dromikos listen'; then the test enrols a handset,
 * from pins to sheet, and types the names. Prints a line per check; exit code 1 if one is wrong. ear ELF PIN
 * DROMIKOS FOLDER [here]: with 'here' the folder is one that 'dromikos begin' made, and is the current one,
 * in which the tool finds line and sheet by itself. */
#include "press.h"

#include "../terminal.h"
#include "dromikos/dromikos.h"

#include <math.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

enum { CYCLES_PER_MS = 16000, MAX_EDGES = 4000, MAX_TEXT = 65536, RELAY_A = 4, RELAY_B = 7, HELD_MS = 500 };

/* The chip, and its serial line with a program of the host at the other end. */
typedef struct board {
    chip *mcu;
    terminal_line line;
    bool has_line;
    char text[MAX_TEXT]; /* the newest output */
    unsigned length;
} board;

static unsigned failures;
static bool is_here;
static board uno;

static void check(bool is_right, const char *what)
{
    (void)printf("%-8s %s\n", is_right ? "right" : "WRONG", what);
    (void)fflush(stdout);
    failures += !is_right;
}

static unsigned any_picture(const uint8_t *bytes)
{
    (void)bytes;
    return 0;
}

static void open_line(void)
{
    uno.has_line = terminal_open(&uno.line);
    if (!uno.has_line) {
        (void)printf("WRONG    there is no pseudo-terminal here\n");
        exit(1);
    }
    if (is_here) {
        (void)setenv("DROMIKOS_LINES", uno.line.path, 1);
    }
}

static void close_line(void)
{
    terminal_close(&uno.line);
    uno.has_line = false;
}

/* Takes the chip's output, and writes it to the line if that is open. */
static void forward(void)
{
    const unsigned count =
        chip_take_bytes(uno.mcu, (uint8_t *)uno.text + uno.length, MAX_TEXT - 1 - uno.length);
    if (uno.has_line) {
        (void)terminal_send(&uno.line, uno.text + uno.length, count);
    }
    uno.length += count;
    uno.text[uno.length] = '\0';
}

static void pass_ms(unsigned ms)
{
    for (unsigned i = 0; i < ms; i++) {
        chip_run(uno.mcu, chip_now(uno.mcu) + CYCLES_PER_MS);
    }
    forward();
}

/* Compares the printed runs of one press; parts of a silence are added up. Returns the largest error in µs;
 * 1e9 if one is missing. */
static double compare_runs(const double *at_us, unsigned count)
{
    static double runs[MAX_EDGES];
    unsigned printed = 0;
    char last = '?';
    double worst = 0;
    for (char *at = uno.text; *at != '\0';) {
        if (*at == '?') {
            return 1e9;
        }
        if (*at != '^' && *at != '_') {
            at++;
            continue;
        }
        const char kind = *at;
        const double us = (double)strtoul(at + 1, &at, 10);
        if (kind == last && printed > 0) {
            runs[printed - 1] += us;
        } else if (printed < MAX_EDGES) {
            runs[printed++] = us;
        }
        last = kind;
    }
    /* A space before the first edge, and one after the last. */
    for (unsigned i = 1; i < count; i++) {
        const double off = i < printed ? fabs(runs[i] - (at_us[i] - at_us[i - 1])) : 1e9;
        worst = off > worst ? off : worst;
    }
    return printed == count + 1 ? worst : 1e9;
}

static drom_code any_code(const drom_waveform *waveform)
{
    const uint32_t max = waveform->max_address - waveform->min_address;
    return (drom_code){waveform->protocol->number, waveform->min_address + (max < 0x40 ? max / 2 : 0x40),
                       (uint16_t)(0x35 & waveform->max_command)};
}

/* Every protocol at its full rate of repeats. */
static void play_protocols(double bearable_us, unsigned *edges)
{
    static double at_us[MAX_EDGES];
    double worst = 0;
    for (unsigned i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        const drom_code code = any_code(waveform);
        pass_ms(120); /* the silence before begins again, with a part of its own */
        uno.length = 0;
        const unsigned count = press_noting(uno.mcu, waveform, &code, HELD_MS, at_us, MAX_EDGES);
        pass_ms(200);
        const double off = compare_runs(at_us, count);
        if (off > bearable_us) {
            (void)printf("WRONG    %s: %s\n", waveform->protocol->id,
                         off < 1e9 ? "a run is off" : "an edge was lost");
            failures++;
        }
        worst = off > worst ? off : worst;
        *edges += count;
    }
    (void)printf("         the most that a run was off: %.1f us of %.0f\n", worst, bearable_us);
}

static char *read_file(const char *path)
{
    static char text[1 << 20];
    FILE *const file = fopen(path, "r");
    text[file != NULL ? fread(text, 1, sizeof text - 1, file) : 0] = '\0';
    if (file != NULL) {
        (void)fclose(file);
    }
    return text;
}

static void check_listen(const char *path)
{
    const char *const text = read_file(path);
    for (unsigned i = 0; i < drom_waveform_count; i++) {
        const drom_code code = any_code(drom_waveforms[i]);
        char frame[128];
        (void)snprintf(frame, sizeof frame, "\"protocol\":\"%s\",\"address\":%u,\"command\":%u",
                       drom_waveforms[i]->protocol->id, (unsigned)code.address, code.command);
        if (strstr(text, frame) == NULL) {
            (void)printf("WRONG    listen did not report %s\n", frame);
            failures++;
        }
    }
}

static void listen_through(const char *dromikos, const char *folder, double bearable_us)
{
    char out[512];
    unsigned edges = 0;
    (void)snprintf(out, sizeof out, "%s/listened.jsonl", folder);
    open_line();
    terminal_program listening;
    terminal_start(
        &listening, out,
        (char *[]){(char *)dromikos, "listen", "--format", "jsonl", is_here ? NULL : uno.line.path, NULL});
    play_protocols(bearable_us, &edges);
    close_line();
    const int code = terminal_end(&listening, false);
    check_listen(out);
    (void)printf("         %u edges of %u protocols, keys held\n", edges, (unsigned)drom_waveform_count);
    check(code == 0 || code == 3, "listen ends with the line"); /* 3: within an action */
}

/* Does what the program asks for: presses a key, and types its name; the first time an invalid name. Enter
 * alone ends it. */
static void enrol_through(const char *dromikos, const char *folder)
{
    static const char *const names[] = {"mains", "vol up", "vol_up", "fog"};
    enum { KEYS = 3, PATIENCE_MS = 60000 };
    char sheet[512];
    char ignored[512];
    terminal_program enrolling;
    unsigned typed = 0;
    unsigned keys = 0;
    bool is_over = false;
    (void)snprintf(sheet, sizeof sheet, "%s/%s.csv", folder, is_here ? "remote" : "sheet");
    (void)snprintf(ignored, sizeof ignored, "%s/enrolled.txt", folder);
    (void)unlink(sheet);
    open_line();
    char *const here[] = {(char *)dromikos, "enrol", "remote", NULL};
    char *const there[] = {(char *)dromikos, "enrol", "--sheet", sheet, uno.line.path, NULL};
    terminal_start(&enrolling, ignored, is_here ? here : there);
    for (unsigned ms = 0; ms < PATIENCE_MS && !is_over; ms += 10) {
        pass_ms(10);
        uno.length = 0;
        const bool is_asked = terminal_has_said(&enrolling, "press a key (Enter alone ends)\n");
        if (is_asked && keys == KEYS) {
            terminal_type(&enrolling, "");
            is_over = true;
        } else if (is_asked || terminal_has_said(&enrolling, "once more\n")) {
            const drom_code code = {DROM_NEC, 4, (uint16_t)(70 + keys)};
            (void)press_noting(uno.mcu, &drom_nec_waveform, &code, 60, NULL, 0);
            pass_ms(150); /* the key is up, and its release has been decoded */
        } else if (terminal_has_said(&enrolling, "its name (Enter alone ends): ")) {
            terminal_type(&enrolling, names[typed]);
            keys += strcmp(names[typed], "vol up") != 0;
            typed += typed < 3;
        }
    }
    check(is_over, "enrol asks for keys and names until Enter alone");
    check(terminal_end(&enrolling, !is_over) == 0, "and ends with 0");
    close_line();
    check(strcmp(read_file(sheet), "key,protocol,address,command,note\nmains,nec,0x04,0x46,\nvol_up,nec,0x04,"
                                   "0x47,\nfog,nec,0x04,0x48,\n") == 0,
          "the sheet has the keys that were pressed, under their typed names");
    check(strstr(enrolling.words, "'vol up': a key's name is made of") != NULL,
          "a name that is none is asked for again");
    if (failures > 0) {
        (void)printf("%s\n", enrolling.words);
    }
}

int main(int argc, char **argv)
{
    is_here = argc == 6 && strcmp(argv[5], "here") == 0;
    if (argc != 5 && !is_here) {
        fprintf(stderr, "ear: say which program, the receiver's pin, which dromikos, and a folder\n");
        return 2;
    }
    (void)signal(SIGPIPE, SIG_IGN);
    const unsigned pin = (unsigned)strtoul(argv[2], NULL, 10);
    uno.mcu = chip_open(argv[1], pin, RELAY_A, RELAY_B, any_picture);
    listen_through(argv[3], argv[4], pin == 8 ? 2 : 8);
    check(chip_is_alive(uno.mcu), "the program is still running");
    (void)printf("         capture interrupt: %llu cycles of 80; RAM: %u bytes; stack: %u; flash: %u\n",
                 (unsigned long long)chip_worst_capture(uno.mcu), chip_static(uno.mcu),
                 chip_deepest_stack(uno.mcu), chip_flash(uno.mcu));
    enrol_through(argv[3], argv[4]);
    chip_close(uno.mcu);
    return failures > 0 ? 1 : 0;
}
