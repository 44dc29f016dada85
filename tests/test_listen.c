/* listen, as a process. */
#include "support.h"

#include "sim.h"

TEST(demo_capture_is_reported_frame_by_frame)
{
    g_auto(said) heard = run_shell("$DROMIKOS listen --format jsonl $EXAMPLES/lantern/presses.vcd");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_str_eq(heard.err, "");
    g_autoptr(json_t) frames = json_lines(heard.out, "frame");
    static const int commands[] = {67, 94, 69, 69, 71, 9, 70};
    static const json_int_t at_ms[] = {500, 2500, 6500, 7200, 10000, 13500, 14500};
    static const unsigned repeat_frames[] = {1, 27, 0, 1, 24, 4, 0};
    size_t row = 0;
    for (size_t press = 0; press < G_N_ELEMENTS(commands); press++) {
        const json_t *const frame = json_array_get(frames, row++);
        ck_assert_str_eq(json_string_value(json_object_get(frame, "protocol")), "nec");
        ck_assert_int_eq(json_integer_value(json_object_get(frame, "address")), 33);
        ck_assert_int_eq(json_integer_value(json_object_get(frame, "command")), commands[press]);
        ck_assert(json_is_false(json_object_get(frame, "ditto")));
        const json_int_t off_us = json_integer_value(json_object_get(frame, "t_us")) - at_ms[press] * 1000;
        ck_assert(off_us >= -40 && off_us <= 40); /* the jitter of the capture */
        for (unsigned i = 0; i < repeat_frames[press]; i++) {
            const json_t *const repeat_frame = json_array_get(frames, row++);
            ck_assert(json_is_true(json_object_get(repeat_frame, "ditto")));
            ck_assert_str_eq(json_string_value(json_object_get(repeat_frame, "protocol")), "nec");
            ck_assert_ptr_null(json_object_get(repeat_frame, "address"));
        }
    }
    ck_assert_uint_eq(json_array_size(frames), row);
}

TEST(sheet_gives_the_keys_their_names)
{
    g_auto(said) heard = run_shell("$DROMIKOS listen --format jsonl --sheet stick=$EXAMPLES/lantern/wand.csv "
                                   "$EXAMPLES/lantern/presses.vcd");
    ck_assert_int_eq(heard.code, 0);
    g_autoptr(json_t) keys = json_lines(heard.out, "key");
    const json_t *const first = json_array_get(keys, 0);
    ck_assert_str_eq(json_string_value(json_object_get(first, "gesture")), "press");
    ck_assert_str_eq(json_string_value(json_object_get(first, "handset")), "stick");
    ck_assert_str_eq(json_string_value(json_object_get(first, "key")), "play");
    ck_assert_int_eq(json_integer_value(json_object_get(first, "command")), 67);
    unsigned presses = 0;
    unsigned holds = 0;
    for (size_t i = 0; i < json_array_size(keys); i++) {
        const char *const gesture = JSON_TEXT(keys, i, "gesture");
        presses += strcmp(gesture, "press") == 0;
        holds += strcmp(gesture, "hold") == 0;
    }
    ck_assert_uint_eq(presses, 7);
    ck_assert_uint_eq(holds, 2);
}

TEST(lists_of_times_are_presses_of_a_handset)
{
    g_auto(said) heard = run_shell("$DROMIKOS listen --format jsonl --sheet $EXAMPLES/lantern/wand.csv "
                                   "$EXAMPLES/lantern/wand-times.txt");
    static const char *const names[] = {"play", "green", "power"};
    ck_assert_int_eq(heard.code, 0);
    g_autoptr(json_t) keys = json_lines(heard.out, "key");
    size_t presses = 0;
    for (size_t i = 0; i < json_array_size(keys); i++) {
        if (strcmp(JSON_TEXT(keys, i, "gesture"), "press") == 0 && presses < G_N_ELEMENTS(names)) {
            ck_assert_str_eq(JSON_TEXT(keys, i, "key"), names[presses++]);
        }
    }
    ck_assert_uint_eq(presses, G_N_ELEMENTS(names));
    g_auto(said) enrolled = run_shell("$DROMIKOS enrol --times 1 $EXAMPLES/lantern/wand-times.txt a b c");
    ck_assert_str_eq(enrolled.out, "key,protocol,address,command,note\n"
                                   "a,nec,0x21,0x43,\nb,nec,0x21,0x5e,\nc,nec,0x21,0x45,\n");
}

