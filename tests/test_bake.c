/* Baked plans compile without a warning, and run as they do on the bench. */
#include "support.h"

#define WARNINGS "cc -std=c11 -Wall -Wextra -Wpedantic -Wconversion -Werror "
#define COMPILE WARNINGS "-I$EXAMPLES/../include -I$EXAMPLES/../ports/sim -I%s "

/* Shell commands in a folder: the library with this drom_config.h, and a program of tests/bake. */
#define BUILD                                                                                                \
    "rm -rf library && mkdir library && cp -R $EXAMPLES/../include $EXAMPLES/../src $EXAMPLES/../ports "     \
    "library && "                                                                                            \
    "cp %s library/include/dromikos/drom_config.h && " WARNINGS "-I. -Ilibrary/include -Ilibrary/ports/sim " \
    "-o program $EXAMPLES/../tests/bake/%s %s $(find library/src library/ports/sim -name '*.c') "            \
    "$(pkg-config --cflags --libs glib-2.0) -lm && ./program"

static char *new_folder(void)
{
    static unsigned count;
    g_autofree char *name = g_strdup_printf("%u/unused", ++count);
    g_autofree char *path = write_file(name, "");
    return g_path_get_dirname(path);
}

/* Bakes the theatre without the lines that contain a text, compiles it with a drom_config.h and a program of
 * tests/bake, and runs it. */
static said run_theatre(const char *without, const char *config)
{
    g_autofree char *folder = new_folder();
    return run_shell("cd %s && cp $EXAMPLES/lantern/*.csv . && grep -vE '%s' $EXAMPLES/lantern/lantern.plan "
                     ">lantern.plan && $DROMIKOS bake lantern.plan && " BUILD,
                     folder, without, config, "theatre.c", "lantern_plan.c");
}

#define UNBOUND "$EXAMPLES/../include/dromikos/drom_config.h"
#define BOUND "drom_config.h"

static const char story[] = "0 4 1\n0 7 0\n56 7 1\n136 7 0\n200 4 0\n";

TEST(theatre_is_baked_compiled_and_played)
{
    g_auto(said) answer = run_theatre("no such line", UNBOUND);
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_contains(answer.out, "lantern_plan.c\n");
    ck_assert_contains(answer.out, story);
}

TEST(program_that_knows_its_one_plan_does_the_same)
{
    g_auto(said) answer = run_theatre("no such line", BOUND);
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_contains(answer.out, story);
}

TEST(program_of_a_plan_that_needs_little_does_that)
{
    g_auto(said) answer = run_theatre(
        "^(lamp|stepper|strip|palette|sender|at start)|: *(house|revolve|footlights|horn) |exit|spot off",
        BOUND);
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_contains(answer.out, "\n56 7 1\n136 7 0\n");
}

TEST(plan_that_needs_what_is_switched_off_is_refused)
{
    g_autofree char *config = write_file("no_pwm/no_pwm.h", "#define DROM_WITH_PWM 0\n");
    g_autofree char *folder = g_path_get_dirname(config);
    g_auto(said) answer = run_shell("cd %s && " BUILD, folder, config, "refused.c", "");
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_str_eq(answer.out, "plan: drom_config.h must switch on DROM_WITH_PWM\n");
    said_free(&answer);
    answer =
        run_shell("cd %s && $DROMIKOS bake $EXAMPLES/lantern/lantern.plan && cp no_pwm.h drom_config.h && "
                  "cp -R library/include . && cp no_pwm.h include/dromikos/drom_config.h && " WARNINGS
                  "-Iinclude -c lantern_plan.c",
                  folder);
    ck_assert_int_ne(answer.code, 0);
    ck_assert_contains(answer.err,
                       "this plan needs DROM_WITH_PWM: use the drom_config.h that was baked with it");
}

TEST(program_and_library_with_different_switches_dont_link)
{
    g_autofree char *folder = new_folder();
    g_auto(said) answer =
        run_shell("cd %s && cp -R $EXAMPLES/../include $EXAMPLES/../src . && " WARNINGS
                  "-Iinclude -I$EXAMPLES/../ports/sim -c $EXAMPLES/../tests/bake/refused.c && "
                  "echo '#define DROM_WITH_PWM 0' >include/dromikos/drom_config.h && " WARNINGS
                  "-Iinclude -o program refused.o $(find src -name '*.c')",
                  folder);
    ck_assert_int_ne(answer.code, 0);
    ck_assert_contains(answer.err, "undefined reference to `drom_engine_start_with_01111111");
}

