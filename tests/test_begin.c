/* The way from an empty folder: begin, and what the verbs find by themselves in the folder that it made. */
#include "support.h"

#include "plan/board/boards.h"

#include <string.h>

/* A folder to begin in. To be freed. */
static char *empty_folder(void)
{
    g_autofree char *file = write_file("begun/x", "");
    char *const folder = g_path_get_dirname(file);
    g_auto(said) cleared = run_shell("rm -rf %s/*", folder);
    ck_assert_int_eq(cleared.code, 0);
    return folder;
}

TEST(dromikos_alone_shows_the_six_commands)
{
    g_auto(said) shown = run_shell("$DROMIKOS");
    ck_assert_int_eq(shown.code, 0);
    static const char *const commands[] = {"begin fan --board uno --receiver 8", "listen", "enrol remote",
                                           "rehearse", "bake"};
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        g_autofree char *line = g_strdup_printf("\n  dromikos %s ", commands[i]);
        ck_assert_contains(shown.out, line);
    }
}

/* Every board begins with a plan that works, but for those without a port, which are on paper. */
TEST(every_board_begins_with_a_plan_that_works)
{
    g_autofree char *folder = empty_folder();
    for (const char *const *id = board_ids(); *id != NULL; id++) {
        const bool has_ear = board_by_id(*id, 0)->port != NULL;
        g_auto(said) begun =
            run_shell("cd %s && $DROMIKOS begin of-%s --board %s --sheet $EXAMPLES/lantern/wand.csv "
                      "&& cd of-%s && $DROMIKOS vet && $DROMIKOS rehearse && ls",
                      folder, *id, *id, *id);
        ck_assert_msg(begun.code == 0, "%s: %s%s", *id, begun.out, begun.err);
        ck_assert_str_eq(begun.err, "");
        ck_assert_contains(begun.out, "switched 1 time");
        ck_assert_msg((strstr(begun.out, "-ear\n") != NULL) == has_ear, "%s", begun.out);
    }
}

TEST(a_line_and_a_name_make_a_sheet_and_its_rules)
{
    g_autofree char *folder = empty_folder();
    g_auto(said) enrolled = run_shell(
        "cd %s && $DROMIKOS begin fan --board uno --receiver 2 >../said && cd fan && $SERIAL_CHIP >../line & "
        "while [ ! -s %s/line ]; do sleep 0.02; done; cd %s/fan && DROMIKOS_LINES=\"$(head -n 1 ../line)\" "
        "$DROMIKOS enrol --times 1 remote play power && cat remote.csv fan.plan",
        folder, folder, folder);
    ck_assert_msg(enrolled.code == 0, "%s", enrolled.err);
    ck_assert_contains(enrolled.out, "\nplay,nec,0x21,0x43,\npower,nec,0x21,0x45,\n");
    ck_assert_contains(enrolled.out,
                       "\nhandset remote from \"remote.csv\"\nwhen remote.play pressed: light toggle\n"
                       "# when remote.power pressed: light toggle\n");
    ck_assert_contains(enrolled.out, "receiver on pin 2\n\nrelay light on pin 3,");
}

/* Rules are added once, and nothing that is there is changed. */
TEST(rules_are_added_for_new_keys_only)
{
    g_autofree char *folder = empty_folder();
    g_free(write_file("begun/remote.csv", "key,protocol,address,command\nup,nec,1,2\n"));
    static const char edited[] =
        "plan \"x\"\nboard uno\nreceiver on pin 8\nhandset remote from \"remote.csv\"\n"
        "relay bell on pin 7, on a relay board\nwhen remote.up held: bell on";
    g_free(write_file("begun/x.plan", edited));
    g_auto(said) enrolled =
        run_shell("cd %s && $SERIAL_CHIP >line & while [ ! -s %s/line ]; do sleep 0.02; done; cd %s && "
                  "DROMIKOS_LINES=\"$(head -n 1 line)\" $DROMIKOS enrol --times 1 remote play && cat x.plan",
                  folder, folder, folder);
    ck_assert_msg(enrolled.code == 0, "%s", enrolled.err);
    g_autofree char *expected = g_strconcat(edited, "\n# when remote.play pressed: light toggle\n", NULL);
    ck_assert_msg(g_str_has_suffix(enrolled.out, expected), "%s", enrolled.out);
}

