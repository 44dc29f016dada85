/* The tool as a whole, the example, and ./run. */
#include "support.h"

TEST(help_names_every_verb)
{
    g_auto(said) heard = run_shell("$DROMIKOS --help");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "listen");
    ck_assert_contains(heard.out, "rehearse");
    ck_assert_contains(heard.out, "Exit codes: 0 done; 1 the answer is no");
}

TEST(each_verb_has_help)
{
    static const char *const verbs[] = {"listen", "rehearse", "wave", "enrol", "infer", "chart"};
    for (size_t i = 0; i < G_N_ELEMENTS(verbs); i++) {
        g_auto(said) heard = run_shell("$DROMIKOS %s --help", verbs[i]);
        ck_assert_int_eq(heard.code, 0);
        ck_assert_str_eq(heard.err, "");
        ck_assert_contains(heard.out, verbs[i]);
        ck_assert_contains(heard.out, "Options:");
    }
}

TEST(verbs_may_be_spelt_as_others_do)
{
    g_auto(said) heard = run_shell("$DROMIKOS check $EXAMPLES/lantern/bell.plan");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "This plan works.");
    said_free(&heard);
    heard = run_shell("$DROMIKOS enroll --times 1 $EXAMPLES/lantern/presses.vcd play");
    ck_assert_int_eq(heard.code, 0);
}

TEST(version_is_printed)
{
    g_auto(said) heard = run_shell("$DROMIKOS --version");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_str_eq(heard.out, "dromikos " DROM_VERSION "\n");
}

TEST(wrong_commands_learn_what_would_be_right)
{
    static const refusal wrong[] = {
        {"$DROMIKOS lisen x", 2,
         "there is no verb 'lisen'; the verbs are: begin, ear, listen, enrol, infer, vet, "
         "bake, wave, rehearse, play, chart; did you mean 'listen'?"},
        {"$DROMIKOS --verison", 2, "there is no option '--verison'"},
        {"$DROMIKOS ''", 2, "there is no verb ''"},
    };
    ASSERT_REFUSED("", wrong);
}

TEST(wave_refuses_what_can_not_be_sent)
{
    static const refusal wrong[] = {
        {"$DROMIKOS wave nex 1 2", 2, "there is no protocol 'nex'; known are: nec, nec_extended"},
        {"$DROMIKOS wave nec 256 2", 2, "the address '256' must be a whole number from 0 to 255 (0xff)"},
        {"$DROMIKOS wave nec 1 0x1g", 2, "the command '0x1g' must be a whole number"},
        {"$DROMIKOS wave rc6a 5 1", 2, "must be a whole number from 4194304 to 8388607"},
        {"$DROMIKOS wave nec 1", 2, "nec needs an address and a command, as in: dromikos wave nec 1 2"},
        {"$DROMIKOS wave --frames -2 nec 1 2", 2, "--frames is -2; it must be 1 to 10000"},
        {"$DROMIKOS wave --frames 0 nec 1 2", 2, "--frames is 0; it must be 1 to 10000"},
        {"$DROMIKOS wave --toggle 2 rc5 1 2", 2, "--toggle is 2; it must be 0 or 1"},
        {"$DROMIKOS wave /no/such.csv power", 3, "/no/such.csv: can't be read"},
        {"$DROMIKOS wave $EXAMPLES/lantern/wand.csv powr", 1, "has no key 'powr'; did you mean 'power'?"},
        {"$DROMIKOS wave nec 1 2 >/dev/full", 3, "standard output can't be written"},
    };
    ASSERT_REFUSED("", wrong);
}

