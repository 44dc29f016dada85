/* enrol, as a process: names and presses in, a sheet out. */
#include "sim.h"
#include "support.h"

#define THEATRE "$EXAMPLES/lantern/lantern.plan"

/* Returns the path of a capture of these keys of the wand, one every 800 ms. */
static char *capture_of(const char *const *keys)
{
    g_autoptr(GString) script = g_string_new("at_ms,handset,key,held_ms\n");
    for (unsigned at_ms = 100; *keys != NULL; keys++, at_ms += 800) {
        g_string_append_printf(script, "%u,wand,%s,90\n", at_ms, *keys);
    }
    g_autofree char *script_path = write_file("presses.csv", script->str);
    char *const path = write_file("presses.vcd", "");
    g_auto(said) heard =
        run_shell("$DROMIKOS rehearse --record %s " THEATRE " %s >/dev/null", path, script_path);
    ck_assert_int_eq(heard.code, 0);
    return path;
}

#define CAPTURE(...) capture_of((const char *const[]){__VA_ARGS__, NULL})

TEST(two_presses_of_each_key_make_a_sheet)
{
    g_autofree char *path = CAPTURE("power", "power", "menu", "menu");
    g_auto(said) heard = run_shell("$DROMIKOS enrol %s mains list", path);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_str_eq(heard.err, "");
    ck_assert_str_eq(heard.out,
                     "key,protocol,address,command,note\nmains,nec,0x21,0x45,\nlist,nec,0x21,0x47,\n");
}

TEST(presses_that_disagree_are_reported_and_the_next_ones_count)
{
    g_autofree char *path = CAPTURE("power", "menu", "power", "power", "exit", "exit");
    g_auto(said) heard = run_shell("$DROMIKOS enrol %s mains way_out", path);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.err, "two presses of 'mains' disagree");
    ck_assert_contains(heard.out, "mains,nec,0x21,0x45,\nway_out,nec,0x21,0x46,\n");
}

TEST(two_names_for_one_code_are_refused_unless_forced)
{
    g_autofree char *path = CAPTURE("power", "power", "power", "power");
    g_auto(said) heard = run_shell("$DROMIKOS enrol %s on off", path);
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.err, "'off' sends the code of 'on'; the next presses are taken for it");
    ck_assert_contains(heard.err,
                       "the presses end before 'off'; each key must be pressed 2 times. The keys before it "
                       "are saved");
    ck_assert_str_eq(heard.out, "key,protocol,address,command,note\non,nec,0x21,0x45,\n");
    said_free(&heard);
    heard = run_shell("$DROMIKOS enrol --allow-twins %s on off", path);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "on,nec,0x21,0x45,\noff,nec,0x21,0x45,\n");
}

TEST(code_that_another_name_has_is_asked_for_again)
{
    g_autofree char *path = CAPTURE("power", "power", "power", "power", "menu", "menu");
    g_auto(said) heard = run_shell("$DROMIKOS enrol %s on off", path);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.err, "'off' sends the code of 'on'");
    ck_assert_str_eq(heard.out, "key,protocol,address,command,note\non,nec,0x21,0x45,\noff,nec,0x21,0x47,\n");
}

TEST(each_key_is_saved_when_it_is_known)
{
    need_terminal();
    g_autofree char *path = CAPTURE("power", "power", "menu");
    g_autofree char *sheet = write_file("saved.csv", "key,protocol,address,command\nold,nec,1,2\n");
    g_auto(said) heard = run_shell("$DROMIKOS enrol --sheet %s %s mains list; cat %s", sheet, path, sheet);
    ck_assert_contains(heard.err, "the presses end before 'list' agrees with itself");
    ck_assert_str_eq(heard.out, "key,protocol,address,command\nold,nec,1,2\nmains,nec,0x21,0x45\n");
    said_free(&heard);
    heard =
        run_shell("fifo=$(mktemp -u); mkfifo $fifo; $SERIAL_CHIP >$fifo & read -r line <$fifo; "
                  "$DROMIKOS enrol --times 1 --sheet %s $line play mains menu 2>&1 & sleep 2; kill -INT $!; "
                  "wait $!; rm $fifo; cat %s",
                  sheet, sheet);
    ck_assert_contains(heard.out, "mains,nec,0x21,0x45\nplay,nec,0x21,0x43\n");
}

