/* bake --as: a folder that compiles, with what the plan needs, in which the maker's file stays. */
#include "support.h"

#include <glib/gstdio.h>
#include <string.h>

#define PLAN                                                                                                 \
    "plan \"The gas lamps\"\nboard %s\nreceiver on pin %s\nhandset wand from \"wand.csv\"\n"                 \
    "relay bell on pin 7, on a relay board\nevent doorbell\ncall "                                           \
    "readout\n%s"                                                                                            \
    "when wand.play pressed: bell pulse for 800 ms; call readout 7\nwhen doorbell: bell on\n"
#define HORN                                                                                                 \
    "sender horn on pin 3, through driver\nhandset hall from \"hall.csv\"\n"                                 \
    "when wand.play held: horn send hall.mute\n"

/* A folder with the plan and its sheets. To be freed. */
static char *make_plan(const char *board, const char *receiver, const char *more)
{
    g_free(write_file("program/wand.csv", "key,protocol,address,command\nplay,nec,33,67\n"));
    g_free(write_file("program/hall.csv", "key,protocol,address,command\nmute,samsung32,7,15\n"));
    g_autofree char *text = g_strdup_printf(PLAN, board, receiver, more);
    g_autofree char *path = write_file("program/gas.plan", text);
    return g_path_get_dirname(path);
}

static bool has(const char *folder, const char *file)
{
    g_autofree char *path = g_build_filename(folder, file, NULL);
    return g_file_test(path, G_FILE_TEST_IS_REGULAR);
}

static char *read_from(const char *folder, const char *file)
{
    g_autofree char *path = g_build_filename(folder, file, NULL);
    char *text = NULL;
    ck_assert_msg(g_file_get_contents(path, &text, NULL, NULL), "there is no %s", path);
    return text;
}

TEST(sketch_has_what_the_plan_needs_and_nothing_else)
{
    g_autofree char *folder = make_plan("uno", "8", HORN);
    g_auto(said) answer =
        run_shell("cd %s && rm -rf gas-sketch && $DROMIKOS bake --as sketch gas.plan", folder);
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_str_eq(answer.out,
                     "gas-sketch: a sketch for the board uno; gas-sketch.ino is yours to change\n"
                     "next: open gas-sketch/gas-sketch.ino in the IDE, choose the board, and load it\n");
    static const char *const there[] = {"LICENSE",
                                        "gas-sketch.ino",
                                        "src/plan/gas.h",
                                        "src/plan/gas_plan.c",
                                        "src/include/dromikos/drom_config.h",
                                        "src/ports/avr/chips/mega328.h",
                                        "src/src/outputs/sender.c",
                                        "src/src/encode/pulse.c",
                                        "src/src/protocols/samsung32.c"};
    static const char *const missing[] = {"Makefile",
                                          "src/src/outputs/servo.c",
                                          "src/src/protocols/rc5.c",
                                          "src/src/receive/phase.c",
                                          "src/ports/avr/main.c",
                                          "src/ports/avr/ear/ear.h"};
    g_autofree char *sketch = g_build_filename(folder, "gas-sketch", NULL);
    for (size_t i = 0; i < G_N_ELEMENTS(there); i++) {
        ck_assert_msg(has(sketch, there[i]), "there is no %s", there[i]);
    }
    for (size_t i = 0; i < G_N_ELEMENTS(missing); i++) {
        ck_assert_msg(!has(sketch, missing[i]), "there is a %s", missing[i]);
    }
    g_autofree char *functions = read_from(sketch, "src/plan/gas.h");
    ck_assert_contains(functions, "drom_status gas_order_bell(drom_relay_verb verb, uint32_t value");
    ck_assert_contains(functions, "drom_status gas_post_doorbell(int16_t value);");
    ck_assert_contains(functions, "void gas_readout(int16_t value);");
    g_autofree char *own = read_from(sketch, "gas-sketch.ino");
    ck_assert_contains(own, "void gas_readout(int16_t value)\n{");
    g_auto(said) includes = run_shell("grep -rn '#include \"dromikos' %s", sketch);
    ck_assert_str_eq(includes.out, "");
}

