/* VCD captures: any timescale, several wires, and the messages for files that are no captures. */
#include "support.h"

#include "capture/capture.h"

#define HEAD                                                                                                 \
    "$timescale 1 us $end\n$scope module top $end\n$var wire 1 ! ir $end\n$upscope $end\n$enddefinitions "   \
    "$end\n"
#define TWO_WIRES                                                                                            \
    "$timescale 1us $end $scope module a $end $var wire 1 ! ir $end $upscope $end "                          \
    "$scope module b $end $var wire 1 \" ir $end $var wire 8 # bus $end $upscope $end $enddefinitions "      \
    "$end\n"

/* Returns a capture as "10 mark, 20 space, end 30"; or its error. */
static char *read_all(const char *text, gsize length, const char *signal, bool is_idle_low)
{
    FILE *const file = fmemopen((void *)text, length, "rb");
    GError *error = NULL;
    GString *const output = g_string_new(NULL);
    capture *const from = file != NULL ? capture_open(file, signal, is_idle_low, &error) : NULL;
    capture_edge edge;
    capture_read read = from != NULL ? capture_next(from, &edge, &error) : CAPTURE_FAULT;
    for (; read == CAPTURE_EDGE || read == CAPTURE_TIME; read = capture_next(from, &edge, &error)) {
        const char *const what = read == CAPTURE_TIME ? "time" : edge.is_mark ? "mark" : "space";
        g_string_append_printf(output, "%" G_GUINT64_FORMAT " %s%s, ", edge.at_us, what,
                               edge.after_loss ? " after loss" : "");
    }
    if (read == CAPTURE_END) {
        g_string_append_printf(output, "end %" G_GUINT64_FORMAT, edge.at_us);
    } else {
        ck_assert_ptr_nonnull(error);
        g_string_append(output, error->message);
        g_error_free(error);
    }
    capture_free(from);
    if (file != NULL) {
        (void)fclose(file);
    }
    return g_string_free(output, FALSE);
}

static void assert_read(const char *text, const char *signal, bool is_idle_low, const char *expected)
{
    g_autofree char *reported = read_all(text, strlen(text), signal, is_idle_low);
    ck_assert_str_eq(reported, expected);
}

TEST(edges_are_read_from_both_kinds_of_line)
{
    assert_read(HEAD "#0\n$dumpvars\n1!\n$end\n#10\n0!\n#20\n1!\n#20\n#30\n", NULL, false,
                "10 mark, 20 space, end 30");
    assert_read(HEAD "#0\n$dumpvars\n0!\n$end\n#10\n1!\n#20\n0!\n#30\n", NULL, true,
                "10 mark, 20 space, end 30");
    assert_read(HEAD "#5 0! #10 x! #12 z! #15 0! #20 1!", NULL, false, "5 mark, 20 space, end 20");
    assert_read(HEAD "#5 b0 ! #20 b1 ! r1.5 ! $comment 0! $end", NULL, false, "5 mark, 20 space, end 20");
}