/* Each verb, called with arguments that it refuses. */
TEST(each_verb_refuses_what_it_can_not_take)
{
    static const refusal wrong[] = {
        {"bake", 1, "bad.plan:1:1: 'pan' begins no statement"},
        {"bake --into", 2, "Missing argument for --into"},
        {"bake /no/such.plan", 3, "/no/such.plan: can't be read"},
        {"bake bad.plan", 1, "bad.plan:1:1: 'pan' begins no statement"},
        {"bake --into /dev/null $EXAMPLES/lantern/bell.plan", 3, "/dev/null"},
        {"bake --into full $EXAMPLES/lantern/bell.plan", 3, "bell_plan.h"},
        {"vet", 1, "bad.plan:1:1: 'pan' begins no statement"},
        {"vet --fromat text bad.plan", 2, "Unknown option --fromat; did you mean '--format'?"},
        {"vet --format xml $EXAMPLES/lantern/bell.plan", 2, "--format is 'xml'"},
        {"vet /no/such.plan", 3, "can't be read"},
        {"vet bad.plan", 1, "'pan' begins no statement"},
        {"rehearse bad.plan $EXAMPLES/lantern/bell.csv", 1, "'pan' begins no statement"},
        {"rehearse $EXAMPLES/lantern/bell.plan /no/such.csv", 3, "/no/such.csv"},
        {"rehearse --format xml $EXAMPLES/lantern/bell.plan x", 2, "--format is 'xml'"},
        {"rehearse --idle up $EXAMPLES/lantern/bell.plan x", 2, "--idle is 'up'"},
        {"rehearse --jitter nan $EXAMPLES/lantern/bell.plan x", 2, "--jitter"},
        {"rehearse --jitter 1001 $EXAMPLES/lantern/bell.plan x", 2, "--jitter"},
        {"rehearse $EXAMPLES/lantern/bell.plan cut.vcd", 3, "is it cut short?"},
        {"rehearse --signal nope $EXAMPLES/lantern/bell.plan $EXAMPLES/lantern/presses.vcd", 2, "'nope'"},
        {"rehearse $EXAMPLES/lantern/bell.plan junk.runs", 3, "held no runs, passed over"},
        {"infer --idle up $EXAMPLES/lantern/presses.vcd", 2, "--idle is 'up'"},
        {"infer cut.vcd", 3, "is it cut short?"},
        {"infer two.csv", 2, "say which one with --signal NAME"},
        {"enrol cut.vcd play", 3, "is it cut short?"},
        {"enrol --times 0 $EXAMPLES/lantern/presses.vcd play", 2, "--times is 0"},
        {"enrol --idle up $EXAMPLES/lantern/presses.vcd play", 2, "--idle is 'up'"},
        {"enrol --sheet bad.csv $EXAMPLES/lantern/presses.vcd play", 1, "bad.csv:1:1"},
        {"enrol --sheet . $EXAMPLES/lantern/presses.vcd play", 3, "."},
        {"enrol --plan bad.plan $EXAMPLES/lantern/presses.vcd play", 1, "'pan' begins no statement"},
        {"enrol --names /no/such $EXAMPLES/lantern/presses.vcd", 3, "/no/such"},
        {"listen --idle up $EXAMPLES/lantern/presses.vcd", 2, "--idle is 'up'"},
        {"listen --plan bad.plan $EXAMPLES/lantern/presses.vcd", 1, "'pan' begins no statement"},
        {"wave --format png nec 4 70", 2, "--format is 'png'"},
        {"wave strange.csv odd", 1, "'odd' is known by its fingerprint alone, which can't be sent"},
        {"wave --toggle -1 rc5 1 2", 2, "--toggle is -1; it must be 0 or 1"},
        {"ear --board mega328", 2, "say which board, which pin, and where to"},
        {"ear --board mega328 --receiver 8", 2, "say which board, which pin, and where to"},
    };
    g_autofree char *bad = write_file("wrong/bad.plan", "pan \"x\"\n");
    g_free(write_file("wrong/bad.csv", "k,p\n"));
    g_free(write_file("wrong/full/bell_plan.h/note", "in the way"));
    g_free(write_file("wrong/cut.vcd", "$timescale 1 us $end"));
    g_free(write_file("wrong/two.csv", "t_us,a,b\n1,0,0\n2,1,1\n"));
    g_free(write_file("wrong/junk.runs", "^x\n^y\n"));
    g_free(write_file("wrong/strange.csv", "key,protocol,address,command,note\nodd,unknown,0xdeadbeef,0,\n"));
    g_autofree char *folder = g_path_get_dirname(bad);
    g_autofree char *before = g_strdup_printf("cd '%s' && $DROMIKOS ", folder);
    ASSERT_REFUSED(before, wrong);
}

