/* The live bench on a terminal, whose screen the test reads. */
#include "support.h"

#include "shown.h"

#include <signal.h>
#include <string.h>

static char *example(const char *name)
{
    return g_build_filename(g_getenv("EXAMPLES"), name, NULL);
}

/* Plays a plan on a terminal, with 256 colours and UTF-8 unless the environment differs. */
static void start(shown *at, int rows, int columns, char *const *environment, const char *plan,
                  char *const *options)
{
    static char *const usual[] = {"TERM=xterm-256color", "LC_ALL=C.UTF-8", "COLORTERM=", NULL};
    char *words[12] = {(char *)g_getenv("DROMIKOS"), "play", (char *)plan};
    need_terminal();
    for (size_t i = 0; options != NULL && options[i] != NULL; i++) {
        words[3 + i] = options[i];
    }
    shown_start(at, rows, columns, environment != NULL ? environment : usual, words);
}

static void start_stage(shown *at, int rows, int columns, char *const *options)
{
    g_autofree char *plan = example("lantern/stage.plan");
    start(at, rows, columns, NULL, plan, options);
}

#define WAIT(text)                                                                                           \
    do {                                                                                                     \
        if (shown_wait(&at, text) < 0) {                                                                     \
            g_autofree char *all = shown_all(&at);                                                           \
            ck_abort_msg("no '%s' on:\n%s", text, all);                                                      \
        }                                                                                                    \
    } while (0)

/* Waits until it has written this. */
#define ASSERT_WRITTEN(at, text) ck_assert_msg(strstr((at)->bytes->str, text) != NULL, "line %d", __LINE__)

/* Ends it by a key; the terminal has its old settings. */
static void end(shown *at, const char *keys, int code)
{
    shown_type(at, keys);
    ck_assert_int_eq(shown_end(at), code);
    ASSERT_WRITTEN(at, "\x1b[?1049l"); /* the old screen is restored, */
    ASSERT_WRITTEN(at, "1000l");       /* the mouse is released, */
    const char *const shows = g_strrstr(at->bytes->str, "\x1b[?12l\x1b[?25h");
    const char *const hides = g_strrstr(at->bytes->str, "\x1b[?25l");
    ck_assert_ptr_nonnull(shows); /* and the cursor is visible */
    ck_assert(hides == NULL || hides < shows);
    ck_assert_uint_eq(at->after.c_lflag, at->before.c_lflag);
    ck_assert_uint_eq(at->after.c_iflag, at->before.c_iflag);
    ck_assert_uint_eq(at->after.c_oflag, at->before.c_oflag);
    shown_free(at);
}

TEST(page_of_80_by_24_has_everything_in_its_place)
{
    static const char *const outputs[] = {"spot",    "bell",       "fog",  "house",
                                          "curtain", "footlights", "horn", "readout"};
    shown at;
    start_stage(&at, 24, 80, NULL);
    WAIT("house      at 80 %");
    g_autofree char *head = shown_row(&at, 0);
    ck_assert_msg(g_str_has_prefix(head, "The stage"), "%s", head);
    ck_assert_contains(head, "1x speed"); /* on a busy machine: and late */
    ck_assert_contains(head, "   lost edges 0");
    g_autofree char *state = shown_row(&at, 1);
    ck_assert_str_eq(state, "mode is show   act is 1");
    for (size_t i = 0; i < G_N_ELEMENTS(outputs); i++) {
        g_autofree char *row = shown_row(&at, 2 + (int)i);
        ck_assert_msg(g_str_has_prefix(row, outputs[i]), "%s", row);
    }
    g_autofree char *first = shown_row(&at, 2);
    ck_assert_msg(g_str_has_suffix(first, "p power        r red"), "%s", first);
    WAIT("t top open");
    WAIT("distance 3 m  angle 0  battery 100 %  lamps 0");
    g_autofree char *help = shown_row(&at, 23);
    ck_assert_contains(help, "Esc ends  ? helps");
    shown_type(&at, "?");
    WAIT("holds that key, until it is pressed again");
    shown_type(&at, "?");
    WAIT("house      at 80 %");
    ASSERT_WRITTEN(&at, "\x1b[?1049h");
    end(&at, KEY_IS_ESCAPE, 0);
}

