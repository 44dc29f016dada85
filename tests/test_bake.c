/* What bake writes compiles without a warning, and runs as the plan does on the bench. */
#include "support.h"

#define COMPILE                                                                                              \
    "cc -std=c11 -Wall -Wextra -Wpedantic -Wconversion -Werror -I$EXAMPLES/../include "                      \
    "-I$EXAMPLES/../ports/sim -I%s "

/* Bakes the theatre without the lines in which something stands, compiles it with these flags and a program
 * of tests/bake, and runs that. */
static said run_theatre(const char *program, const char *without, const char *flags)
{
    g_autofree char *path = write_file("unused", "");
    g_autofree char *folder = g_path_get_dirname(path);
    return run_shell("cp $EXAMPLES/lantern/*.csv %s && grep -vE '%s' $EXAMPLES/lantern/lantern.plan "
                     ">%s/lantern.plan && $DROMIKOS bake --into %s %s/lantern.plan && " COMPILE
                     "%s -o %s/theatre $EXAMPLES/../tests/bake/%s %s/lantern_plan.c "
                     "$(find $EXAMPLES/../src $EXAMPLES/../ports/sim -name '*.c') "
                     "$(pkg-config --cflags --libs glib-2.0) -lm && %s/theatre",
                     folder, without, folder, folder, folder, folder, flags, folder, program, folder, folder);
}

static const char story[] = "0 4 1\n0 7 0\n56 7 1\n136 7 0\n200 4 0\n";

TEST(theatre_is_baked_compiled_and_played)
{
    g_auto(said) answer = run_theatre("theatre.c", "no such line", "");
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_contains(answer.out, "lantern_plan.c\n");
    ck_assert_contains(answer.out, story);
}

TEST(program_that_knows_its_one_plan_does_the_same)
{
    g_auto(said) answer = run_theatre(
        "theatre.c", "no such line",
        "-DDROM_PLAN=lantern_plan -DDROM_PORT=theatres_port -DDROM_ENCODES_ANY"); /* the hand's handset does
                                                                                   */
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_contains(answer.out, story);
}

TEST(program_that_sends_one_protocol_sends_it_alike_and_no_other)
{
    g_auto(said) any = run_theatre("burst.c", "no such line", "");
    g_auto(said) one =
        run_theatre("burst.c", "no such line", "-DDROM_PLAN=lantern_plan -DDROM_PORT=theatres_port");
    ck_assert_msg(any.code == 0, "%s", any.err);
    ck_assert_msg(one.code == 0, "%s", one.err);
    ck_assert_contains(any.out, "4500 4500 560 1690 560 1690 560 1690 560 560 ");
    ck_assert_contains(any.out, "another: 0\n");
    ck_assert_contains(one.out, "another: 1\n");
    const char *const burst = strstr(any.out, "4500 ");
    g_autofree char *both = g_strndup(burst, (size_t)(strstr(any.out, "another") - burst));
    ck_assert_contains(one.out, both);
}

TEST(program_of_a_plan_that_needs_little_does_that)
{
    g_auto(said) answer = run_theatre(
        "theatre.c",
        "^(lamp|stepper|strip|palette|sender|at start)|: *(house|revolve|footlights|horn) |exit|spot off",
        "-DDROM_PLAN=lantern_plan -DDROM_PORT=theatres_port -DDROM_ENCODES_ANY");
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_contains(answer.out, "\n56 7 1\n136 7 0\n");
}

TEST(plan_with_everything_compiles_and_an_own_protocol_is_received_but_not_sent)
{
    g_free(write_file(
        "odd.csv", "key,protocol,address,command\na,torch,3,0x1230\nb,nec,3,0x12\nc,unknown,0x12345678,0\n"));
    static const char all[] =
        "plan \"All of it\"\nboard mega328\nreceiver on pin 8\n"
        "protocol torch: 20 bits, lsb first, leader 3000 1000, zero 500 500, one 500 1500\n"
        "handset odd from \"odd.csv\", confirmed\n"
        "repeats after 400 ms, every 200 ms, fastest 50 ms\n"
        "relay bell on pin 7, rest on\nlamp house on pin 5, active low\n"
        "when odd.a pressed or held for 2 s: bell on while held\n"
        "when odd.b tapped twice: house fade to 40 %% over 3 s\n"
        "when odd.c released: house off\n";
    g_autofree char *text = g_strdup_printf(all);
    g_autofree char *path = write_file("odd.plan", text);
    g_autofree char *folder = g_path_get_dirname(path);
    g_auto(said) answer =
        run_shell("cd %s && $DROMIKOS bake odd.plan && " COMPILE "-c odd_plan.c -o odd.o && cat odd_plan.h",
                  folder, folder);
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_contains(answer.out, "DROM_PLAN_CONFIRMS 1");
    ck_assert_contains(answer.out, "DROM_LAMP_SETTINGS(of) ((void)(of), &odd_settings_house)");
    ck_assert_msg(strstr(answer.out, "DROM_PLAN_PHASE") == NULL, "%s", answer.out);
    said_free(&answer);
    g_autofree char *sends = g_strconcat(text, "sender horn on pin 3\nat start: horn send odd.a\n", NULL);
    g_autofree char *other = write_file("sends.plan", sends);
    answer = run_shell("$DROMIKOS bake --into %s %s", folder, other);
    ck_assert_int_eq(answer.code, 1);
    ck_assert_contains(
        answer.err, "'odd.a' is of the plan's own protocol 'torch', which a chip can receive and not send");
}

TEST(name_becomes_an_identifier)
{
    g_autofree char *plan =
        write_file("2nd-stage.v1.plan", "plan \"x\"\nboard mega328\nreceiver on pin 8\nrelay bell on pin 7\n"
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
    ck_assert_contains(answer.out, "\nlantern_plan.c\nlantern_plan.h\n");
    said_free(&answer);
    answer = run_shell("$DROMIKOS bake --into %s/below $EXAMPLES/lantern/lantern.plan", file);
    ck_assert_int_eq(answer.code, 3);
    ck_assert_contains(answer.err, "file/below can't be made: Not a directory");
}

SUITE("bake")
