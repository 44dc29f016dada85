/* The files that the tool writes: never over its inputs, and each file whole or not at all. */
#include "support.h"

#include <string.h>

/* The theatre in a folder of its own, and other paths to its files. */
#define THEATRE                                                                                              \
    "cd $(mktemp -d) && cp $LANTERN_FILES . && mkdir below && ln lantern.plan hard.svg && ln -s "            \
    "$PWD/wand.csv "                                                                                         \
    "soft.csv && cat * 2>/dev/null | md5sum >../before.$$ && "
#define AS_BEFORE "; code=$?; cat * 2>/dev/null | md5sum | cmp ../before.$$ - && ls | grep -c . && exit $code"

static said in_theatre(const char *command)
{
    g_autoptr(GString) line = g_string_new(THEATRE);
    (void)g_string_replace(line, "$LANTERN_FILES",
                           "$EXAMPLES/lantern/*.plan $EXAMPLES/lantern/*.csv $EXAMPLES/lantern/*.vcd", 0);
    g_string_append_printf(line, "%s%s", command, AS_BEFORE);
    return run_shell("%s", line->str);
}

TEST(nothing_that_is_read_is_written_over_whatever_the_path_to_it)
{
    static const char *const commands[] = {
        "$DROMIKOS rehearse --record presses.csv lantern.plan presses.csv",
        "$DROMIKOS rehearse --record ./presses.csv lantern.plan presses.csv",
        "$DROMIKOS rehearse --record presses.csv lantern.plan - <presses.csv",
        "$DROMIKOS rehearse --report ./lantern.plan lantern.plan presses.csv",
        "$DROMIKOS rehearse --report below/../wand.csv lantern.plan presses.csv",
        "$DROMIKOS rehearse --record soft.csv lantern.plan presses.csv",
        "$DROMIKOS rehearse --record hard.svg lantern.plan presses.csv",
        "$DROMIKOS rehearse --record new --report new lantern.plan presses.csv",
        "$DROMIKOS chart --into hard.svg lantern.plan",
        "$DROMIKOS chart --format png --into soft.csv lantern.plan presses.csv",
        "$DROMIKOS chart --format svg --into $PWD/presses.vcd presses.vcd",
        "$DROMIKOS play --into ./hard.svg lantern.plan",
        "$DROMIKOS play --into soft.csv lantern.plan",
        "$DROMIKOS enrol --sheet ./presses.vcd presses.vcd play",
        "$DROMIKOS enrol --sheet hard.svg --plan lantern.plan presses.vcd play",
        "$DROMIKOS enrol --sheet soft.csv --names wand.csv presses.vcd",
    };
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        g_auto(said) answer = in_theatre(commands[i]);
        ck_assert_msg(answer.code == 2, "%s: %d, %s%s", commands[i], answer.code, answer.out, answer.err);
        ck_assert_msg(strstr(answer.err, "can't be written over") != NULL ||
                          strstr(answer.err, "give them two files") != NULL,
                      "%s: %s", commands[i], answer.err);
    }
}

TEST(baked_file_that_the_plan_is_read_from_is_refused)
{
    g_auto(said) answer =
        in_theatre("cp lantern.plan x_plan.h && cat * 2>/dev/null | md5sum >../before.$$ && "
                   "$DROMIKOS bake --anyway --into . --name x x_plan.h");
    ck_assert_msg(answer.code == 2, "%s%s", answer.out, answer.err);
    ck_assert_contains(answer.err, "x_plan.h is read, and can't be written over");
}

TEST(link_and_rights_stay_as_they_are)
{
    static const struct {
        const char *command;
        const char *begins;
    } rows[] = {{"chart --format svg --into link lantern.plan", "<svg "},
                {"rehearse --report link lantern.plan presses.csv >/dev/null", "<!doctype"},
                {"enrol --times 1 --sheet link presses.vcd play 2>/dev/null", "key,"}};
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        g_auto(said) answer = run_shell(
            "umask 027; cd $(mktemp -d) && cp $EXAMPLES/lantern/* . && mkdir far && ln -s far/real link && "
            "$DROMIKOS %s && stat -c '%%a %%F' link far/real && chmod 604 far/real && cat wand.csv >far/real "
            "&& "
            "$DROMIKOS %s && "
            "stat -c '%%a %%F' link far/real && ls far && head -c %zu far/real",
            rows[i].command, rows[i].command, strlen(rows[i].begins));
        g_autofree char *expected = g_strdup_printf(
            "777 symbolic link\n640 regular file\n777 symbolic link\n604 regular file\nreal\n%s",
            rows[i].begins);
        ck_assert_msg(answer.code == 0, "%s: %s", rows[i].command, answer.err);
        g_autofree char *lower = g_ascii_strdown(answer.out, -1);
        ck_assert_str_eq(lower, expected);
    }
}