TEST(letter_taps_a_key_and_a_capital_holds_it)
{
    shown at;
    start_stage(&at, 50, 160, NULL);
    WAIT("house      at 80 %");
    shown_type(&at, "p");
    WAIT("wand.power pressed: spot toggle");
    WAIT("spot       on");
    WAIT("wand.power released");
    shown_type(&at, "G");
    WAIT("g green held");
    WAIT("fog        on");
    WAIT("wand.green repeated  (4 times more)");
    shown_type(&at, "g");
    WAIT("fog        off");
    WAIT("wand.green released");
    shown_type(&at, "t");
    WAIT("t top shut");
    shown_type(&at, "t");
    WAIT("t top open");
    end(&at, KEY_IS_ESCAPE, 0);
}

/* Moves the mouse to the end of this text in a row. */
static void move_mouse(shown *at, const char *text, bool is_down)
{
    const int row = shown_wait(at, text);
    g_autofree char *line = shown_row(at, row);
    const char *const found = strstr(line, text);
    const long column = g_utf8_pointer_to_offset(line, found);
    g_autofree char *bytes = g_strdup_printf("\x1b[<0;%ld;%d%c", column + 3, row + 1, is_down ? 'M' : 'm');
    shown_type(at, bytes);
}

TEST(mouse_holds_a_key_until_it_lets_go)
{
    shown at;
    start_stage(&at, 24, 80, NULL);
    WAIT("house      at 80 %");
    move_mouse(&at, "g green", true);
    WAIT("g green held");
    WAIT("fog        on");
    move_mouse(&at, "g green", false);
    WAIT("fog        off");
    move_mouse(&at, "lamps 0", true); /* and selects what the arrows change */
    move_mouse(&at, "lamps 0", false);
    shown_type(&at, KEY_IS_UP);
    WAIT("lamps 1");
    end(&at, "\x03", 0);
}

/* Returns the bench's time, from the first row. */
static double time_of(shown *at)
{
    g_autofree char *head = shown_row(at, 0);
    const char *const colon = strchr(head, ':');
    ck_assert_msg(colon != NULL && colon > head, "%s", head);
    return 60 * (colon[-1] - '0') + g_ascii_strtod(colon + 1, NULL);
}

/* Lets this much of the bench's time pass, however slow the machine is. */
static void pass(shown *at, double seconds)
{
    const double until = time_of(at) + seconds;
    for (unsigned looks = 0; time_of(at) < until && looks < 600; looks++) {
        g_usleep(100000);
        (void)shown_wait(at, "lost edges");
    }
    ck_assert_double_ge(time_of(at), until);
}

TEST(bad_room_costs_margin_then_edges_then_presses)
{
    shown at;
    start_stage(&at, 24, 80, NULL);
    WAIT("house      at 80 %");
    shown_type(&at, "r");
    WAIT("wand.red pressed");
    WAIT("margin 100 %");
    shown_type(&at, KEY_IS_UP KEY_IS_UP);
    WAIT("distance 7 m");
    shown_type(&at, "b");
    WAIT("wand.blue pressed");
    g_autofree char *far = shown_all(&at);
    ck_assert_ptr_null(strstr(far, "margin 100 %"));
    shown_type(&at, KEY_IS_UP KEY_IS_UP KEY_IS_UP KEY_IS_UP);
    WAIT("distance 15 m");
    shown_type(&at, "p");
    pass(&at, 1.0);
    g_autofree char *farther = shown_all(&at);
    ck_assert_ptr_null(strstr(farther, "wand.power pressed"));
    for (unsigned i = 0; i < 5; i++) {
        shown_type(&at, KEY_IS_RIGHT);
    }
    for (unsigned i = 0; i < 7; i++) {
        shown_type(&at, KEY_IS_UP);
    }
    WAIT("delay each loop 500 ms");
    WAIT("polls 500.2 ms apart at most");
    end(&at, KEY_IS_ESCAPE, 0);
}

