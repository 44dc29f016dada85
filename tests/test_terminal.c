/* The tool on a terminal and on a serial line, with a test that types. */
#include "support.h"

#include "terminal.h"

#include <fcntl.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/file.h>
#include <unistd.h>

/* A press as the ear prints it, and the silence that ends it. */
static void send_press(const terminal_line *line, drom_code code)
{
    g_autoptr(GString) text = g_string_new("_50000\n");
    drom_encoder encoder;
    char kind = '^';
    ck_assert_int_eq(drom_encode_begin(&encoder, &drom_nec_waveform, &code, DROM_SEND_FIRST, false), DROM_OK);
    for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
        g_string_append_printf(text, "%c%u", kind, us);
        kind = kind == '^' ? '_' : '^';
    }
    for (unsigned i = 0; i < 12; i++) {
        g_string_append(text, "_50000\n");
    }
    ck_assert(terminal_send(line, text->str, text->len));
}

static drom_code nec_code(uint16_t command)
{
    return (drom_code){DROM_NEC, 4, command};
}

typedef struct desk {
    terminal_line line;
    terminal_program program;
    char *sheet;
} desk;

#define WAIT(expected)                                                                                       \
    ck_assert_msg(terminal_wait(&at.program, expected), "no '%s' in:\n%s", expected, at.program.words)

/* enrol without names, on a line on which the test sends. */
static void start_enrol(desk *at)
{
    need_terminal();
    ck_assert(terminal_open(&at->line));
    at->sheet = write_file("typed.csv", "");
    (void)unlink(at->sheet);
    g_autofree char *out = write_file("out.txt", "");
    terminal_start(
        &at->program, out,
        (char *[]){(char *)g_getenv("DROMIKOS"), "enrol", "--sheet", at->sheet, at->line.path, NULL});
    ck_assert(terminal_send(&at->line, "_50000\n", 7));
}

static void end_enrol(desk *at, const char *expected)
{
    g_autofree char *text = NULL;
    ck_assert_int_eq(terminal_end(&at->program, false), 0);
    terminal_close(&at->line);
    ck_assert(g_file_get_contents(at->sheet, &text, NULL, NULL));
    ck_assert_str_eq(text, expected);
    g_free(at->sheet);
}

TEST(names_are_typed_as_the_keys_come)
{
    desk at;
    start_enrol(&at);
    WAIT("press a key (Enter alone ends)\n");
    terminal_type(&at.program, "mains");
    WAIT("press the key first; then its name is asked for\n");
    send_press(&at.line, nec_code(70));
    WAIT("the same key once more\n");
    send_press(&at.line, nec_code(70));
    WAIT("its name (Enter alone ends): ");
    terminal_type(&at.program, "vol up");
    WAIT("'vol up': a key's name is made of letters, digits and '_', as in 'vol_up'\n");
    terminal_type(&at.program, "vol_up");
    WAIT("'vol_up' is nec  4 (0x04)  70 (0x46)\n");
    WAIT("press a key");
    send_press(&at.line, nec_code(71));
    WAIT("once more\n");
    send_press(&at.line, nec_code(72)); /* another key by mistake: two equal ones count */
    WAIT("two presses of this key disagree; the next ones decide\n");
    send_press(&at.line, nec_code(72));
    WAIT("its name");
    terminal_type(&at.program, "vol_up");
    WAIT("'vol_up': another key has that name\n");
    terminal_type(&at.program, "fog");
    WAIT("press a key");
    send_press(&at.line, nec_code(70));
    WAIT("once more\n");
    send_press(&at.line, nec_code(70));
    WAIT("this key sends the code of 'vol_up'; press another one, or start again with --allow-twins\n");
    WAIT("press a key");
    terminal_type(&at.program, "");
    end_enrol(&at, "key,protocol,address,command,note\nvol_up,nec,0x04,0x46,\nfog,nec,0x04,0x48,\n");
}

TEST(no_name_ends_and_keeps_the_keys_before)
{
    desk at;
    start_enrol(&at);
    for (uint16_t key = 0; key < 2; key++) {
        WAIT("press a key");
        send_press(&at.line, nec_code(70 + key));
        WAIT("once more\n");
        send_press(&at.line, nec_code(70 + key));
        WAIT("its name");
        terminal_type(&at.program, key == 0 ? "mains" : "");
    }
    end_enrol(&at, "key,protocol,address,command,note\nmains,nec,0x04,0x46,\n");
}