TEST(edits_stay_and_what_is_not_needed_any_more_goes)
{
    g_autofree char *folder = make_plan("uno", "8", HORN);
    g_auto(said) answer = run_shell(
        "cd %s && rm -rf mine && $DROMIKOS bake --as sketch --into mine gas.plan && echo '// edited' "
        ">>mine/mine.ino && echo mine >mine/notes.txt",
        folder);
    ck_assert_int_eq(answer.code, 0);
    g_free(make_plan("uno", "8", ""));
    said_free(&answer);
    answer = run_shell("cd %s && $DROMIKOS bake --as sketch --into mine gas.plan", folder);
    ck_assert_int_eq(answer.code, 0);
    g_autofree char *sketch = g_build_filename(folder, "mine", NULL);
    g_autofree char *own = read_from(sketch, "mine.ino");
    ck_assert_contains(own, "// edited");
    ck_assert(has(sketch, "notes.txt"));
    ck_assert(!has(sketch, "src/src/outputs/sender.c"));
    ck_assert(has(sketch, "src/src/outputs/relay.c"));
}

/* For each chip and clock. */
TEST(program_is_made_by_its_makefile)
{
    static const char *const boards[][2] = {
        {"uno", "8"}, {"pro at 8 MHz", "8"}, {"leonardo", "4"}, {"mega", "2"}};
    g_autofree char *compiler = g_find_program_in_path("avr-gcc");
    if (compiler == NULL) {
        ck_abort_msg("avr-gcc is missing, and './run test' installs it");
    }
    for (size_t i = 0; i < G_N_ELEMENTS(boards); i++) {
        g_autofree char *folder = make_plan(boards[i][0], boards[i][1], "");
        g_auto(said) answer = run_shell(
            "cd %s && rm -rf gas-program && $DROMIKOS bake --as program gas.plan && make -s -C gas-program "
            "&& head -c 1 gas-program/gas.hex",
            folder);
        ck_assert_msg(answer.code == 0, "%s: %s%s", boards[i][0], answer.out, answer.err);
        ck_assert_contains(answer.out,
                           "main.c is yours to change\nnext: make -C gas-program flash PORT=/dev/tty");
        ck_assert(g_str_has_suffix(answer.out, ":"));
    }
}

TEST(other_folders_are_refused)
{
    g_autofree char *folder = make_plan("uno", "8", "");
    g_free(write_file("program/full/note", "mine"));
    static const refusal wrong[] = {
        {"--as sketch --into full gas.plan", 3,
         "the folder full isn't empty, and isn't a sketch; nothing was written"},
        {"--as sketch --into 'a b' gas.plan", 2, "a sketch can't be called 'a b'"},
        {"--as sketch --into full/note gas.plan", 3, "Not a directory"},
        {"--as hex gas.plan", 2, "--as is 'hex'; it must be program or sketch"},
        {"--as program $EXAMPLES/lantern/desk.plan", 1,
         "a keyboard needs the USB of the IDE's core: bake it --as sketch"},
        {"--as sketch pico.plan", 1, "the library has no port for the RP2040"},
        {"--as program --into theirs gas.plan", 3,
         "the folder theirs has another program ('Written by dromikos: a sketch.'), not a program"},
    };
    g_free(write_file("program/pico.plan",
                      "plan \"x\"\nboard rpipico\nreceiver on pin GP8\nhandset wand from "
                      "\"wand.csv\"\nrelay bell on pin GP7, on a relay board\n"
                      "when wand.play pressed: bell on\n"));
    g_auto(said) made =
        run_shell("cd %s && rm -rf theirs && $DROMIKOS bake --as sketch --into theirs gas.plan", folder);
    ck_assert_int_eq(made.code, 0);
    g_autofree char *before = g_strdup_printf("cd '%s' && $DROMIKOS bake ", folder);
    ASSERT_REFUSED(before, wrong);
    g_auto(said) listed =
        run_shell("cd %s && ls full; ls -d 'a b' 2>/dev/null; ls theirs/Makefile 2>/dev/null", folder);
    ck_assert_str_eq(listed.out, "note\n");
}

SUITE("program")
