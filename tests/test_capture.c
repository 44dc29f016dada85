/* VCD captures: any timescale, several wires, and what is said of those that are none. */
#include "support.h"

#include "capture.h"

#define HEAD                                                                                                 \
    "$timescale 1 us $end\n$scope module top $end\n$var wire 1 ! ir $end\n$upscope $end\n$enddefinitions "   \
    "$end\n"
#define TWO_WIRES                                                                                            \
    "$timescale 1us $end $scope module a $end $var wire 1 ! ir $end $upscope $end "                          \
    "$scope module b $end $var wire 1 \" ir $end $var wire 8 # bus $end $upscope $end $enddefinitions "      \
    "$end\n"

/* Everything in a capture, as "10 mark, 20 space, end 30"; or what was wrong. */
static char *read_all(const char *text, gsize length, const char *signal, bool is_idle_low)
{
    FILE *const file = fmemopen((void *)text, length, "rb");
    GError *error = NULL;
    GString *const told = g_string_new(NULL);
    capture *const from = file != NULL ? capture_open(file, signal, is_idle_low, &error) : NULL;
    capture_edge edge;
    capture_read read = from != NULL ? capture_next(from, &edge, &error) : CAPTURE_FAULT;
    for (; read == CAPTURE_EDGE; read = capture_next(from, &edge, &error)) {
        g_string_append_printf(told, "%" G_GUINT64_FORMAT " %s, ", edge.at_us,
                               edge.is_mark ? "mark" : "space");
    }
    if (read == CAPTURE_END) {
        g_string_append_printf(told, "end %" G_GUINT64_FORMAT, edge.at_us);
    } else {
        ck_assert_ptr_nonnull(error);
        g_string_append(told, error->message);
        g_error_free(error);
    }
    capture_free(from);
    if (file != NULL) {
        (void)fclose(file);
    }
    return g_string_free(told, FALSE);
}

static void assert_read(const char *text, const char *signal, bool is_idle_low, const char *expected)
{
    g_autofree char *told = read_all(text, strlen(text), signal, is_idle_low);
    ck_assert_str_eq(told, expected);
}

START_TEST(edges_are_read_from_both_kinds_of_line)
{
    assert_read(HEAD "#0\n$dumpvars\n1!\n$end\n#10\n0!\n#20\n1!\n#20\n#30\n", NULL, false,
                "10 mark, 20 space, end 30");
    assert_read(HEAD "#0\n$dumpvars\n0!\n$end\n#10\n1!\n#20\n0!\n#30\n", NULL, true,
                "10 mark, 20 space, end 30");
    assert_read(HEAD "#5 0! #10 x! #12 z! #15 0! #20 1!", NULL, false, "5 mark, 20 space, end 20");
    assert_read(HEAD "#5 b0 ! #20 b1 ! r1.5 ! $comment 0! $end", NULL, false, "5 mark, 20 space, end 20");
}
END_TEST

START_TEST(time_is_told_in_microseconds_whatever_the_scale)
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
END_TEST

START_TEST(one_of_several_wires_is_named)
{
    const char *const text = TWO_WIRES "#1 0! #2 0\" #3 b10100000 # #4 1!";
    assert_read(text, NULL, false, "has 3 wires (a.ir, b.ir, b.bus); say which one with --signal NAME");
    assert_read(text, "ir", false, "has 3 wires (a.ir, b.ir, b.bus); say which one with --signal NAME");
    assert_read(text, "a.ir", false, "1 mark, 4 space, end 4");
    assert_read(text, "b.ir", false, "2 mark, end 4");
    assert_read(text, "c", false, "has no wire 'c'; it has: a.ir, b.ir, b.bus");
    assert_read(text, "bus", false, "line 1: the wire b.bus is 8 bits wide; it must be one bit");
}
END_TEST

START_TEST(what_is_no_capture_is_told)
{
    static const struct {
        const char *text;
        const char *told;
    } bad[] = {
        {" ", "the file is empty, or no VCD: it has no $enddefinitions"},
        {"hello", "line 1: 'hello' before $enddefinitions; a VCD begins with declarations"},
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
        g_autofree char *told = read_all(bad[i].text, strlen(bad[i].text), NULL, false);
        ck_assert_contains(told, bad[i].told);
    }
    g_autofree char *long_word = g_strnfill(100000, 'x');
    g_autofree char *told = read_all(long_word, 100000, NULL, false);
    ck_assert_contains(told, "a word of over 255 characters; this is no VCD");
}
END_TEST

START_TEST(capture_that_was_written_is_read_back)
{
    char *text = NULL;
    size_t length = 0;
    FILE *const out = open_memstream(&text, &length);
    capture_write_head(out);
    capture_write_edge(out, &(capture_edge){7, true});
    capture_write_edge(out, &(capture_edge){5000000000, false});
    capture_write_end(out, 5000000100);
    (void)fclose(out);
    assert_read(text, "receiver", false, "7 mark, 5000000000 space, end 5000000100");
    free(text);
}
END_TEST

START_TEST(truncated_and_mutated_captures_are_survived)
{
    g_autoptr(GRand) random = g_rand_new_with_seed(5);
    const char *const whole = TWO_WIRES "#1 0! #2 0\" #3 b10100000 # #4 1!\n$comment x $end\n#9 r1.5 #\n";
    for (gsize length = 1; length < strlen(whole); length++) {
        g_autofree char *told = read_all(whole, length, "a.ir", false);
        ck_assert_uint_gt(strlen(told), 0);
    }
    for (int i = 0; i < 3000; i++) {
        g_autofree char *text = g_strdup(whole);
        for (int j = 0; j < 3; j++) {
            text[g_rand_int_range(random, 0, (gint32)strlen(whole))] = (char)g_rand_int_range(random, 0, 256);
        }
        g_autofree char *told = read_all(text, strlen(whole), "a.ir", false);
        ck_assert_uint_gt(strlen(told), 0);
    }
}
END_TEST

RUN_TESTS("capture", edges_are_read_from_both_kinds_of_line, time_is_told_in_microseconds_whatever_the_scale,
          one_of_several_wires_is_named, what_is_no_capture_is_told, capture_that_was_written_is_read_back,
          truncated_and_mutated_captures_are_survived)