TEST(text_is_for_people)
{
    g_auto(said) heard =
        run_shell("$DROMIKOS listen --sheet $EXAMPLES/lantern/wand.csv - <$EXAMPLES/lantern/presses.vcd");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "nec  33 (0x21)  67 (0x43)             88 % wand.play pressed\n");
    ck_assert_contains(heard.out, "nec  the same again                        wand.play repeated\n");
    ck_assert_contains(heard.out, "wand.play released after 108 ms\n");
    ck_assert_contains(heard.out,
                       "\n      2       2   87 %  nec  33 (0x21)  69 (0x45)          wand.power\n");
    ck_assert_ptr_null(strchr(heard.out, '\x1b')); /* no colour except on a terminal */
}

TEST(key_of_no_sheet_has_gestures_too)
{
    g_auto(said) heard = run_shell("$DROMIKOS listen --format jsonl $EXAMPLES/lantern/presses.vcd");
    g_autoptr(json_t) keys = json_lines(heard.out, "key");
    ck_assert_uint_gt(json_array_size(keys), 60);
    ck_assert(json_is_null(json_field(keys, 0, "key")));
}

#define HEAD "$timescale 1 us $end\n$var wire 1 ! ir $end\n$enddefinitions $end\n"

/* A VCD whose mark and space lengths alternate, the line being idle high, or low. */
static char *capture_of(const char *name, const unsigned *us, size_t count, bool is_idle_low)
{
    g_autoptr(GString) text = g_string_new(HEAD);
    unsigned at = 1000;
    for (size_t i = 0; i < count; i++) {
        g_string_append_printf(text, "#%u\n%d!\n", at, (i % 2 == 0) == is_idle_low);
        at += us[i];
    }
    g_string_append_printf(text, "#%u\n%d!\n#%u\n", at, !is_idle_low, at + 50000);
    return write_file(name, text->str);
}

static const unsigned odd_rhythm[] = {3000, 1000, 500, 500, 1000, 500, 500, 500,
                                      1000, 500,  500, 500, 500,  500, 500};

TEST(unknown_burst_is_reported_with_its_fingerprint)
{
    g_autofree char *path = capture_of("odd.vcd", odd_rhythm, G_N_ELEMENTS(odd_rhythm), false);
    g_auto(said) heard = run_shell("$DROMIKOS listen --format jsonl %s", path);
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.err, "nothing recognised");
    g_autoptr(json_t) unknown = json_lines(heard.out, "unknown");
    ck_assert_uint_eq(json_array_size(unknown), 1);
    const json_t *const burst = json_array_get(unknown, 0);
    ck_assert_int_eq(json_integer_value(json_object_get(burst, "t_us")), 1000);
    ck_assert_int_eq(json_integer_value(json_object_get(burst, "intervals")), 15);
    /* Between marks, except the first, the times are short, long, short, long, short, short: the CRC-32 of
     * the bytes 0x10 0x10 0x00. */
    ck_assert_str_eq(json_string_value(json_object_get(burst, "fingerprint")), "a9a56833");
}

TEST(line_that_idles_low_is_read)
{
    g_autofree char *path = capture_of("low.vcd", odd_rhythm, G_N_ELEMENTS(odd_rhythm), true);
    g_auto(said) heard = run_shell("$DROMIKOS listen --idle low %s", path);
    ck_assert_contains(heard.out, "0.001 s  unknown, 15 intervals, ");
}