TEST(plan_with_everything_compiles)
{
    g_free(
        write_file("odd/odd.csv",
                   "key,protocol,address,command\na,torch,3,0x1230\nb,nec,3,0x12\nc,unknown,0x12345678,0\n"));
    static const char all[] =
        "plan \"All of it\"\nboard mega328\nreceiver on pin 8\n"
        "protocol torch: 20 bits, lsb first, leader 3000 1000, zero 500 500, one 500 1500\n"
        "handset odd from \"odd.csv\", confirmed\n"
        "repeats after 400 ms, every 200 ms, fastest 50 ms\n"
        "relay bell on pin 7, rest on, through driver\nlamp house on pin 5, active low\n"
        "when odd.a pressed or held for 2 s: bell on while held\n"
        "when odd.b tapped twice: house fade to 40 %% over 3 s\n"
        "when odd.c released: house off\n";
    g_autofree char *text = g_strdup_printf(all);
    g_autofree char *path = write_file("odd/odd.plan", text);
    g_autofree char *folder = g_path_get_dirname(path);
    g_auto(said) answer = run_shell("cd %s && $DROMIKOS bake odd.plan && " COMPILE
                                    "-c odd_plan.c -o odd.o && cat drom_config.h",
                                    folder, folder);
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_contains(answer.out,
                       "#define DROM_PORT drom_avr_port\n#define DROM_CHIP DROM_CHIP_ATMEGA328P\n#define "
                       "DROM_MHZ 16\n#define DROM_RECEIVER_PIN 8\n");
    ck_assert_contains(answer.out,
                       "DROM_WITH_PWM 1\n#define DROM_WITH_HID 0\n#define DROM_WITH_CONFIRMATION 1\n");
    ck_assert_contains(answer.out, "DROM_WITH_PIXELS 0\n");
}

/* The baked programs run on a simulated chip in ./run test. */
TEST(each_example_is_baked_and_compiles)
{
    g_autofree char *folder = new_folder();
    g_auto(said) answer = run_shell(
        "cd %s && for plan in $EXAMPLES/lantern/*.plan $EXAMPLES/scenes/*.plan; do "
        "rm -rf each && $DROMIKOS bake --into each --name it \"$plan\" >/dev/null && "
        "cp -R $EXAMPLES/../include each && mv each/drom_config.h each/include/dromikos && " WARNINGS
        "-Ieach/include -fsyntax-only each/it_plan.c || echo \"$plan\" >&2; done",
        folder);
    ck_assert_str_eq(answer.err, "");
}

/* One protocol of each family, with a toggle bit and more than 32 bits among them. */
TEST(keys_of_the_plans_own_protocols_are_sent)
{
    static const char all[] =
        "plan \"Torches\"\nboard mega328\nreceiver on pin 8\nhandset odd from \"torch.csv\"\n"
        "protocol torch: 20 bits, lsb first, leader 3000 1000, zero 500 500, one 500 1500, toggle bit 3\n"
        "protocol spark: 40 bits, lsb first, leader 4000 2000, zero 500 500, one 500 1500, carrier 36 kHz\n"
        "protocol flame: 40 bits, msb first, leader 6000 3000, zero 500 500, one 500 1500, toggle bit 2\n"
        "protocol disc: 16 bits, msb first, leader 1500 500, phase 500, one mark first, period 90 ms\n"
        "protocol lamp: 12 bits, leader 1000 500, quad 170 280 170\n"
        "sender horn on pin 3, through driver\n"
        "at start: horn send odd.a 2 times; horn send odd.b; horn send odd.c; horn send odd.d\n"
        "when odd.a pressed: horn send odd.e\nwhen odd.b pressed: horn send odd.e\n";
    g_free(write_file("torch/torch.csv",
                      "key,protocol,address,command\na,torch,3,0x1230\nb,spark,0x123456,0x789a\n"
                      "c,flame,0x3456,0x789a\nd,disc,0,0xc123\ne,lamp,0,0x5b2\n"));
    g_autofree char *path = write_file("torch/torch.plan", all);
    g_autofree char *folder = g_path_get_dirname(path);
    g_auto(said) answer = run_shell("cd %s && $DROMIKOS bake torch.plan >baked && " BUILD, folder, UNBOUND,
                                    "torch.c", "torch_plan.c");
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_str_eq(answer.out,
                     "torch 38 kHz 2\nspark 36 kHz 1\nflame 38 kHz 1\ndisc 38 kHz 1\nlamp 38 kHz 0\n");
}