/* In a folder of the test's own: the files afterwards. */
TEST(ear_is_a_whole_program)
{
    static const char *const files[] = {"Makefile",
                                        "LICENSE",
                                        "little-ear.ino",
                                        "src/ports/avr/ear/main.c",
                                        "src/ports/avr/ear/ear.c",
                                        "src/ports/avr/avr.c",
                                        "src/ports/avr/serial.c",
                                        "src/src/receive/ring.c",
                                        "src/include/dromikos/engine.h"};
    g_autofree char *config_path = write_file("little-ear/src/include/dromikos/drom_config.h", "");
    g_autofree char *folder =
        g_strndup(config_path, (gsize)(strstr(config_path, "/src/include") - config_path));
    g_auto(said) heard =
        run_shell("rm -r '%s'; $DROMIKOS ear --board mega328 --receiver A0 --into '%s'", folder, folder);
    ck_assert_msg(heard.code == 0, "%s", heard.err);
    ck_assert_contains(heard.out, "an ear for the ATmega328P, with the receiver on pin A0");
    ck_assert_contains(heard.out, "\nnext: open ");
    said_free(&heard);
    for (size_t i = 0; i < G_N_ELEMENTS(files); i++) {
        g_autofree char *path = g_build_filename(folder, files[i], NULL);
        ck_assert_msg(g_file_test(path, G_FILE_TEST_IS_REGULAR), "there is no %s", path);
    }
    g_autofree char *config = NULL;
    ck_assert(g_file_get_contents(config_path, &config, NULL, NULL));
    ck_assert_contains(config, "#define DROM_RECEIVER_PIN 14\n");
    heard = run_shell("$DROMIKOS ear --board mega328 --receiver 8 --into '%s'",
                      folder); /* it is a folder that ear wrote */
    ck_assert_int_eq(heard.code, 0);
    g_clear_pointer(&config, g_free);
    ck_assert(g_file_get_contents(config_path, &config, NULL, NULL));
    ck_assert_contains(config, "#define DROM_RECEIVER_PIN 8\n");
}

TEST(ear_refuses_what_it_can_not_be)
{
    static const refusal wrong[] = {
        {"", 2,
         "say which board, which pin, and where to: dromikos ear --board uno --receiver 8 --into my-ear"},
        {"--board mega382 --receiver 8 --into new", 2,
         "there is no board 'mega382'; known are uno, nano, pro, mini, leonardo, micro, mega, rpipico, "
         "mega328, "
         "mega32u4, mega2560, rp2040, esp32; did you mean 'mega328'?"},
        {"--board rp2040 --receiver GP1 --into new", 2, "there is no ear for rp2040 yet; any capture"},
        {"--board uno --mhz 8 --receiver 8 --into new", 2, "the board uno runs at 16 MHz, not at 8"},
        {"--board leonardo --receiver 5 --into new", 2,
         "no interrupt of the ATmega32U4 stamps the edges of pin 5; take pin 4, for example"},
        {"--board mega328 --receiver 20 --into new", 2,
         "the board mega328 has no pin '20'; it has 0 to 13 and A0 to A5"},
        {"--board mega328 --receiver 1 --into new", 2,
         "pin 1 is the serial line's, over which the ear speaks; take another"},
        {"--board mega328 --receiver 8 --into 'an ear'", 2, "a sketch can't be called 'an ear'"},
        {"--board mega328 --receiver 8 --into full", 3,
         "the folder full isn't empty, and isn't an ear; nothing was written"},
        {"--board mega328 --receiver 8 --into full/note", 3, "Not a directory"},
        {"--board mega328 --receiver 8 --into full/note/new", 3, "can't be made: Not a directory"},
        {"--board mega328 --receiver 8 --into new words", 2, "there are too many words"},
    };
    g_autofree char *note = write_file("full/note", "mine");
    g_autofree char *folder = g_strndup(note, strlen(note) - strlen("/full/note"));
    g_autofree char *before = g_strdup_printf("cd '%s' && $DROMIKOS ear ", folder);
    ASSERT_REFUSED(before, wrong);
    g_auto(said) listed = run_shell("cd '%s' && ls -d new* 'an ear' 2>/dev/null; ls full", folder);
    ck_assert_str_eq(listed.out, "note\n");
}

