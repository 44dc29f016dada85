/* The tool as a whole, the example, and the front door. */
#include "support.h"

START_TEST(help_names_every_verb)
{
    said heard = run_shell("$DROMIKOS --help");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "listen");
    ck_assert_contains(heard.out, "rehearse");
    ck_assert_contains(heard.out, "Exit codes: 0 done; 1 the answer is no");
    said_free(&heard);
}
END_TEST

START_TEST(each_verb_has_help)
{
    static const char *const verbs[] = {"listen", "rehearse", "wave", "enrol", "infer"};
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++) {
        said heard = run_shell("$DROMIKOS %s --help", verbs[i]);
        ck_assert_int_eq(heard.code, 0);
        ck_assert_str_eq(heard.err, "");
        ck_assert_contains(heard.out, verbs[i]);
        ck_assert_contains(heard.out, "Options:");
        said_free(&heard);
    }
}
END_TEST

START_TEST(version_is_told)
{
    said heard = run_shell("$DROMIKOS --version");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_str_eq(heard.out, "dromikos " DROM_VERSION "\n");
    said_free(&heard);
}
END_TEST

START_TEST(wrong_commands_are_told_what_would_be_right)
{
    static const struct {
        const char *command;
        const char *told;
    } wrong[] = {
        {"$DROMIKOS", "say what to do; 'dromikos --help' lists the verbs"},
        {"$DROMIKOS lisen x", "there is no verb 'lisen'; the verbs are: listen, enrol, infer, vet, "
                              "bake, wave, rehearse; did you mean 'listen'?"},
        {"$DROMIKOS --verison", "there is no option '--verison'"},
        {"$DROMIKOS ''", "there is no verb ''"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(wrong); i++) {
        said heard = run_shell("%s", wrong[i].command);
        ck_assert_int_eq(heard.code, 2);
        ck_assert_contains(heard.err, wrong[i].told);
        said_free(&heard);
    }
}
END_TEST

START_TEST(wave_refuses_what_can_not_be_sent)
{
    static const struct {
        const char *command;
        int code;
        const char *told;
    } wrong[] = {
        {"$DROMIKOS wave nex 1 2", 2, "there is no protocol 'nex'; known are: nec, necx"},
        {"$DROMIKOS wave nec 256 2", 2, "the address '256' must be a whole number from 0 to 255 (0xff)"},
        {"$DROMIKOS wave nec 1 0x1g", 2, "the command '0x1g' must be a whole number"},
        {"$DROMIKOS wave rc6a 5 1", 2, "must be a whole number from 4194304 to 8388607"},
        {"$DROMIKOS wave nec 1", 2, "nec needs an address and a command, as in: dromikos wave nec 1 2"},
        {"$DROMIKOS wave --frames -1 nec 1 2", 2, "--frames must be 1 to 10000"},
        {"$DROMIKOS wave --toggle 2 rc5 1 2", 2, "--toggle 0 or 1"},
        {"$DROMIKOS wave /no/such.csv power", 3, "/no/such.csv: can't be read"},
        {"$DROMIKOS wave $EXAMPLES/lantern/wand.csv powr", 1, "has no key 'powr'; did you mean 'power'?"},
        {"$DROMIKOS wave nec 1 2 >/dev/full", 3, "standard output can't be written"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(wrong); i++) {
        said heard = run_shell("%s", wrong[i].command);
        ck_assert_contains(heard.err, wrong[i].told);
        ck_assert_msg(heard.code == wrong[i].code, "%s: %d", wrong[i].command, heard.code);
        said_free(&heard);
    }
}
END_TEST

/* What wave writes, listen reads: so many frames, from either kind of file and either way to name a key. */
START_TEST(wave_writes_what_listen_reads)
{
    static const char *const commands[] = {
        "wave --frames 4 samsung32 7 0x02",
        "wave --frames 4 --format csv samsung32 7 2",
    };
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        said heard = run_shell("$DROMIKOS %s | $DROMIKOS listen --format jsonl -", commands[i]);
        json_t *const frames = json_lines(heard.out, "frame");
        ck_assert_uint_eq(json_array_size(frames), 4);
        ck_assert_int_eq(json_integer_value(json_object_get(json_array_get(frames, 3), "address")), 7);
        ck_assert_int_eq(json_integer_value(json_object_get(json_array_get(frames, 3), "t_us")),
                         50000 + 3 * 108000);
        json_decref(frames);
        said_free(&heard);
    }
    said heard =
        run_shell("$DROMIKOS wave $EXAMPLES/lantern/wand.csv red | $DROMIKOS listen --format jsonl -");
    ck_assert_contains(heard.out, "\"address\":33,\"command\":12,");
    said_free(&heard);
}
END_TEST

START_TEST(example_in_c_switches_its_relays)
{
    said heard = run_shell("$LANTERN");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_str_eq(heard.out, " 0.000 s  spot off\n"
                                " 0.000 s  bell off\n"
                                " 3.068 s  bell on\n"
                                " 3.868 s  bell off\n"
                                " 4.068 s  spot on\n"
                                " 5.068 s  bell on\n"
                                " 5.868 s  bell off\n"
                                " 6.068 s  spot off\n");
    said_free(&heard);
}
END_TEST

/* What the plan doesn't name isn't linked. */
START_TEST(example_in_c_has_only_its_own_protocol)
{
    said heard = run_shell("nm $LANTERN | grep ' drom_'");
    ck_assert_contains(heard.out, "drom_nec\n");
    ck_assert_contains(heard.out, "drom_pulse_step\n");
    static const char *const others[] = {"drom_rc5", "drom_samsung32", "drom_phase_step", "drom_quad_step",
                                         "drom_waveforms"};
    for (size_t i = 0; i < G_N_ELEMENTS(others); i++) {
        ck_assert_msg(strstr(heard.out, others[i]) == NULL, "%s is linked", others[i]);
    }
    said_free(&heard);
}
END_TEST

START_TEST(example_in_c_is_short)
{
    said heard = run_shell("wc -l <$EXAMPLES/lantern/lantern.c");
    ck_assert_int_lt(atoi(heard.out), 60);
    said_free(&heard);
}
END_TEST

START_TEST(front_door_says_how_it_is_opened)
{
    said heard = run_shell("$EXAMPLES/../run help");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "./run WORD");
    ck_assert_contains(heard.out, "demo");
    said_free(&heard);
    heard = run_shell("$EXAMPLES/../run dmeo");
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.err, "there is no word 'dmeo'");
    said_free(&heard);
}
END_TEST

/* Without packages, without root and without sudo it can only say what to type. */
START_TEST(front_door_without_root_says_what_to_type)
{
    said heard = run_shell(
        "dir=$(mktemp -d); "
        "printf '#!/bin/sh\\nexit 1\\n' >$dir/dpkg-query; printf '#!/bin/sh\\necho 1000\\n' >$dir/id; "
        "chmod +x $dir/*; for tool in dirname grep cat mkdir sh; do ln -s $(command -v $tool) $dir/; done; "
        "PATH=$dir sh $EXAMPLES/../run demo; code=$?; rm -r $dir; exit $code");
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(
        heard.err,
        "there is no root and no sudo here. As root, type:\n    apt-get update && apt-get install");
    said_free(&heard);
}
END_TEST

RUN_TESTS("tool", help_names_every_verb, each_verb_has_help, version_is_told,
          wrong_commands_are_told_what_would_be_right, wave_refuses_what_can_not_be_sent,
          wave_writes_what_listen_reads, example_in_c_switches_its_relays,
          example_in_c_has_only_its_own_protocol, example_in_c_is_short, front_door_says_how_it_is_opened,
          front_door_without_root_says_what_to_type)