/* Writes a burst of marks that no handset sends: another one for each seed. */
static void add_burst(sim_bench *bench, uint64_t at_us, uint32_t seed)
{
    GRand *const dice = g_rand_new_with_seed(seed);
    for (int i = 0; i < 12; i++) {
        sim_bench_add_edge(bench, at_us, true);
        at_us += (uint64_t)g_rand_int_range(dice, 300, 900);
        sim_bench_add_edge(bench, at_us, false);
        at_us += (uint64_t)g_rand_int_range(dice, 300, 3000);
    }
    g_rand_free(dice);
}

TEST(noise_is_reported_as_noise_and_never_becomes_a_key)
{
    static const drom_code power = {DROM_NEC, 33, 69};
    sim_bench *const bench = sim_bench_new(1);
    g_autoptr(GString) csv = g_string_new("t_us,ir\n0,1\n");
    add_burst(bench, 100000, 1);
    add_burst(bench, 400000, 2);
    (void)sim_bench_press_once(bench, &drom_nec_waveform, &power, 800000);
    add_burst(bench, 1200000, 3);
    add_burst(bench, 1500000, 4);
    (void)sim_bench_press_once(bench, &drom_nec_waveform, &power, 1900000);
    size_t count = 0;
    const sim_edge *const edges = sim_bench_edges(bench, &count);
    for (size_t i = 0; i < count; i++) {
        g_string_append_printf(csv, "%u,%d\n", (unsigned)edges[i].at_us, !edges[i].is_mark);
    }
    g_string_append(csv, "2900000,1\n");
    g_autofree char *path = write_file("noise.csv", csv->str);
    for (int times = 1; times <= 2; times++) {
        g_auto(said) heard = run_shell("$DROMIKOS enrol --times %d %s mains", times, path);
        ck_assert_int_eq(heard.code, 0);
        ck_assert_contains(heard.err, "0.4 s: noise, passed over\n");
        ck_assert_msg(strstr(heard.err, "disagree") == NULL, "%s", heard.err);
        ck_assert_str_eq(heard.out, "key,protocol,address,command,note\nmains,nec,0x21,0x45,\n");
    }
    sim_bench_free(bench);
}

TEST(existing_sheet_keeps_its_order_and_notes)
{
    g_autofree char *path = CAPTURE("power", "power", "menu", "menu", "exit", "exit");
    g_autofree char *sheet =
        write_file("mine.csv", "Note;key;protocol;address;command;colour\r\n"
                               "\"the big one; \"\"red\"\"\";exit;nec;1;2;red\r\n"
                               "keep me;other;rc5;5;6;\r\n\r\nand this;power;nec;9;9;blue");
    g_auto(said) heard = run_shell("$DROMIKOS enrol --sheet %s %s power menu exit", sheet, path);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_str_eq(heard.out, "");
    g_autofree char *text = NULL;
    ck_assert(g_file_get_contents(sheet, &text, NULL, NULL));
    ck_assert_str_eq(text, "Note;key;protocol;address;command;colour\r\n"
                           "\"the big one; \"\"red\"\"\";exit;nec;0x21;0x46;red\r\n"
                           "keep me;other;rc5;5;6;\r\n\r\nand this;power;nec;0x21;0x45;blue\r\n"
                           ";menu;nec;0x21;0x47;\r\n");
}

TEST(other_sheets_of_the_plan_are_looked_at)
{
    g_autofree char *path = CAPTURE("power", "power");
    g_auto(said) heard = run_shell("$DROMIKOS enrol --plan " THEATRE " %s lights", path);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.err, "warning: 'wand.power' of the plan has the code of 'lights'");
}