TEST(edges_that_main_can_not_take_are_counted)
{
    shown at;
    start_stage(&at, 24, 80, NULL);
    WAIT("house      at 80 %");
    for (unsigned i = 0; i < 5; i++) {
        shown_type(&at, KEY_IS_RIGHT);
    }
    for (unsigned i = 0; i < 4; i++) {
        shown_type(&at, KEY_IS_UP);
    }
    WAIT("delay each loop 50 ms");
    shown_type(&at, "p");
    pass(&at, 2.0);
    g_autofree char *head = shown_row(&at, 0);
    ck_assert_msg(strstr(head, "lost edges ") != NULL && !g_str_has_suffix(head, "lost edges 0"), "%s", head);
    g_autofree char *all = shown_all(&at);
    ck_assert_ptr_null(strstr(all, "wand.power pressed"));
    end(&at, KEY_IS_ESCAPE, 0);
}

/* Selects each condition, from the first to the last and back. */
TEST(room_is_turned_and_turned_back)
{
    shown at;
    start_stage(&at, 24, 80, NULL);
    WAIT("house      at 80 %");
    shown_type(&at, KEY_IS_DOWN KEY_IS_DOWN);
    WAIT("distance 0.5 m");
    shown_type(&at, KEY_IS_DOWN KEY_IS_UP KEY_IS_UP); /* there is nothing below */
    WAIT("distance 3 m");
    shown_type(&at, KEY_IS_RIGHT KEY_IS_UP);
    WAIT("angle 15");
    shown_type(&at, KEY_IS_RIGHT KEY_IS_UP KEY_IS_UP);
    WAIT("battery 60 %");
    shown_type(&at, KEY_IS_RIGHT KEY_IS_RIGHT KEY_IS_UP KEY_IS_UP); /* there is nothing above */
    WAIT("other handset yes");
    WAIT("nec 153 21: no key of this plan");
    shown_type(&at, KEY_IS_DOWN KEY_IS_LEFT KEY_IS_UP);
    WAIT("lamps 1");
    WAIT("other handset no");
    shown_type(&at, KEY_IS_DOWN KEY_IS_LEFT KEY_IS_LEFT KEY_IS_LEFT KEY_IS_LEFT KEY_IS_UP);
    WAIT("interrupts off 0.1 ms");        /* the last is before the first */
    shown_type(&at, "\x1b[99~\x1b[5;7x"); /* the terminal has no name that it knows */
    pass(&at, 1.0);                       /* the other handset has sent its last frame */
    shown_type(&at, "v");
    WAIT("horn sent hall.volume_up");
    end(&at, KEY_IS_ESCAPE, 0);
}

TEST(journal_outputs_and_keys_are_paged)
{
    shown at;
    start_stage(&at, 16, 60, NULL);
    WAIT("spot");
    shown_type(&at, ">>");
    WAIT("outputs 3-6 of 8");
    g_autofree char *first = shown_row(&at, 2);
    ck_assert_msg(g_str_has_prefix(first, "fog"), "%s", first);
    shown_type(&at, "<<<");
    WAIT("spot       off");
    shown_type(&at, "\t");
    WAIT("a bottom");
    shown_type(&at, "\t");
    WAIT("p power");
    shown_type(&at, "p");
    WAIT("wand.power pressed");
    shown_type(&at, "r");
    WAIT("wand.red released");
    WAIT("0:02.000   spot on");
    shown_type(&at, KEY_IS_HOME);
    WAIT("newer below");
    WAIT("wand.power pressed");
    shown_type(&at, KEY_IS_PAGE_DOWN KEY_IS_END "=");
    WAIT("0:02.000   spot on");
    end(&at, "\x1b[21~", 0);
}