/* listen reads what wave writes: any number of frames, from both formats, with a key's name in both forms. */
TEST(wave_writes_what_listen_reads)
{
    static const char *const commands[] = {
        "wave --frames 4 samsung32 7 0x02",
        "wave --frames 4 --format csv samsung32 7 2",
    };
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        g_auto(said) heard = run_shell("$DROMIKOS %s | $DROMIKOS listen --format jsonl -", commands[i]);
        g_autoptr(json_t) frames = json_lines(heard.out, "frame");
        ck_assert_uint_eq(json_array_size(frames), 4);
        ck_assert_int_eq(JSON_INT(frames, 3, "address"), 7);
        ck_assert_int_eq(JSON_INT(frames, 3, "t_us"), 50000 + 3 * 108000);
    }
    g_auto(said) heard =
        run_shell("$DROMIKOS wave $EXAMPLES/lantern/wand.csv red | $DROMIKOS listen --format jsonl -");
    ck_assert_contains(heard.out, "\"address\":33,\"command\":12,");
}

TEST(motor_is_driven_by_tables_by_hand)
{
    g_auto(said) heard = run_shell("\"$(dirname \"$(readlink -f $LANTERN)\")/winch\"");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_str_eq(heard.out, " 1.878 s  winch at 80 %\n 4.016 s  winch at 0 %\n"
                                " 6.218 s  winch at -40 %\n 8.345 s  winch at 0 %\n");
}

TEST(example_in_c_switches_its_relays)
{
    g_auto(said) heard = run_shell("$LANTERN");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_str_eq(heard.out, " 0.000 s  spot off\n"
                                " 0.000 s  bell off\n"
                                " 3.068 s  bell on\n"
                                " 3.868 s  bell off\n"
                                " 4.068 s  spot on\n"
                                " 5.068 s  bell on\n"
                                " 5.868 s  bell off\n"
                                " 6.068 s  spot off\n");
}

/* Kinds that the plan lacks aren't linked. */
TEST(example_in_c_has_only_its_own_protocol)
{
    g_auto(said) heard = run_shell("nm $LANTERN | grep ' drom_'");
    ck_assert_contains(heard.out, "drom_nec\n");
    ck_assert_contains(heard.out, "drom_pulse_step\n");
    static const char *const others[] = {"drom_rc5", "drom_samsung32", "drom_phase_step", "drom_quad_step",
                                         "drom_waveforms"};
    for (size_t i = 0; i < G_N_ELEMENTS(others); i++) {
        ck_assert_msg(strstr(heard.out, others[i]) == NULL, "%s is linked", others[i]);
    }
}

TEST(example_in_c_is_short)
{
    g_auto(said) heard = run_shell("wc -l <$EXAMPLES/lantern/lantern.c");
    ck_assert_int_lt(atoi(heard.out), 60);
}

TEST(front_door_says_how_it_is_opened)
{
    g_auto(said) heard = run_shell("$EXAMPLES/../run help");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "./run WORD");
    ck_assert_contains(heard.out, "demo");
    said_free(&heard);
    heard = run_shell("$EXAMPLES/../run dmeo");
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.err, "there is no word 'dmeo'");
}

/* Without packages, root and sudo it can only print the command. */
TEST(front_door_without_root_says_what_to_type)
{
    g_auto(said) heard = run_shell(
        "dir=$(mktemp -d); "
        "printf '#!/bin/sh\\nexit 1\\n' >$dir/dpkg-query; printf '#!/bin/sh\\necho 1000\\n' >$dir/id; "
        "chmod +x $dir/*; for tool in dirname grep cat mkdir sh; do ln -s $(command -v $tool) $dir/; done; "
        "PATH=$dir sh $EXAMPLES/../run demo; code=$?; rm -r $dir; exit $code");
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(
        heard.err,
        "there is no root and no sudo here. As root, type:\n    apt-get update && apt-get install");
}

SUITE("tool")