/* The clock of the core wraps every 71 minutes; the tool's doesn't. */
TEST(times_are_right_after_hours)
{
    g_autoptr(GString) text = g_string_new(HEAD);
    for (unsigned hour = 0; hour < 5; hour++) {
        uint64_t at = hour * UINT64_C(3600000000) + 1000;
        for (size_t i = 0; i < G_N_ELEMENTS(odd_rhythm) + 1; i++) {
            g_string_append_printf(text, "#%" G_GUINT64_FORMAT "\n%d!\n", at, i % 2 != 0);
            at += i < G_N_ELEMENTS(odd_rhythm) ? odd_rhythm[i] : 0;
        }
    }
    g_autofree char *path = write_file("hours.vcd", text->str);
    g_auto(said) heard = run_shell("$DROMIKOS listen --format jsonl %s", path);
    g_autoptr(json_t) unknown = json_lines(heard.out, "unknown");
    ck_assert_uint_eq(json_array_size(unknown), 5);
    for (size_t hour = 0; hour < 5; hour++) {
        const json_t *const burst = json_array_get(unknown, hour);
        ck_assert_int_eq(json_integer_value(json_object_get(burst, "t_us")),
                         (json_int_t)hour * 3600000000 + 1000);
    }
}

/* A table of the core holds 255 codes; a capture may have any number. */
TEST(each_of_many_codes_has_gestures)
{
    enum { CODES = 600 };
    g_autoptr(GString) text = g_string_new(HEAD);
    size_t count = 0;
    sim_bench *const bench = sim_bench_new(1);
    for (uint16_t i = 0; i < CODES; i++) {
        (void)sim_bench_press(bench, &(sim_press){.waveform = &drom_nec_waveform,
                                                  .code = {DROM_NEC, 1 + i / 256, i % 256},
                                                  .at_us = 1000 + i * UINT64_C(300000),
                                                  .held_us = 120000});
    }
    const sim_edge *const edges = sim_bench_edges(bench, &count);
    for (size_t i = 0; i < count; i++) {
        g_string_append_printf(text, "#%" G_GUINT64_FORMAT "\n%d!\n", edges[i].at_us, !edges[i].is_mark);
    }
    sim_bench_free(bench);
    g_autofree char *path = write_file("many.vcd", text->str);
    g_auto(said) heard = run_shell("$DROMIKOS listen --format jsonl %s", path);
    for (const char *const *gesture = (const char *const[]){"press", "repeat", "tap", "release", NULL};
         *gesture != NULL; gesture++) {
        g_autofree char *field = g_strdup_printf("\"gesture\":\"%s\"", *gesture);
        g_auto(GStrv) parts = g_strsplit(heard.out, field, -1);
        ck_assert_uint_eq(g_strv_length(parts) - 1, CODES);
    }
}

/* Where nothing is recognised, listen reports the received signal and a remedy. The awk programs print lines
 * with a fixed number of runs. */
#define RUNS(program) "awk 'BEGIN { srand(3); " program " }' | $DROMIKOS listen -"

TEST(silence_is_explained)
{
    static const refusal lines[] = {
        {"printf '_1000000\n' | $DROMIKOS listen -", 1, "the line never moved"},
        {"sed 's/^0!/x!/; s/^1!/0!/; s/^x!/1!/' $EXAMPLES/lantern/presses.vcd | $DROMIKOS listen -", 1,
         "Try --idle low"},
        {"printf '^3000000_100000\n' | $DROMIKOS listen -", 1, "the line sticks in a mark, once for 3.0 s"},
        {"printf '^3600000000_5000000^3600000000_100000\\n' | $DROMIKOS listen -", 1, "once for 3600.0 s"},
        {"printf '?Ready\nhello\n' | $DROMIKOS listen -", 1, "nothing recognised: no line held runs"},
        {"printf '^9000_4500^562_100000\n' | $DROMIKOS listen -", 1, "4 edges are too few for a frame"},
        {RUNS("for (i = 0; i < 3000; i++) printf(\"^%d_%d\\n\", 10 + rand() * 190, 13000 + rand() * 20000)"),
         1, "only noise"},
        {RUNS("for (i = 0; i < 20; i++) { for (j = 0; j < 20; j++) printf(\"^700_%d\", 500 + 1200 * (j % 3 "
              "== 0)); "
              "print \"^700_60000\" }"),
         1, "a rhythm that no protocol has"},
    };
    ASSERT_REFUSED("", lines);
}