TEST(speed_pause_and_the_way_back)
{
    shown at;
    start_stage(&at, 24, 80, NULL);
    WAIT("1x speed");
    shown_type(&at, "+");
    WAIT("2x speed");
    shown_type(&at, "---");
    WAIT("1/4 speed");
    shown_type(&at, "+++ ");
    WAIT("paused");
    g_autofree char *before = shown_row(&at, 0);
    g_usleep(300000);
    WAIT(before); /* no time passes */
    shown_type(&at, " ");
    WAIT("2x speed");
    for (unsigned i = 0; i < 6; i++) {
        shown_type(&at, i % 2 == 0 ? "p" : "r");
        pass(&at, 0.5);
    }
    shown_type(&at,
               KEY_IS_PAGE_UP KEY_IS_PAGE_UP KEY_IS_PAGE_UP KEY_IS_PAGE_UP KEY_IS_PAGE_UP KEY_IS_PAGE_UP);
    WAIT("house fade to 80 % over 1000 ms"); /* as at the beginning */
    WAIT("newer below");
    end(&at, KEY_IS_ESCAPE, 0);
}

TEST(window_may_change_while_it_plays)
{
    static const int sizes[][2] = {{50, 160}, {5, 20}, {1, 1}, {12, 60}, {24, 80}};
    shown at;
    start_stage(&at, 24, 80, NULL);
    WAIT("house      at 80 %");
    for (size_t i = 0; i < G_N_ELEMENTS(sizes); i++) {
        shown_resize(&at, sizes[i][0], sizes[i][1]);
        if (sizes[i][0] == 5) {
            WAIT("20x5 is small");
            WAIT("60x12, please");
        } else if (sizes[i][0] > 5) {
            WAIT("Esc ends");
            WAIT("house");
        }
    }
    shown_type(&at, "p");
    WAIT("spot       on");
    end(&at, KEY_IS_ESCAPE, 0);
}

/* However it ends, the terminal has its old settings. */
TEST(terminal_is_given_back_by_signals_and_faults)
{
    static const int signals[] = {SIGTERM, SIGINT, SIGHUP, SIGSEGV, SIGABRT, SIGFPE};
    for (size_t i = 0; i < G_N_ELEMENTS(signals); i++) {
        const bool is_fault = signals[i] == SIGSEGV || signals[i] == SIGABRT || signals[i] == SIGFPE;
        shown at;
        start_stage(&at, 24, 80, NULL);
        WAIT("house      at 80 %");
        ck_assert_int_eq(kill(at.pid, signals[i]), 0);
        end(&at, "", is_fault ? -signals[i] : 0);
    }
}

TEST(without_colours_or_utf_8_it_is_still_read)
{
    static char *const bare[] = {"TERM=xterm", "LC_ALL=C", "NO_COLOR=1", "COLORTERM=", NULL};
    shown at;
    g_autofree char *plan = example("lantern/stage.plan");
    start(&at, 24, 80, bare, plan, NULL);
    WAIT("house      at 80 %            ##############----");
    shown_type(&at, "r");
    WAIT("footlights [rrrrrrrrrrrr");
    for (gsize i = 0; i < at.bytes->len; i++) {
        ck_assert_int_lt((unsigned char)at.bytes->str[i], 128);
    }
    ck_assert_ptr_null(strstr(at.bytes->str, "38;5;"));
    end(&at, KEY_IS_ESCAPE, 0);
}

/* Not every machine has a description of a terminal with all colours, so the test writes one. Lights have
 * their own colours there, and the nearest of 256 elsewhere. */