/* A program with the functions that the header declares: each key calls the function of its rule. */
TEST(names_of_any_script_are_spelt_in_ascii_in_c)
{
    g_auto(said) heard = run_shell(
        "work=$(mktemp -d) && cd $work && printf 'key,protocol,address,command\\nüp,nec,4,1\\n' >hand.csv && "
        "printf 'plan \"Bühne\"\\nboard mega328\\nreceiver on pin 8\\nhandset hand from \"hand.csv\"\\nrelay "
        "größe on pin 4, on a relay board\\n"
        "when hand.üp pressed: größe toggle\\n' >stage.plan && $DROMIKOS bake --into . stage.plan >files && "
        "gcc -std=c11 -Wall -Werror -I$EXAMPLES/../include -I. -c stage_plan.c -o stage.o && nm stage.o; "
        "grep -c gr_u00f6__u00df_e stage_plan.c; head -n 1 stage_plan.c; rm -r $work");
    ck_assert_str_eq(heard.err, "");
    ck_assert_contains(heard.out, "state_gr_u00f6__u00df_e\n");
    ck_assert_contains(heard.out, "The plan \"Bühne\", baked by");
}

/* A title and a text that would end a comment, and names that differ in case alone. */
TEST(whatever_a_plan_says_is_c_when_it_is_baked)
{
    g_free(write_file("case/case.csv", "key,protocol,address,command\nup,nec,4,1\nUP,nec,4,2\n"));
    g_autofree char *path = write_file(
        "case/case.plan", "plan \"Evil */ int x; /*/ \\ ?\?/\"\nboard mega32u4\nreceiver on pin 8\n"
                          "handset hand from \"case.csv\"\nrelay Spot on pin 4\nrelay spot on pin 7\n"
                          "relay spot_2 on pin 12\nrelay int on pin 5\nrelay switches on pin 6\nmode show\n"
                          "mode Show\nkeyboard desk\n"
                          "when hand.up pressed: Spot on; spot on; int on; switches on; mode Show\n"
                          "when hand.UP pressed: spot_2 on; desk type '*/ #error /*'\n"
                          "when Show begins: spot off\n");
    g_autofree char *folder = g_path_get_dirname(path);
    g_auto(said) answer = run_shell(
        "cd %s && $DROMIKOS bake --anyway case.plan && cp -R $EXAMPLES/../include . && cp drom_config.h "
        "include/dromikos && " WARNINGS "-Iinclude -c case_plan.c -o case.o && cat case_plan.h",
        folder);
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_contains(answer.out,
                       "    CASE_OUTPUT_SPOT,\n    CASE_OUTPUT_SPOT_2,\n    CASE_OUTPUT_SPOT_2_2,\n");
    ck_assert_contains(answer.out, "    CASE_MODE_SHOW,\n    CASE_MODE_SHOW_2,\n");
}

TEST(file_that_was_changed_by_hand_is_not_written_over)
{
    static const char *const changes[] = {"echo '/* mine */' >>%s", "sed -i 2d %s", "sed -i '$d' %s",
                                          ": >%s"};
    static const char *const files[] = {"lantern_plan.h", "lantern_plan.c", "drom_config.h"};
    g_autofree char *folder = new_folder();
    for (size_t i = 0; i < G_N_ELEMENTS(files) * G_N_ELEMENTS(changes); i++) {
        const char *const file = files[i % G_N_ELEMENTS(files)];
        g_autoptr(GString) change = g_string_new(changes[i / G_N_ELEMENTS(files)]);
        (void)g_string_replace(change, "%s", file, 0);
        g_auto(said) answer = run_shell("cd %s && rm -rf baked && B='$DROMIKOS bake --into baked' && eval $B "
                                        "$EXAMPLES/lantern/lantern.plan "
                                        ">out && eval $B $EXAMPLES/lantern/stage.plan --name lantern >out && "
                                        "(cd baked && %s && cat * | md5sum "
                                        ">../before) && eval $B $EXAMPLES/lantern/lantern.plan; code=$?; (cd "
                                        "baked && cat * | md5sum) | cmp "
                                        "before - && ls baked && exit $code",
                                        folder, change->str);
        ck_assert_msg(answer.code == 1, "%s: %s", change->str, answer.err);
        ck_assert_contains(answer.err, file);
        ck_assert_contains(answer.err, "was changed since it was baked");
        ck_assert_str_eq(answer.out, "drom_config.h\nlantern_plan.c\nlantern_plan.h\n");
        said_free(&answer);
        answer = run_shell("cd %s && $DROMIKOS bake --anyway --into baked $EXAMPLES/lantern/lantern.plan && "
                           "$DROMIKOS bake --into baked $EXAMPLES/lantern/lantern.plan",
                           folder);
        ck_assert_msg(answer.code == 0, "%s", answer.err);
    }
}