/* A simulated chip behind a pseudo-terminal prints its edges as runs. */
TEST(serial_line_is_heard_as_it_comes)
{
    need_terminal();
    g_auto(said) heard =
        run_shell("fifo=$(mktemp -u); mkfifo $fifo; $SERIAL_CHIP >$fifo & read -r line <$fifo; "
                  "$DROMIKOS listen --format jsonl --sheet $EXAMPLES/lantern/wand.csv $line; "
                  "code=$?; rm $fifo; exit $code");
    ck_assert_int_eq(heard.code, 0);
    g_autoptr(json_t) keys = json_lines(heard.out, "key");
    static const char *const pressed[] = {"play", "power", "play", "power"};
    size_t row = 0;
    for (size_t i = 0; i < json_array_size(keys); i++) {
        const json_t *const key = json_array_get(keys, i);
        if (strcmp(json_string_value(json_object_get(key, "gesture")), "press") == 0) {
            ck_assert_uint_lt(row, G_N_ELEMENTS(pressed));
            ck_assert_str_eq(json_string_value(json_object_get(key, "key")), pressed[row++]);
        }
    }
    ck_assert_uint_eq(row, G_N_ELEMENTS(pressed));
    ck_assert_contains(heard.err, "1 line held no runs, passed over");
    ck_assert_contains(heard.err, " at 115200 baud: press keys; Ctrl-C ends\n");
}

TEST(codes_are_listed_at_the_end_in_decimal_and_hexadecimal)
{
    g_auto(said) heard = run_shell("$DROMIKOS wave --toggle 1 rc5 5 100 | $DROMIKOS listen -");
    ck_assert_contains(heard.out, "rc5  5 (0x05)  100 (0x64)  t1");
    ck_assert_contains(heard.out,
                       "presses  frames  worst  code\n      1       1  100 %  rc5  5 (0x05)  100 (0x64)\n");
}

/* Each of these ends with a message and exit code 1, 2 or 3. */
static const refusal faults[] = {
    {"DROMIKOS_LINES=none $DROMIKOS listen", 3, "there is no serial line (none): is the board plugged in?"},
    {"$DROMIKOS listen a b", 2, "there are too many words"},
    {"$DROMIKOS listen --fromat jsonl x", 2, "did you mean '--format'?"},
    {"$DROMIKOS listen --format yaml x", 2, "--format is 'yaml'; it must be text or jsonl"},
    {"$DROMIKOS listen --idle sideways x", 2, "--idle is 'sideways'; it must be high or low"},
    {"$DROMIKOS listen /no/such.vcd", 3, "/no/such.vcd: can't be read: No such file or directory"},
    {"$DROMIKOS listen /", 3, "/: line 1: can't be read: Is a directory"},
    {"$DROMIKOS listen - </dev/null", 3, "-: line 1: the file is empty, or no VCD"},
    {"head -c 300000 /dev/zero | $DROMIKOS listen -", 3, "the byte 0x00; this is no VCD"},
    {"$DROMIKOS listen $DROMIKOS", 3, "this is no VCD"},
    {"head -c 100 $EXAMPLES/lantern/presses.vcd | $DROMIKOS listen -", 3, "cut short"},
    {"head -c 700 $EXAMPLES/lantern/presses.vcd | $DROMIKOS listen -", 3, "ends in the middle of a"},
    {"$DROMIKOS listen --plan /no/such.plan $EXAMPLES/lantern/presses.vcd", 3,
     "/no/such.plan: can't be read"},
    {"$DROMIKOS listen --plan $EXAMPLES/lantern/wand.csv $EXAMPLES/lantern/presses.vcd", 1,
     "wand.csv:1:1: 'key' begins no statement"},
    {"$DROMIKOS listen --sheet /no/such.csv $EXAMPLES/lantern/presses.vcd", 3, "/no/such.csv: can't be read"},
    {"$DROMIKOS listen --sheet $EXAMPLES/lantern/lantern.plan $EXAMPLES/lantern/presses.vcd", 1,
     "is missing"},
    {"$DROMIKOS listen --baud 0 x", 2,
     "listen: --baud is 0; it must be 9600, 19200, 38400, 57600, 115200 or 230400"},
    {"echo '# nothing but this' | $DROMIKOS listen -", 3, "-: line 1: there is nothing in it but comments"},
    {"$DROMIKOS listen $EXAMPLES/lantern/presses.vcd >/dev/full", 3,
     "standard output can't be written: No space"},
};