TEST(time_is_in_microseconds_whatever_the_scale)
{
    static const struct {
        const char *scale;
        const char *times;
    } scales[] = {
        {"1 s", "#1 0! #2 1!"},
        {"100 ms", "#10 0! #20 1!"},
        {"10us", "#100000 0! #200000 1!"},
        {"\n\t1\n us\n", "#1000000 0! #2000000 1!"},
        {"100 ns", "#10000004 0! #19999995 1!"},
        {"1ps", "#1000000000000 0! #2000000000000 1!"},
        {"10 fs", "#100000000000000 0! #200000000000000 1!"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(scales); i++) {
        g_autofree char *text =
            g_strdup_printf("$timescale %s $end $var wire 1 ! ir $end $enddefinitions $end %s",
                            scales[i].scale, scales[i].times);
        assert_read(text, NULL, false, "1000000 mark, 2000000 space, end 2000000");
    }
}

TEST(one_of_several_wires_is_named)
{
    const char *const text = TWO_WIRES "#1 0! #2 0\" #3 b10100000 # #4 1!";
    assert_read(text, NULL, false, "has 3 wires (a.ir, b.ir, b.bus); say which one with --signal NAME");
    assert_read(text, "ir", false, "has 3 wires (a.ir, b.ir, b.bus); say which one with --signal NAME");
    assert_read(text, "a.ir", false, "1 mark, 4 space, end 4");
    assert_read(text, "b.ir", false, "2 mark, end 4");
    assert_read(text, "c", false, "has no wire 'c'; it has: a.ir, b.ir, b.bus");
    assert_read(text, "bus", false, "line 1: the wire b.bus is 8 bits wide; it must be one bit");
}

TEST(tables_of_times_are_read)
{
    assert_read("t_us,receiver\n0,1\n10,0\n20,1\n20,1\n30,1\n", NULL, false, "10 mark, 20 space, end 30");
    assert_read("Time [s]; \"IR out\" ;other\r\n-0.001;1;0\r\n0;0;1\r\n0.0005;1;1\r\n", "IR out", false,
                "1000 mark, 1500 space, end 1500");
    assert_read("# a comment\ntime_ns\tir\n1000\t1\n\n5000\t0\n", NULL, true, "1 mark, 5 space, end 5");
    assert_read("\xef\xbb\xbft_ms,ir\n1,0\n2,1", NULL, false, "1000 mark, 2000 space, end 2000");
}

TEST(runs_of_a_firmware_are_read)
{
    assert_read("^9000_4500^562\n_50000\n_50000\n^10_20", NULL, false,
                "0 mark, 9000 space, 13500 mark, 14062 space, 64062 time, 114062 time, 114062 mark, 114072 "
                "space, end 114092");
    assert_read("_5 ? ^10_20", NULL, false, "5 time, 5 mark after loss, 15 space, end 35");
    assert_read("^10_20\nhello ^7\n^10_20\n", NULL, false,
                "0 mark, 10 space, 30 time, 30 mark after loss, 40 space, end 60");
    assert_read("^99999999999999_1", NULL, false, "0 time, end 0");
}

/* As people pass them around; the first mark comes after a second of silence, and each list ends with one. */
TEST(lists_of_times_are_read)
{
    static const char *const alike[] = {
        "9000 4500 560\n",
        "9000, 4500,\n560",
        "9000,4500,560",
        "{9000,4500,560}",
        "[ 9000, 4500, 560 ]",
        "+9000 -4500 +560",
        "9000 -4500 560 -100",
        "9000 \342\210\2224500 560", /* a minus sign */
        "+9000-4500+500+60",
        "9000.2 4499.8 560.0",
        "9000,2 4499,8 560,0",
        "9,0 4,5 0,56",
        "9,000 4,500 0,560",
        "9.000\t4.5\t0.56",
        "play: 9000 4500 560",
        "uint16_t play[3] = {9000, 4500, 560}; // three times",
        "# my fan\n\nplay = {\n  9000, 4500, # a leader\n  560\n};\n",
        "Play (3): +9000 -4500 +560",
        "30000 9000 4500 560",
    };
    for (size_t i = 0; i < G_N_ELEMENTS(alike); i++) {
        g_autofree char *output = read_all(alike[i], strlen(alike[i]), NULL, false);
        const bool has_silence = i + 1 == G_N_ELEMENTS(alike);
        const char *const from = has_silence
                                     ? "0 time, 1030000 mark, 1039000 space, 1043500 mark, 1044060 space, "
                                     : "0 time, 1000000 mark, 1009000 space, 1013500 mark, 1014060 space, ";
        ck_assert_msg(g_str_has_prefix(output, from), "%s: %s", alike[i], output);
    }
}

TEST(several_lists_of_times_are_several_presses)
{
    static const char *const alike[] = {
        "90 45 50 45 50\n\n90 45 50 45 50",           "90 45 50 45 50\n91 45 50 45 50\n",
        "play: 90 45 50 45 50 stop: 90 45 50 45 50",  "{90, 45, 50, 45, 50}, {90, 45, 50, 45, 50}",
        "+90 -45 +50 -45 +50\n+90 -45 +50 -45 +50\n",
    };
    for (size_t i = 0; i < G_N_ELEMENTS(alike); i++) {
        g_autofree char *output = read_all(alike[i], strlen(alike[i]), NULL, false);
        ck_assert_msg(strstr(output, "1000280 space, 2000280 mark, ") != NULL, "%s: %s", alike[i], output);
    }
    assert_read(
        "90 45 50\n45 50 45", NULL, false,
        "0 time, 1000000 mark, 1000090 space, 1000135 mark, 1000185 space, 1000230 mark, 1000280 space, "
        "end 2000325");
}

TEST(what_is_no_capture_is_reported)
{
    static const struct {
        const char *text;
        const char *reported;
    } bad[] = {
        {" ", "the file is empty, or no VCD: it has no $enddefinitions"},
        {"hello", "line 1: this is no capture: neither VCD, which begins with '$', nor CSV"},
        {"$end", "line 1: the file ends before an $end"},
        {"9000 4500\n560 x12 560", "line 2: 'x12' is no time; a list of times is like '9000 4500 560'"},
        {"9000 4500 5-60-", "line 1: '-' is no time"},
        {"9000 --4500", "line 1: '--4500' is no time"},
        {"play: 9000 4500\nstop", "line 2: 'stop' is no time"},
        {"# a table\n0.001,1\n0.002,0",
         "line 3: a time of 0; a table of times and levels begins with a line like"},
        {"1e300 1", "line 1: the times add up to more than 10 years"},
        {"9000 1e999", "line 1: '1e999' is no time"},
        {"uint16_t play[] = {};", "there are no times here"},
        {"when: play", "line 1: this is no capture"},
        {"t_us\n1\n", "this is no capture"},
        {"t_us,a\n1,0\n2\n", "1 mark, line 3: this line has 1 cells; a time and a level are needed"},
        {"t_us,a\nx,0\n", "line 2: 'x' is no time"},
        {"t_us,a\n5,0\n4,1\n", "5 mark, line 3: the time goes back, to 4"},
        {"t_us,a\n1,0.7\n", "line 2: the level '0.7'; it must be 0 or 1"},
        {"t_s,a\n1e300,0\n", "line 2: the time 1e300 lies more than 10 years on"},
        {"t_us,a,b\n1,0,0\n", "has 2 wires (a, b); say which one with --signal NAME"},
        {"$timescale 1 us $end", "the file ends before $enddefinitions; is it cut short?"},
        {"$timescale 1 us", "the file ends before an $end; is it cut short?"},
        {"$timescale 3 us $end", "the timescale '3us'; it must be 1, 10 or 100"},
        {"$timescale 1000 us $end", "the timescale '1000us'"},
        {"$var wire 1 ! ir $end $enddefinitions $end", "no $timescale is given"},
        {"$timescale 1 us $end $enddefinitions $end", "no wire is declared"},
        {"$timescale 1 us $end $var wire $end", "$end where the width of a wire should be"},
        {"$timescale 1 us $end $var wire", "the file ends before the width of a wire"},
        {"$timescale 1 us $end $upscope $end", "$upscope outside of any scope"},
        {HEAD "#10\n0!\n#9\n1!\n", "10 mark, line 8: the time goes back from 10 to 9"},
        {HEAD "#-1\n", "'#-1' is no time"},
        {HEAD "#99999999999999999999999\n", "is no time"},
        {HEAD "#18446744073709551615\n", "lies more than 10 years on"},
        {HEAD "#1 0", "line 6: '0' without the id of a wire"},
        {HEAD "#1 b0", "the file ends within a value; it is cut short"},
        {HEAD "#1 junk", "line 6: 'junk' is neither a time nor a value"},
        {HEAD "#1 0! \x01", "the byte 0x01; this is no VCD, which is text"},
        {HEAD "#1 0! \xff", "the byte 0xff; this is no VCD, which is text"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(bad); i++) {
        g_autofree char *output = read_all(bad[i].text, strlen(bad[i].text), NULL, false);
        ck_assert_contains(output, bad[i].reported);
    }
    g_autofree char *long_word = g_strnfill(100000, 'x');
    long_word[0] = '$';
    g_autofree char *output = read_all(long_word, 100000, NULL, false);
    ck_assert_contains(output, "a word of over 255 characters; this is no VCD");
    long_word[0] = 't';
    g_autofree char *faults_of_line = read_all(long_word, 100000, NULL, false);
    ck_assert_contains(faults_of_line, "a line of over 4096 characters; this is no capture");
}

/* Columns with any of the usual names, quoted or not. */
TEST(columns_are_found_by_their_names)
{
    static const char *const heads[] = {
        "time,ir", "t,ir", "t_s,ir", "Time [s],ir", "\"Time [s]\",\"ir\"", "n;time;ir", "ir\ttime"};
    for (size_t i = 0; i < G_N_ELEMENTS(heads); i++) {
        const bool is_reversed = g_str_has_prefix(heads[i], "ir");
        const bool has_three = heads[i][0] == 'n';
        g_autofree char *text = g_strdup_printf("%s\n%s%s\n%s%s\n", heads[i], has_three ? "1;" : "",
                                                is_reversed ? "0\t0.001"
                                                : has_three ? "0.001;0"
                                                            : "0.001,0",
                                                has_three ? "2;" : "",
                                                is_reversed ? "1\t0.0015"
                                                : has_three ? "0.0015;1"
                                                            : "0.0015,1");
        assert_read(text, "ir", false, "1000 mark, 1500 space, end 1500");
    }
}

/* Ten years of silence, in parts. */
TEST(runs_add_up_to_ten_years_at_most)
{
    g_autoptr(GString) text = g_string_new(NULL);
    for (unsigned i = 0; i < 80000; i++) {
        g_string_append(text, "_4000000000\n");
    }
    g_autofree char *output = read_all(text->str, text->len, NULL, false);
    ck_assert_contains(output, "the runs add up to more than 10 years");
}

TEST(wires_have_a_limit_and_a_long_list_is_cut)
{
    g_autoptr(GString) text = g_string_new("$timescale 1 us $end\n");
    for (unsigned i = 0; i < 20; i++) {
        g_string_append_printf(text, "$var wire 1 w%u ir%u $end\n", i, i);
    }
    g_autofree char *listed = g_strconcat(text->str, "$enddefinitions $end\n", NULL);
    g_autofree char *output = read_all(listed, strlen(listed), NULL, false);
    ck_assert_contains(output, "ir7 and 12 more");
    for (unsigned i = 20; i < 300; i++) {
        g_string_append_printf(text, "$var wire 1 w%u ir%u $end\n", i, i);
    }
    g_autofree char *too_many = read_all(text->str, text->len, NULL, false);
    ck_assert_contains(too_many, "more than 256 wires");
}

TEST(capture_that_was_written_is_read_back)
{
    char *text = NULL;
    size_t length = 0;
    FILE *const out = open_memstream(&text, &length);
    capture_write_head(out, CAPTURE_VCD);
    capture_write_edge(out, CAPTURE_VCD, &(capture_edge){.at_us = 7, .is_mark = true});
    capture_write_edge(out, CAPTURE_VCD, &(capture_edge){.at_us = 5000000000});
    capture_write_end(out, CAPTURE_VCD, 5000000100);
    (void)fclose(out);
    assert_read(text, "receiver", false, "7 mark, 5000000000 space, end 5000000100");
    free(text);
}

TEST(truncated_and_mutated_captures_are_survived)
{
    g_autoptr(GRand) random = g_rand_new_with_seed(5);
    const char *const whole = TWO_WIRES "#1 0! #2 0\" #3 b10100000 # #4 1!\n$comment x $end\n#9 r1.5 #\n";
    for (gsize length = 1; length < strlen(whole); length++) {
        g_autofree char *reported = read_all(whole, length, "a.ir", false);
        ck_assert_uint_gt(strlen(reported), 0);
    }
    for (int i = 0; i < 3000; i++) {
        g_autofree char *text = g_strdup(whole);
        for (int j = 0; j < 3; j++) {
            text[g_rand_int_range(random, 0, (gint32)strlen(whole))] = (char)g_rand_int_range(random, 0, 256);
        }
        g_autofree char *reported = read_all(text, strlen(whole), "a.ir", false);
        ck_assert_uint_gt(strlen(reported), 0);
    }
}

/* A serial line may have no line ends, and what was received may be discarded at any point. */
TEST(after_a_loss_the_next_whole_run_counts)
{
    FILE *const file = tmpfile();
    (void)fputs("^9000", file);
    (void)fputs(" 87^562_1687^562_30000", file); /* the data before it is discarded */
    rewind(file);
    capture *const from = capture_open_runs(file);
    capture_edge edge;
    ck_assert_int_eq(capture_next(from, &edge, NULL), CAPTURE_EDGE);
    capture_lose(from);
    ck_assert_int_eq(capture_next(from, &edge, NULL), CAPTURE_EDGE);
    ck_assert(edge.is_mark && edge.after_loss);
    ck_assert_int_eq(capture_next(from, &edge, NULL), CAPTURE_EDGE);
    ck_assert(!edge.is_mark && !edge.after_loss);
    ck_assert_uint_eq(capture_garbage(from), 0);
    capture_free(from);
    (void)fclose(file);
}

SUITE("capture")