TEST(lights_have_their_colours)
{
    static const char *const description =
        "xterm-direct|all colours,\n\tRGB, colors#0x1000000, pairs#0x10000,\n"
        "\tsetaf=\\E[38;2;%p1%{65536}%/%d;%p1%{256}%/%{255}%&%d;%p1%{255}%&%dm,\n"
        "\tsetab=\\E[48;2;%p1%{65536}%/%d;%p1%{256}%/%{255}%&%d;%p1%{255}%&%dm,\n\tuse=xterm-256color,\n";
    g_free(write_file("wand.csv", "key,protocol,address,command\na,nec,33,1\n"));
    g_autofree char *plan =
        write_file("lights.plan", "plan \"Lights\"\nboard mega328\nreceiver on pin 8\n"
                                  "handset wand from \"wand.csv\"\nstrip foot on pin 6, 8 pixels\n"
                                  "part left of foot, pixels 0 to 0\npart right of foot, pixels 1 to 7\n"
                                  "at start: left fill 0x123456; right fill 0xc0ffee\n"
                                  "when wand.a pressed: foot off\n");
    g_autofree char *source = write_file("direct.ti", description);
    g_autofree char *folder = g_path_get_dirname(source);
    g_auto(said) made = run_shell("tic -x -o '%s' '%s'", folder, source);
    ck_assert_msg(made.code == 0, "%s", made.err);
    g_autofree char *where = g_strdup_printf("TERMINFO=%s", folder);
    char *const every[] = {"TERM=xterm-256color", "LC_ALL=C.UTF-8", "COLORTERM=truecolor", where, NULL};
    shown at;
    start(&at, 24, 80, every, plan, NULL);
    ck_assert(
        shown_wait_bytes(&at, "48;2;192;255;238m")); /* the first picture may show the strip still off */
    const int row = shown_wait(&at, "[▌");
    ck_assert_int_ge(row, 0);
    g_autofree char *text = shown_row(&at, row);
    const int column = (int)g_utf8_strlen(text, strstr(text, "▌") - text);
    ck_assert_uint_eq(shown_colour(&at, row, column), 0x123456);
    ck_assert_uint_eq(shown_ground(&at, row, column), 0xc0ffee);
    end(&at, KEY_IS_ESCAPE, 0);
    start(&at, 24, 80, NULL, plan, NULL);
    ck_assert_int_eq(shown_wait(&at, "[▌"), row);
    ck_assert(shown_wait_bytes(&at, "48;5;159m")); /* 0xafffff: steps are 0, 95, 135, 175, 215, 255 */
    end(&at, KEY_IS_ESCAPE, 0);
}

TEST(script_plays_by_itself)
{
    static const struct {
        const char *expected;
        int code;
        const char *came;
    } rows[] = {{"spot is on", 0, "as expected: spot is on"},
                {"fog is on", 1, "! expected: fog is on; but fog is off"}};
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        shown at;
        g_autofree char *text = g_strdup_printf(
            "at_ms,handset,key,held_ms,expect\n500,wand,power,300,\n2500,,,,%s\n", rows[i].expected);
        g_autofree char *script = write_file("short.csv", text);
        start_stage(&at, 24, 80, (char *[]){"--script", script, "--light", NULL});
        WAIT("a script plays");
        WAIT("wand.power pressed: spot toggle");
        WAIT(rows[i].came);
        ck_assert_int_eq(shown_end(&at), rows[i].code);
        ASSERT_WRITTEN(&at, "1 press heard in 5.5");
        ASSERT_WRITTEN(&at, i == 0 ? "1 of 1 expectations met" : "0 of 1 expectations met");
        shown_free(&at);
    }
}

TEST(what_is_done_becomes_a_script_that_comes_true)
{
    shown at;
    g_autofree char *plan = example("lantern/stage.plan");
    g_autofree char *into = write_file("evening.csv", "");
    g_autofree char *text = NULL;
    start_stage(&at, 24, 80, (char *[]){"--into", into, NULL});
    WAIT("recording");
    WAIT("house      at 80 %");
    shown_type(&at, "G");
    WAIT("fog        on");
    shown_type(&at, "g");
    WAIT("fog        off");
    shown_type(&at, "p");
    WAIT("spot       on");
    shown_type(&at, "t");
    WAIT("t top shut");
    shown_type(&at, "n");
    WAIT("bell       on");
    WAIT("bell       off");
    pass(&at, 2.0); /* it is read when all is still */
    end(&at, KEY_IS_ESCAPE, 0);
    ck_assert(g_file_get_contents(into, &text, NULL, NULL));
    ck_assert_contains(text, ",wand,green,");
    ck_assert_contains(text, ",top,closes,,\n");
    ck_assert_contains(text, ",,,,\"spot is on\"\n");
    g_auto(said) heard = run_shell("$DROMIKOS rehearse '%s' '%s'", plan, into);
    ck_assert_msg(heard.code == 0, "%s%s", heard.out, heard.err);
    ck_assert_contains(heard.out, "all that was expected came true");
}