TEST(bad_input_ends_with_a_message)
{
    ASSERT_REFUSED("", faults);
}

TEST(reader_who_has_had_enough_sees_no_complaint)
{
    g_auto(said) heard =
        run_shell("(sleep 0.3; $DROMIKOS listen $EXAMPLES/lantern/presses.vcd; echo $? >&2) | true");
    ck_assert_str_eq(heard.err, "3\n");
}

TEST(cut_capture_still_reports_what_came_before)
{
    g_auto(said) heard =
        run_shell("head -c 4000 $EXAMPLES/lantern/presses.vcd | $DROMIKOS listen --format jsonl -");
    ck_assert_int_eq(heard.code, 3);
    g_autoptr(json_t) frames = json_lines(heard.out, "frame");
    ck_assert_uint_gt(json_array_size(frames), 10);
}

/* The address sanitizer maps terabytes of address space, so it can't run with a limit. */
#if defined(__SANITIZE_ADDRESS__)
#define MEMORY_LIMIT ""
#elif defined(__has_feature)
#if __has_feature(address_sanitizer)
#define MEMORY_LIMIT ""
#endif
#endif
#ifndef MEMORY_LIMIT
#define MEMORY_LIMIT "ulimit -v 100000; "
#endif

/* Two million edges: memory must not grow with them, so that a capture may have any size. */
TEST(huge_capture_is_read_in_little_memory)
{
    g_auto(said) heard = run_shell(
        MEMORY_LIMIT
        "awk 'BEGIN { print \"$timescale 1 us $end $var wire 1 ! ir $end "
        "$enddefinitions $end\"; for (i = 0; i < 1000000; i++) printf(\"#%%d\\n0!\\n#%%d\\n1!\\n\", "
        "1000 * i, 1000 * i + 500) }' | $DROMIKOS listen -");
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.err, "nothing recognised: 1 burst of a rhythm that no protocol has");
}

TEST(vendors_and_boundaries_have_their_fields)
{
    g_auto(said) heard =
        run_shell("$DROMIKOS wave kaseikyo 0x74301230 0x35 | $DROMIKOS listen --format jsonl -");
    ck_assert_contains(heard.out, "\"protocol\":\"kaseikyo\",\"address\":4656,\"command\":53,");
    ck_assert_contains(heard.out, "\"vendor\":21554");
    said_free(&heard);
    heard = run_shell("$DROMIKOS wave --frames 4 nrc17 4 35 | $DROMIKOS listen --format jsonl -");
    g_autoptr(json_t) rows = json_lines(heard.out, "frame");
    ck_assert_uint_ge(json_array_size(rows), 3); /* boundary frames of a press are not counted */
    for (size_t i = 0; i < json_array_size(rows); i++) {
        ck_assert_int_eq(JSON_INT(rows, i, "command"), 35);
    }
}

SUITE("listen")