TEST(functions_of_ones_own_are_called_by_the_baked_plan)
{
    g_autofree char *folder = new_folder();
    g_auto(said) answer = run_shell("cd %s && $DROMIKOS bake $EXAMPLES/scenes/organ.plan >files && " COMPILE
                                    "$EXAMPLES/../tests/bake/organ.c organ_plan.c $(find $EXAMPLES/../src "
                                    "$EXAMPLES/../ports/sim -name '*.c') "
                                    "$(pkg-config --cflags --libs glib-2.0) -lm -o organ && ./organ",
                                    folder, folder);
    ck_assert_msg(answer.code == 0, "%s%s", answer.out, answer.err);
    ck_assert_str_eq(answer.out, "play 2, hush 1, play 9, ");
}

/* Without outputs, no output rests; the rule is still valid. */
TEST(rule_that_does_nothing_compiles)
{
    g_free(write_file("idle/wand.csv", "key,protocol,address,command\nup,nec,4,1\n"));
    g_autofree char *plan = write_file(
        "idle/idle.plan", "plan \"Idle\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
                          "value cue from 0 to 2\nwhen wand.up pressed if cue = 1: everything rests\n"
                          "    otherwise: everything rests\n");
    g_autofree char *folder = g_path_get_dirname(plan);
    g_auto(said) answer =
        run_shell("cd '%s' && $DROMIKOS bake idle.plan >files && cp -R $EXAMPLES/../include . && "
                  "cp drom_config.h include/dromikos && " WARNINGS "-Iinclude -c idle_plan.c -o idle.o",
                  folder);
    ck_assert_msg(answer.code == 0, "%s", answer.err);
}

/* A plan that fails in vet is baked only with --anyway. */
TEST(what_fails_is_not_baked)
{
    g_autofree char *folder = new_folder();
    g_autofree char *plan = write_file("weak/weak.plan", "plan \"Weak\"\nboard mega328\nreceiver on pin 8\n"
                                                         "relay bell on pin 7\nat start: bell on\n");
    g_auto(said) answer =
        run_shell("cd %s && $DROMIKOS bake --into weak_out '%s'; echo $?; test ! -e weak_out", folder, plan);
    ck_assert_int_eq(answer.code, 0);
    ck_assert_str_eq(answer.out, "1\n");
    ck_assert_contains(answer.err, "dromikos bake: bell: its load, from pin 7 75 of 20 mA: put a transistor");
    ck_assert_contains(answer.err, "nothing was written");
    said_free(&answer);
    answer = run_shell("cd %s && $DROMIKOS bake --anyway --into weak_out '%s' >files; echo $?; ls weak_out",
                       folder, plan);
    ck_assert_str_eq(answer.out, "0\ndrom_config.h\nweak_plan.c\nweak_plan.h\n");
}

TEST(name_becomes_an_identifier)
{
    g_autofree char *plan =
        write_file("2nd/2nd-stage.v1.plan",
                   "plan \"x\"\nboard mega328\nreceiver on pin 8\nrelay bell on pin 7, on a relay board\n"
                   "at start: bell on\n");
    g_auto(said) heard = run_shell("$DROMIKOS bake --into \"$(dirname '%s')\" '%s'", plan, plan);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "/my_2nd_stage_plan.h\n");
    said_free(&heard);
    heard = run_shell("$DROMIKOS bake --into \"$(dirname '%s')\" --name stage '%s'", plan, plan);
    ck_assert_contains(heard.out, "/stage_plan.c\n");
}

TEST(folder_is_made_where_it_is_missing_or_refused)
{
    g_autofree char *file = write_file("file", "");
    g_auto(said) answer =
        run_shell("d=$(mktemp -d) && $DROMIKOS bake --into $d/new/deep $EXAMPLES/lantern/lantern.plan && "
                  "ls $d/new/deep");
    ck_assert_int_eq(answer.code, 0);
    ck_assert_contains(answer.out, "\ndrom_config.h\nlantern_plan.c\nlantern_plan.h\n");
    said_free(&answer);
    answer = run_shell("$DROMIKOS bake --into %s/below $EXAMPLES/lantern/lantern.plan", file);
    ck_assert_int_eq(answer.code, 3);
    ck_assert_contains(answer.err, "file/below can't be made: Not a directory");
}

SUITE("bake")