TEST(script_of_the_folder_is_rehearsed_once_it_has_rows)
{
    g_autofree char *folder = empty_folder();
    g_auto(said) rehearsed = run_shell(
        "cd %s && $DROMIKOS begin fan --board uno --sheet $EXAMPLES/lantern/wand.csv >/dev/null && cd fan && "
        "$DROMIKOS rehearse && printf '100,wand,power,50,\\n900,wand,power,50,\\n' >>fan.csv && "
        "$DROMIKOS rehearse && $DROMIKOS rehearse power power power",
        folder);
    ck_assert_msg(rehearsed.code == 0, "%s", rehearsed.err);
    static const char *const counts[] = {"\n1 press in ", "\n2 presses in ", "\n3 presses in "};
    const char *at = rehearsed.out;
    for (size_t i = 0; i < G_N_ELEMENTS(counts); i++) {
        at = strstr(at, counts[i]);
        ck_assert_msg(at != NULL, "%s isn't in %s", counts[i], rehearsed.out);
    }
}

TEST(what_cannot_be_found_is_asked_for)
{
    g_autofree char *folder = empty_folder();
    g_free(write_file("begun/full/note", "mine"));
    static const refusal wrong[] = {
        {"vet", 2, "say which plan, or go to its folder: there is none here. 'dromikos begin' makes one"},
        {"rehearse", 2, "say which plan, or go to its folder"},
        {"bake", 2, "say which plan, or go to its folder"},
        {"begin", 2, "something is missing"},
        {"begin fan", 2, "say which board, as in --board uno; known are uno, nano,"},
        {"begin fan --board unno", 2,
         "there is no board 'unno'; known are uno, nano, pro, mini, leonardo, micro, "
         "mega, rpipico, mega328, mega32u4, mega2560, rp2040, esp32; did you mean 'uno'?"},
        {"begin fan --board mega --receiver 7", 2,
         "no interrupt of the ATmega2560 stamps the edges of pin 7"},
        {"begin fan --board uno --receiver 1", 2, "pin 1 is the serial line's"},
        {"begin 'my fan' --board uno", 2, "a plan can't be called 'my fan'"},
        {"begin full --board uno", 3, "full exists and isn't an empty folder; nothing was written"},
        {"begin fan --board uno --sheet nowhere.csv", 3, "nowhere.csv"},
    };
    g_autofree char *before = g_strdup_printf("cd '%s' && $DROMIKOS ", folder);
    ASSERT_REFUSED(before, wrong);
    static const refusal lines[] = {
        {"DROMIKOS_LINES='none*' $DROMIKOS listen", 3,
         "there is no serial line (none*): is the board plugged in?"},
        {"DROMIKOS_LINES='a[12] b' $DROMIKOS listen", 3, "say which serial line; there are a1, a2, b"},
        {"$DROMIKOS vet", 2, "say which plan; here are one.plan, two.plan"},
    };
    static const char *const files[] = {"begun/a1", "begun/a2", "begun/b", "begun/one.plan",
                                        "begun/two.plan"};
    for (size_t i = 0; i < G_N_ELEMENTS(files); i++) {
        g_free(write_file(files[i], ""));
    }
    g_autofree char *there = g_strdup_printf("cd '%s' && ", folder);
    ASSERT_REFUSED(there, lines);
}

TEST(program_that_has_the_line_is_named)
{
    g_autofree char *folder = empty_folder();
    g_auto(said) busy = run_shell("cd %s && $SERIAL_CHIP >line & while [ ! -s %s/line ]; do sleep 0.02; "
                                  "done; line=$(head -n 1 %s/line); "
                                  "flock -n \"$line\" sleep 1 & sleep 0.2; $DROMIKOS listen \"$line\"",
                                  folder, folder, folder);
    ck_assert_int_eq(busy.code, 3);
    ck_assert_contains(busy.err, " has this line open; end it (a serial monitor, perhaps), and try again");
    ck_assert_msg(strstr(busy.err, "(process ") != NULL, "%s", busy.err);
}

SUITE("begin")