TEST(toggle_bit_is_seen_and_reported)
{
    g_auto(said) heard =
        run_shell("capture() { $DROMIKOS wave --format csv --toggle $1 rc5 5 53; }; "
                  "{ capture 0; capture 1 | awk -F, 'NR > 2 { printf \"%%d,%%s\\n\", $1 + 900000, $2 }'; } | "
                  "$DROMIKOS enrol - play");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.err, "rc5 has a toggle bit");
    ck_assert_contains(heard.out, "play,rc5,0x05,0x35,\n");
}

TEST(names_come_from_a_file_or_are_typed)
{
    g_autofree char *path = CAPTURE("power", "power", "menu", "menu");
    g_autofree char *names = write_file("names", "mains  # the red one\n\nlist\n");
    g_auto(said) heard = run_shell("$DROMIKOS enrol --names %s %s; $DROMIKOS enrol --names - %s <%s", names,
                                   path, path, names);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_str_eq(heard.out,
                     "key,protocol,address,command,note\nmains,nec,0x21,0x45,\nlist,nec,0x21,0x47,\n"
                     "key,protocol,address,command,note\nmains,nec,0x21,0x45,\nlist,nec,0x21,0x47,\n");
}

TEST(live_keys_are_asked_for_one_by_one)
{
    need_terminal();
    g_auto(said) heard =
        run_shell("fifo=$(mktemp -u); mkfifo $fifo; $SERIAL_CHIP >$fifo & read -r line <$fifo; "
                  "$DROMIKOS enrol --times 1 $line play mains; code=$?; rm $fifo; exit $code");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.err, "press 'play'\n'play' is nec  33 (0x21)  67 (0x43)\npress 'mains'\n");
    ck_assert_contains(heard.out, "play,nec,0x21,0x43,\nmains,nec,0x21,0x45,\n");
}

TEST(bad_input_ends_with_a_message)
{
    static const refusal faults[] = {
        {"$DROMIKOS enrol", 2, "something is missing"},
        {"$DROMIKOS enrol $EXAMPLES/lantern/presses.vcd", 2,
         "say the names of the keys, in the order in which they are pressed: 1 to 255"},
        {"$DROMIKOS enrol $EXAMPLES/lantern/presses.vcd a a", 2, "the name 'a' is given twice"},
        {"$DROMIKOS enrol $EXAMPLES/lantern/presses.vcd 'vol up'", 2,
         "the key name 'vol up' must be made of"},
        {"$DROMIKOS enrol --times 0 x a", 2, "--times is 0; it must be 1 to 10"},
        {"$DROMIKOS enrol --baud 5 x a", 2, "--baud is 5; it must be 9600"},
        {"echo '# a' | $DROMIKOS enrol - a", 3, "there is nothing in it but comments"},
        {"$DROMIKOS enrol --times 1 --sheet /dev/full $EXAMPLES/lantern/presses.vcd a", 3,
         "/dev/full: can't be written: No space left on device"},
        {"$DROMIKOS enrol /no/such.vcd a", 3, "/no/such.vcd: can't be read"},
        {"$DROMIKOS enrol --names /no/such x", 3, "/no/such: can't be read"},
        {"$DROMIKOS enrol --plan /no/such $EXAMPLES/lantern/presses.vcd a", 3, "/no/such: can't be read"},
        {"$DROMIKOS enrol --sheet $EXAMPLES/lantern/lantern.plan $EXAMPLES/lantern/presses.vcd a", 1,
         "is missing"},
        {"$DROMIKOS enrol --times 1 --sheet /no/such/x.csv $EXAMPLES/lantern/presses.vcd a", 3,
         "/no/such/x.csv"},
        {"$DROMIKOS enrol $EXAMPLES/lantern/presses.vcd a b c d e f g h", 1, "the presses end before"},
    };
    ASSERT_REFUSED("", faults);
}

SUITE("enrol")