/* More outputs than a screen has rows; and names that are long, wide, or right to left. */
TEST(forty_outputs_and_any_names_find_room)
{
    g_autoptr(GString) text = g_string_new("plan \"مسرح\"\nboard mega328\nreceiver on pin 8\n"
                                           "handset wand from \"wand.csv\"\n");
    g_free(write_file("wand.csv", "key,protocol,address,command,note\nplay,nec,4,70,\n"));
    for (unsigned i = 0; i < 40; i++) {
        g_string_append_printf(text, "call %s%u\n",
                               i == 0   ? "فانوس"
                               : i == 1 ? "舞台照明灯"
                               : i == 2 ? "lantern_that_hangs_over_the_middle_of_the_stage_of_the_theatre_"
                                        : "r",
                               i);
    }
    g_string_append(text, "when wand.play pressed: call r39 3\n");
    for (unsigned i = 0; i < 2; i++) {
        shown at;
        g_autofree char *plan = write_file("forty.plan", text->str);
        start(&at, 24, 80, NULL, plan, NULL);
        WAIT("outputs 1-");
        WAIT("舞台照明灯1");
        WAIT("lantern_that_…");
        shown_type(&at, ">>>>>>>>>>>>>>>>>>>>>>>>>>>>>>>>>>>>>>>>>");
        WAIT("-40 of 40");
        WAIT("r39");
        end(&at, KEY_IS_ESCAPE, 0);
    }
}

TEST(without_a_terminal_it_says_what_to_do)
{
    static const refusal rows[] = {
        {"$DROMIKOS play $EXAMPLES/lantern/stage.plan </dev/null", 1,
         "dromikos play: this is no terminal; 'dromikos rehearse' needs none"},
        {"$DROMIKOS play $EXAMPLES/lantern/stage.plan --speed 100", 2,
         "--speed is 100; it must be 0.0625 to 64"},
        {"$DROMIKOS play $EXAMPLES/lantern/stage.plan --speed nan", 2, "it must be 0.0625 to 64"},
        {"$DROMIKOS play $EXAMPLES/lantern/none.plan", 3, "none.plan"},
        {"$DROMIKOS play $EXAMPLES/lantern/stage.plan --script none.csv", 3, "none.csv"},
        {"$DROMIKOS play $EXAMPLES/lantern/stage.plan --script x.csv --into y.csv", 2,
         "a script plays by itself"},
        {"$DROMIKOS play $EXAMPLES/lantern/stage.plan --into $EXAMPLES/lantern/stage.plan", 2,
         "is read, and can't be written over"},
        {"$DROMIKOS play $EXAMPLES/lantern/stage.plan --into /nowhere/x.csv", 3,
         "/nowhere/x.csv: can't be written: No such file"},
        {"$DROMIKOS play $EXAMPLES/lantern/stage.plan --into /", 3, "/: can't be written: Is a directory"},
        {"$DROMIKOS play", 2, "say which plan, or go to its folder"},
    };
    ASSERT_REFUSED("", rows);
    need_terminal();
    g_auto(said) heard =
        run_shell("TERM=dumb script -qec \"$DROMIKOS play $EXAMPLES/lantern/stage.plan\" /dev/null");
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.out,
                       "a terminal TERM=dumb can't be drawn on; 'dromikos rehearse' prints line by line");
    said_free(&heard);
    heard = run_shell("TERM=none_such script -qec \"$DROMIKOS play $EXAMPLES/lantern/stage.plan\" /dev/null");
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.out, "nothing is known of the terminal TERM=none_such");
}

SUITE("play")