/* Bursts of no protocol, two kinds in turn. */
TEST(toggle_bit_of_an_unknown_handset_is_seen)
{
    static const char *const bursts[] = {
        "^500_500^500_1500^500_500^500_1500^1500_500^500_500^1500_1500^500_500^1500_500^500",
        "^500_1500^500_500^1500_500^500_1500^500_500^1500_500^500_1500^1500_500^500_500^500",
    };
    desk at;
    start_enrol(&at);
    WAIT("press a key");
    for (unsigned i = 0; i < 6; i++) {
        g_autofree char *text =
            g_strdup_printf("%s_50000_50000_50000_50000_50000_50000_50000_50000\n", bursts[i % 2]);
        ck_assert(terminal_send(&at.line, text, strlen(text)));
    }
    WAIT("this key sends two fingerprints by turns: it has a toggle bit. 'dromikos infer' can find it\n");
    (void)terminal_end(&at.program, true);
    terminal_close(&at.line);
    g_free(at.sheet);
}

TEST(names_are_typed_before_the_presses)
{
    need_terminal();
    desk at;
    g_autofree char *out = write_file("out.txt", "");
    g_autofree char *capture = g_build_filename(g_getenv("EXAMPLES"), "lantern", "presses.vcd", NULL);
    terminal_start(
        &at.program, out,
        (char *[]){(char *)g_getenv("DROMIKOS"), "enrol", "--times", "1", "--names", "-", capture, NULL});
    WAIT("the names of the keys, one a line; an empty line ends them\n");
    terminal_type(&at.program, "play");
    terminal_type(&at.program, "green");
    terminal_type(&at.program, "");
    ck_assert_int_eq(terminal_end(&at.program, false), 0);
    g_autofree char *text = NULL;
    ck_assert(g_file_get_contents(out, &text, NULL, NULL));
    ck_assert_contains(text, "play,nec,0x21,");
    ck_assert_contains(text, "\ngreen,nec,0x21,");
}

TEST(line_that_another_program_holds_is_refused)
{
    need_terminal();
    terminal_line line;
    ck_assert(terminal_open(&line));
    ck_assert_int_eq(flock(line.far, LOCK_EX), 0);
    static const char *const verbs[] = {"listen", "enrol"};
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++) {
        g_auto(said) heard = run_shell("$DROMIKOS %s %s </dev/null", verbs[i], line.path);
        ck_assert_int_eq(heard.code, 3);
        ck_assert_contains(heard.err,
                           " has this line open; end it (a serial monitor, perhaps), and try again");
    }
    terminal_close(&line);
}

TEST(silent_line_and_a_wrong_speed_are_reported)
{
    need_terminal();
    desk at;
    g_autofree char *out = write_file("out.txt", "");
    ck_assert(terminal_open(&at.line));
    terminal_start(&at.program, out,
                   (char *[]){(char *)g_getenv("DROMIKOS"), "listen", "--baud", "9600", at.line.path, NULL});
    WAIT("nothing comes from this line, at 9600 baud. Is the ear on the chip");
    for (unsigned i = 0; i < 8; i++) {
        ck_assert(terminal_send(&at.line, "\xf8\x80\x1c\n", 4));
    }
    WAIT("what comes from this line is no runs. Is 9600 baud its speed (--baud)");
    terminal_close(&at.line);
    (void)terminal_end(&at.program, true);
}