/* When the disk is full, the old file stays, and nothing else. */
TEST(file_that_cant_be_written_whole_is_not_written)
{
    static const char *const commands[] = {
        "$DROMIKOS chart --into old lantern.plan --format png",
        "$DROMIKOS rehearse --report old lantern.plan presses.csv >/dev/null",
        "$DROMIKOS rehearse --record old lantern.plan presses.csv >/dev/null",
        "$DROMIKOS enrol --times 1 --sheet old presses.vcd play",
    };
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        g_autofree char *line = g_strdup_printf("cp wand.csv old && cat * 2>/dev/null | md5sum >../before.$$ "
                                                "&& ls | grep -c . && ( trap '' XFSZ; ulimit "
                                                "-f 0; %s )",
                                                commands[i]);
        g_auto(said) answer = in_theatre(line);
        ck_assert_msg(answer.code == 3, "%s: %d %s", commands[i], answer.code, answer.err);
        ck_assert_contains(answer.err, "old: can't be written: File too large");
        g_auto(GStrv) files = g_strsplit(answer.out, "\n", -1);
        ck_assert_str_eq(files[0], files[1]);
    }
}

/* The first one has read the sheet when the second one adds to it. */
TEST(two_enrolments_into_one_sheet_lose_no_key)
{
    g_auto(said) answer = run_shell(
        "cd $(mktemp -d) && $DROMIKOS wave nec 4 1 >up.vcd && $DROMIKOS wave nec 4 2 >down.vcd && mkfifo "
        "line && "
        "printf 'key,protocol,address,command\\nred,nec,4,9\\n' >hand.csv && "
        "( $DROMIKOS enrol --times 1 --sheet hand.csv line up & exec 3>line; "
        "$DROMIKOS enrol --times 1 --sheet ./hand.csv down.vcd down; cat up.vcd >&3; exec 3>&-; wait ) && "
        "cat hand.csv");
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    ck_assert_str_eq(answer.out,
                     "key,protocol,address,command\nred,nec,4,9\ndown,nec,0x04,0x02\nup,nec,0x04,0x01\n");
}

TEST(each_form_of_a_capture_is_rehearsed_and_drawn)
{
    static const char *const forms[] = {
        "cat all.vcd",
        "awk '/^#/ { t = substr($1, 2) } /^[01]!/ { print t \",\" substr($1, 1, 1) }' all.vcd | sed '1i "
        "t_us,ir'",
        "awk '/^#/ { t = substr($1, 2) } /^[01]!/ { print t \";\" substr($1, 1, 1) }' all.vcd | "
        "sed '1i \"Time [us]\";\"Channel 0\"'",
        "awk '/^#/ { t = substr($1, 2) } /^[01]!/ { if (t > 0) print (level + 0 ? \"_\" : \"^\") t - before; "
        "before = t; level = substr($1, 1, 1) } END { print \"_300000\" }' all.vcd",
    };
    g_autofree char *path = write_file("all.vcd", "");
    g_autofree char *folder = g_path_get_dirname(path);
    g_auto(said) made = run_shell("$DROMIKOS rehearse --record '%s' $EXAMPLES/lantern/bell.plan power", path);
    ck_assert_msg(made.code == 0, "%s", made.err);
    for (gsize i = 0; i < G_N_ELEMENTS(forms); i++) {
        g_auto(said) seen =
            run_shell("cd '%s' && %s >form && for from in form - ; do $DROMIKOS rehearse "
                      "$EXAMPLES/lantern/bell.plan $from <form && $DROMIKOS chart --format svg "
                      "$EXAMPLES/lantern/bell.plan $from <form && $DROMIKOS chart --format svg "
                      "$from <form; done",
                      folder, forms[i]);
        unsigned pressed = 0;
        for (const char *at = seen.out; (at = strstr(at, "wand.power pressed")) != NULL; at++) {
            pressed++;
        }
        ck_assert_msg(seen.code == 0 && pressed == 2 && seen.err[0] == '\0', "%s: %s%s", forms[i], seen.out,
                      seen.err);
    }
}

SUITE("files")