/* An effect that runs for days takes long: on a terminal, a rehearsal shows its progress. */
TEST(long_rehearsal_shows_how_far_it_is)
{
    need_terminal();
    g_free(write_file("wand.csv", "key,protocol,address,command,note\nplay,nec,4,70,\n"));
    g_autofree char *script =
        write_file("long.csv", "at_ms,handset,key,held_ms\n500,wand,play,100\n604000000,wand,play,100\n");
    g_autofree char *plan =
        write_file("long.plan", "plan \"x\"\nboard mega328\nreceiver on pin 8\nhandset wand from "
                                "\"wand.csv\"\nstrip foot on pin 6, 60 pixels\n"
                                "when wand.play pressed: foot chase\n");
    g_autofree char *shown = write_file("shown.txt", "");
    g_auto(said) heard =
        run_shell("script -qefc \"$DROMIKOS rehearse '%s' '%s'\" '%s' >/dev/null & "
                  "for tenth in $(seq 600); do grep -q ' s to go' '%s' && break; sleep 0.1; done; "
                  "kill $!; cat '%s'",
                  plan, script, shown, shown, shown);
    ck_assert_contains(heard.out, "\rrehearsing 167:46:40: ");
    ck_assert_contains(heard.out, " s to go\x1b[K");
    said_free(&heard);
    /* A finished rehearsal leaves no progress line: it is wiped before other output. */
    g_free(write_file("long.csv", "at_ms,handset,key,held_ms\n500,wand,play,100\n3600000,wand,play,100\n"));
    heard = run_shell("script -qec \"$DROMIKOS rehearse '%s' '%s'\" /dev/null", plan, script);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "2 presses in ");
    for (const char *at = heard.out; (at = strstr(at, "rehearsing ")) != NULL; at++) {
        ck_assert_int_eq(at[-1], '\r');
        ck_assert_ptr_nonnull(strstr(at, "\r"));
    }
}

/* Ctrl-C ends with the results so far. */
TEST(listening_that_is_ended_by_hand_still_has_its_table)
{
    need_terminal();
    desk at;
    g_autofree char *out = write_file("out.txt", "");
    g_autofree char *text = NULL;
    ck_assert(terminal_open(&at.line));
    terminal_start(&at.program, out, (char *[]){(char *)g_getenv("DROMIKOS"), "listen", at.line.path, NULL});
    ck_assert(terminal_send(&at.line, "_50000\n", 7));
    send_press(&at.line, nec_code(70));
    for (unsigned ms = 0; ms < 60000 && (text == NULL || strstr(text, "nec") == NULL); ms += 50) {
        g_free(text);
        text = NULL;
        (void)g_file_get_contents(out, &text, NULL, NULL);
        g_usleep(50000);
    }
    ck_assert_int_eq(kill(at.program.pid, SIGINT), 0);
    ck_assert_int_eq(terminal_end(&at.program, false), 0);
    terminal_close(&at.line);
    g_free(text);
    ck_assert(g_file_get_contents(out, &text, NULL, NULL));
    ck_assert_contains(text, "\npresses  frames  worst  code\n");
}

TEST(rehearsal_that_is_ended_by_hand_says_how_far_it_came)
{
    g_free(write_file("wand.csv", "key,protocol,address,command,note\nplay,nec,4,70,\n"));
    g_autofree char *script = write_file(
        "ended.csv", "at_ms,handset,key,held_ms,expect\n500,wand,play,100,\n604000000,,,,foot is on\n");
    g_autofree char *plan = write_file(
        "ended.plan", "plan \"x\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
                      "strip foot on pin 6, 60 pixels\nwhen wand.play pressed: foot chase\n");
    g_auto(said) heard =
        run_shell("$DROMIKOS rehearse '%s' '%s' & sleep 3; kill -INT $!; wait $!", plan, script);
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.out, "wand.play pressed");
    ck_assert_contains(heard.out, "\n1 press in ");
    ck_assert_contains(heard.err, "ended by Ctrl-C after ");
    ck_assert_contains(heard.err, "1 of what is expected wasn't looked at");
}

TEST(terminals_get_colours_unless_they_are_not_wanted)
{
    need_terminal();
    g_auto(said) heard =
        run_shell("TERM=xterm script -qec \"$DROMIKOS listen $EXAMPLES/lantern/presses.vcd\" /dev/null");
    ck_assert_contains(heard.out, "\x1b[");
    said_free(&heard);
    heard = run_shell("NO_COLOR=1 script -qec \"$DROMIKOS listen $EXAMPLES/lantern/presses.vcd\" /dev/null");
    ck_assert_ptr_null(strstr(heard.out, "\x1b["));
    said_free(&heard);
    heard = run_shell("TERM=dumb script -qec \"$DROMIKOS listen $EXAMPLES/lantern/presses.vcd\" /dev/null");
    ck_assert_ptr_null(strstr(heard.out, "\x1b"));
}

SUITE("terminal")
