/* Pictures: their contents, the places of the contents, and refused inputs. */
#include "support.h"

#include "drawn.h"

#include <math.h>
#include <string.h>

TEST(each_lane_shows_what_its_output_did)
{
    drawn seen = drawn_chart("$EXAMPLES/lantern/stage.plan $EXAMPLES/lantern/stage.csv");
    ck_assert(seen.width == 1280 && seen.height == 800);
    ck_assert_uint_eq(drawn_texts(&seen, "", "", "The stage: all 26 expectations met"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "state", "mode", "rigging"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "state", "act", "3"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "output", "curtain", "at -60 %"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "output", "readout", "got 2"), 1);
    ck_assert_uint_ge(drawn_texts(&seen, "finger", "finger", "wand.play"), 1);
    ck_assert_uint_ge(drawn_shapes(&seen, "air", "air"), 30);
    ck_assert_uint_ge(drawn_shapes(&seen, "output", "footlights"), 5);
    ck_assert_uint_eq(drawn_shapes(&seen, "output", "spot"), 2); /* its line, and its shape */
    drawn_clear(&seen);
}

/* Timers are boxes, waiting is hatched with its reason, and an end of the way is a bar. */
TEST(timers_waits_and_ends_are_seen)
{
    drawn seen = drawn_chart("$EXAMPLES/lantern/stage.plan $EXAMPLES/lantern/stage.csv");
    ck_assert_uint_eq(drawn_texts(&seen, "output", "curtain", "stands at top"), 1);
    drawn_clear(&seen);
    seen = drawn_chart("$EXAMPLES/lantern/lantern.plan $EXAMPLES/lantern/presses.csv");
    ck_assert_uint_eq(drawn_texts(&seen, "output", "spot", "off at least 2 s, line 11"), 2);
    drawn_clear(&seen);
    g_free(write_file("wand.csv", "key,protocol,address,command\na,nec,33,1\nb,nec,33,2\nc,nec,33,3\n"));
    g_free(write_file("rest.csv", "at_ms,handset,key,held_ms\n500,wand,a,100\n1500,wand,b,100\n"
                                  "4000,wand,a,100\n5000,wand,c,100\n8000,wand,a,100\n"));
    g_autofree char *path = write_file(
        "rest.plan", "plan \"Rest\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
                     "relay up on pin 2\nrelay down on pin 4\nonly one of up, down, pause 500 ms\n"
                     "timer rest\nvalue cue from 0 to 3\n"
                     "when wand.a pressed: up on; rest start 3 s; cue up\n"
                     "when wand.b pressed: down on; rest add 2 s\nwhen wand.c pressed: rest cancel\n");
    g_autofree char *arguments = g_strdup_printf("'%s' \"$(dirname '%s')/rest.csv\"", path, path);
    seen = drawn_chart(arguments);
    ck_assert_uint_eq(drawn_texts(&seen, "state", "rest", "4.5 s"), 1); /* started, extended, cancelled */
    ck_assert_uint_eq(drawn_texts(&seen, "state", "rest", "3 s"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "state", "rest", NULL), 3); /* and its name */
    ck_assert_uint_eq(drawn_texts(&seen, "output", "down", "others are off first"), 1);
    ck_assert_uint_eq(drawn_shapes(&seen, "state", "cue"), 4 + 2 + 4); /* ticks, ends, grounds of texts */
    drawn_clear(&seen);
}

/* On the board's chip, main's polls and masked interrupts are shown; on an ideal chip neither. */
TEST(the_boards_chip_has_lanes_of_its_own)
{
    drawn seen = drawn_chart("--chip $EXAMPLES/lantern/stage.plan $EXAMPLES/lantern/stage.csv");
    ck_assert_uint_eq(drawn_texts(&seen, "", "", "The stage: all 26 expectations met"), 1);
    ck_assert_uint_ge(drawn_texts(&seen, "board", "from poll to poll", "175 µs"), 1);
    ck_assert_uint_ge(drawn_texts(&seen, "board", "interrupts off", "0 %"), 1);
    drawn_clear(&seen);
    seen = drawn_chart("$EXAMPLES/lantern/stage.plan $EXAMPLES/lantern/stage.csv");
    ck_assert_uint_eq(drawn_texts(&seen, "board", "from poll to poll", NULL), 0);
    drawn_clear(&seen);
    seen = drawn_chart("--chip $EXAMPLES/lantern/bell.plan power"); /* which masks no interrupts */
    ck_assert_uint_ge(drawn_texts(&seen, "board", "from poll to poll", "175 µs"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "board", "interrupts off", NULL), 0);
    drawn_clear(&seen);
}

/* With a chip too slow for its receiver, the chart shows when edges were lost. */
TEST(edges_that_a_slow_chip_loses_are_pointed_out)
{
    g_free(write_file("wand.csv", "key,protocol,address,command\nplay,nec,33,67\n"));
    g_free(write_file("slow.csv", "at_ms,handset,key,held_ms\n500,wand,play,100\n"));
    g_autofree char *path =
        write_file("slow.plan", "plan \"Slow\"\nboard mega328 at 1 MHz\nreceiver on pin 2\n"
                                "handset wand from \"wand.csv\"\nrelay bell on pin 7\n"
                                "strip foot on pin 6, 200 pixels, without pause\nat start: foot chase\n"
                                "when wand.play pressed: bell toggle\n");
    g_auto(said) heard =
        run_shell("$DROMIKOS chart --chip --format svg '%s' \"$(dirname '%s')/slow.csv\"", path, path);
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.out, "edges lost");
    drawn seen = drawn_read(heard.out);
    ck_assert_uint_ge(drawn_texts(&seen, "missed", "missed", NULL), 2); /* its name, and the first of them */
    drawn_clear(&seen);
}

TEST(a_part_of_the_time_is_shown_at_its_place)
{
    drawn seen = drawn_chart("--from 17.5 --for 2 $EXAMPLES/lantern/stage.plan $EXAMPLES/lantern/stage.csv");
    ck_assert_uint_eq(drawn_texts(&seen, "", "", "18.2 s"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "output", "horn", "hold hall.volume_up"), 1);
    ck_assert_uint_eq(drawn_shapes(&seen, "output", "horn"),
                      6); /* five bursts, and the background of their label */
    ck_assert_uint_eq(drawn_texts(&seen, "finger", "finger", "wand.vol_up"), 1);
    for (guint i = 0; i < seen.texts->len;
         i++) { /* the vertical line of 18 s is under the finger's beginning */
        const drawn_text *const text = &g_array_index(seen.texts, drawn_text, i);
        ck_assert(strcmp(text->text, "wand.vol_up") != 0 || (text->x > 440 && text->x < 500));
    }
    drawn_clear(&seen);
    seen = drawn_chart("--press 1 $EXAMPLES/lantern/bell.plan power");
    ck_assert_uint_eq(
        drawn_texts(&seen, "key", "key", NULL) + drawn_texts(&seen, "gesture", "key", "wand.power"), 1);
    drawn_clear(&seen);
}

TEST(what_was_missed_stands_first_and_at_its_time)
{
    g_autofree char *script =
        write_file("missed.csv", "at_ms,handset,key,held_ms,expect\n500,wand,power,100,\n"
                                 "1000,,,,bell is off\n4000,,,,bell is on\n");
    g_auto(said) heard = run_shell("$DROMIKOS chart --format svg $EXAMPLES/lantern/bell.plan %s", script);
    ck_assert_int_eq(heard.code, 1);
    drawn seen = drawn_read(heard.out);
    ck_assert_uint_eq(drawn_texts(&seen, "missed", "missed", "! bell is on; but bell is off"), 1);
    drawn_clear(&seen);
}

/* 24 relays with names of 60 letters, some right to left, some pictograms; with a press each second. */
TEST(many_outputs_with_long_names_in_any_script_fit)
{
    static const char *const boards_pins[] = {"GP0",  "GP1",  "GP2",  "GP3",  "GP4",  "GP5",  "GP6",  "GP7",
                                              "GP9",  "GP10", "GP11", "GP12", "GP13", "GP14", "GP15", "GP16",
                                              "GP17", "GP18", "GP19", "GP20", "GP21", "GP22", "GP26", "GP27"};
    static const char *const scripts[] = {"lantern", "مصباح", "פנס", "灯籠"};
    g_autoptr(GString) text =
        g_string_new("plan \"Many ☂\"\nboard rp2040\nreceiver on pin GP8\nhandset wand from \"wand.csv\"\n");
    g_free(write_file("wand.csv", "key,protocol,address,command\na,nec,33,1\nb,nec,33,2\n"));
    for (gsize i = 0; i < G_N_ELEMENTS(boards_pins); i++) {
        g_string_append_printf(text,
                               "relay %s_%02u_of_a_row_with_a_name_that_goes_on_and_on_and_on on pin %s\n",
                               scripts[i % 4], (unsigned)i, boards_pins[i]);
    }
    for (gsize key = 0; key < 2; key++) {
        g_string_append_printf(text, "when wand.%s pressed: ", key == 0 ? "a" : "b");
        for (gsize i = key; i < G_N_ELEMENTS(boards_pins); i += 2) {
            g_string_append_printf(text, "%s%s_%02u_of_a_row_with_a_name_that_goes_on_and_on_and_on toggle",
                                   i > 1 ? "; " : "", scripts[i % 4], (unsigned)i);
        }
        g_string_append_c(text, '\n');
    }
    g_autofree char *path = write_file("many.plan", text->str);
    g_autofree char *arguments = g_strdup_printf("--dark %s a b a b 'a held 2 s' b", path);
    drawn seen = drawn_chart(arguments);
    ck_assert(seen.height > 800);
    g_autofree char *name = g_strdup("灯籠_03_of_a_row_with_a_name_that_goes_on_and_on_and_on");
    ck_assert_uint_eq(drawn_texts(&seen, "output", name, NULL), 1);
    ck_assert_uint_ge(drawn_shapes(&seen, "output", name), 2);
    drawn_clear(&seen);
}

/* Each omitted letter was compared with all the others. */
TEST(names_of_any_length_are_cut)
{
    g_autofree char *name = g_strnfill(20000, 'a');
    g_autofree char *text = g_strdup_printf(
        "plan \"%s\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\nrelay %s on "
        "pin 4\nwhen wand.a pressed: %s on\n",
        name, name, name);
    g_free(write_file("wand.csv", "key,protocol,address,command\na,nec,33,1\nb,nec,33,2\n"));
    g_autofree char *path = write_file("long.plan", text);
    for (unsigned i = 0; i < 2; i++) {
        g_auto(said) heard =
            run_shell("timeout 900 $DROMIKOS chart --format svg %s %s", path, i == 0 ? "" : "a");
        ck_assert_int_eq(heard.code, 0);
        ck_assert_contains(heard.out, "aaa…aaa");
    }
}

static drawn draw_wave(const char *what, const char *arguments)
{
    g_auto(said) heard = run_shell("$DROMIKOS wave %s | $DROMIKOS chart --format svg %s -", what, arguments);
    ck_assert_msg(heard.code == 0, "%s: %d, %.1000s", what, heard.code, heard.err);
    return drawn_read(heard.out);
}

static gint by_x(gconstpointer a, gconstpointer b)
{
    const double one = ((const drawn_text *)a)->x;
    const double other = ((const drawn_text *)b)->x;
    return (one > other) - (one < other);
}

/* Returns the bits drawn over a frame, from left to right. To be freed. */
static char *bits_of(const drawn *in, const char *protocol)
{
    GString *const bits = g_string_new(NULL);
    g_array_sort(in->texts, by_x);
    for (guint i = 0; i < in->texts->len; i++) {
        const drawn_text *const text = &g_array_index(in->texts, drawn_text, i);
        const bool is_bit =
            strspn(text->text, "01") == strlen(text->text) && strcmp(text->name, protocol) == 0;
        g_string_append(bits, is_bit ? text->text : "");
    }
    return g_string_free(bits, FALSE);
}

TEST(frame_is_drawn_with_its_parts_bits_and_fields)
{
    drawn seen = draw_wave("nec 4 70", "--press 1");
    g_autofree char *bits = bits_of(&seen, "nec");
    ck_assert_str_eq(bits, "00100000110111110110001010011101"); /* the standard's, by hand */
    ck_assert_uint_eq(drawn_texts(&seen, "", "", "nec, address 4, command 70, read, worst bit 100 %"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "frame", "nec", "leader"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "frame", "nec", "address inverted"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "frame", "nec", "command 70 (0x46)"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "frame", "nec", "stop"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "", "", "high, idle"), 1);
    drawn_clear(&seen);
    seen = draw_wave("rc5 5 12", "--draw light --press 1");
    g_autofree char *halves = bits_of(&seen, "rc5");
    ck_assert_str_eq(halves, "11000101001100"); /* start bits, bit 6 inverted, toggle, 5, 12 */
    ck_assert_uint_eq(drawn_texts(&seen, "frame", "rc5", "toggle 0"), 1);
    ck_assert_uint_eq(
        drawn_texts(&seen, "frame", "rc5", "worst: space of 889 µs, another bit from 1334 µs on"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "frame", "rc5", "address 5 (0x05), highest bit first"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "", "", "light"), 1);
    drawn_clear(&seen);
    seen = draw_wave("rcmm12 5 12", "--dark");
    g_autofree char *pairs = bits_of(&seen, "rcmm12");
    ck_assert_str_eq(pairs, "010100001100");
    drawn_clear(&seen);
    seen = draw_wave("sirc12 1 21", "--size 3000x600");
    g_autofree char *widths = bits_of(&seen, "sirc12");
    ck_assert_msg(g_str_has_prefix(widths, "101010010000"), "%s", widths);
    drawn_clear(&seen);
}

TEST(each_protocol_that_can_be_sent_has_its_fields)
{
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform *const waveform = drom_waveforms[i];
        const unsigned checked =
            waveform->protocol->number == DROM_KASEIKYO ? 64 : 2; /* its address includes a check */
        g_autofree char *what =
            g_strdup_printf("%s %u 9", waveform->protocol->id, MAX((unsigned)waveform->min_address, checked));
        drawn seen = draw_wave(what, "--size 3000x600");
        unsigned commands = 0;
        for (guint j = 0; j < seen.texts->len; j++) {
            const drawn_text *const text = &g_array_index(seen.texts, drawn_text, j);
            commands += strstr(text->text, "command 9 (0x09)") != NULL && strcmp(text->what, "frame") == 0;
        }
        ck_assert_msg(commands >= 1, "%s has no command", what);
        drawn_clear(&seen);
    }
}

TEST(long_captures_noise_and_scraps_are_drawn_too)
{
    drawn seen = drawn_chart("$EXAMPLES/lantern/presses.vcd");
    ck_assert_uint_eq(drawn_texts(&seen, "", "", "7 presses, 64 frames read, 0 not recognised"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "frames", "frames", "nec 33 67"), 1);
    drawn_clear(&seen);
    g_autofree char *scrap = write_file("scrap.csv", "t_us,receiver\n0,1\n5000,0\n5600,1\n6000,0\n9000,1\n");
    seen = drawn_chart(scrap);
    ck_assert_uint_eq(drawn_texts(&seen, "", "", "nothing was recognised"), 1);
    drawn_clear(&seen);
    g_autofree char *empty = write_file("empty.csv", "t_us,receiver\n0,1\n");
    seen = drawn_chart(empty);
    drawn_clear(&seen);
    g_autoptr(GString) noise = g_string_new("t_us,receiver\n0,1\n");
    unsigned at_us = 5000;
    for (unsigned i = 0; i < 4000; i++) { /* an hour of it */
        at_us += i % 40 == 39 ? 30000000 : 200 + i * 7919 % 1900;
        g_string_append_printf(noise, "%u,%u\n", at_us, i % 2);
    }
    g_autofree char *path = write_file("noise.csv", noise->str);
    seen = drawn_chart(path);
    ck_assert_uint_ge(drawn_shapes(&seen, "air", "line"), 50);
    drawn_clear(&seen);
}

TEST(picture_is_a_png_of_the_size_that_was_asked_for)
{
    g_autofree char *folder = write_file("there", "");
    g_autofree char *into = g_strdup_printf("%s ago.PNG", folder);
    g_auto(said) heard =
        run_shell("$DROMIKOS chart --size 900x500 --into '%s' $EXAMPLES/lantern/bell.plan power", into);
    g_autofree char *bytes = NULL;
    gsize length = 0;
    ck_assert_msg(heard.code == 0, "%s", heard.err);
    ck_assert(g_file_get_contents(into, &bytes, &length, NULL) && length > 2000);
    ck_assert_mem_eq(bytes, "\x89PNG\r\n\x1a\n", 8);
    ck_assert_mem_eq(bytes + 16, "\0\0\x03\x84\0\0\x01\xf4", 8);
}

static unsigned count_of(const char *text, const char *part)
{
    unsigned count = 0;
    for (const char *at = strstr(text, part); at != NULL; at = strstr(at + 1, part)) {
        count++;
    }
    return count;
}

/* The page of a rehearsal; the command's output goes beside it. */
static char *report_of(const char *arguments, int code)
{
    g_autofree char *name = write_file("the page.html", "");
    g_autofree char *page = NULL;
    g_auto(said) heard = run_shell("$DROMIKOS rehearse --report '%s' %s", name, arguments);
    ck_assert_msg(heard.code == code, "%d: %.1000s", heard.code, heard.err);
    ck_assert(g_file_get_contents(name, &page, NULL, NULL));
    return g_steal_pointer(&page);
}

/* Returns the width of an output's only pulse, in px. */
static double width_of_pulse(const char *svg, const char *output)
{
    g_autofree char *group = g_strdup_printf("data-name=\"%s\"", output);
    const char *at = strstr(strstr(strstr(svg, group), "<path") + 1, "<path d=\"") + strlen("<path d=\"");
    double top = INFINITY;
    double from = 0;
    double until = 0;
    while (*at == 'M' || *at == 'L') {
        char *end = NULL;
        const double x = g_ascii_strtod(at + 1, &end);
        const double y = g_ascii_strtod(end + 1, &end);
        from = y < top ? x : from;
        until = y <= top ? x : until;
        top = MIN(top, y);
        at = end;
    }
    return until - from;
}

/* A change 2 ms after another one, before a long silence, is drawn at its time. */
TEST(last_change_is_drawn_when_it_comes)
{
    g_free(write_file("wand.csv", "key,protocol,address,command\nup,nec,4,1\n"));
    g_autofree char *plan =
        write_file("beep.plan", "plan \"Beep\"\nboard mega328\nreceiver on pin 8\nhandset wand from "
                                "\"wand.csv\"\nrelay a on pin 4\nrelay b on pin 7\n"
                                "when wand.up pressed: a pulse 300 ms; b pulse 298 ms\n");
    g_auto(said) heard = run_shell("$DROMIKOS chart --format svg '%s' 'up held 0.1 s'", plan);
    ck_assert_int_eq(heard.code, 0);
    const double ratio = width_of_pulse(heard.out, "a") / width_of_pulse(heard.out, "b");
    ck_assert_msg(ratio > 1 && ratio < 1.02, "%.3f", ratio);
}

TEST(report_has_the_rows_of_the_rehearsal_and_needs_nothing_else)
{
    static const char *const kinds[] = {"key", "rule", "action", "event", "output", "expected"};
    g_autofree char *page = report_of("$EXAMPLES/lantern/stage.plan $EXAMPLES/lantern/stage.csv", 0);
    g_auto(said) heard = run_shell(
        "$DROMIKOS rehearse --format jsonl $EXAMPLES/lantern/stage.plan $EXAMPLES/lantern/stage.csv");
    for (size_t i = 0; i < G_N_ELEMENTS(kinds); i++) {
        g_autofree char *row = g_strdup_printf("<tr data-kind=\"%s\">", kinds[i]);
        g_autofree char *line = g_strdup_printf("{\"kind\":\"%s\"", kinds[i]);
        ck_assert_uint_ge(count_of(heard.out, line), 10);
        ck_assert_uint_eq(count_of(page, row), count_of(heard.out, line));
    }
    ck_assert_uint_eq(count_of(page, "<svg "), 6); /* timeline, near and far, and wiring; light and dark */
    ck_assert_ptr_nonnull(strstr(page, "<td>34</td><td>2</td>"));
    ck_assert_uint_ge(count_of(page, "<td>never</td><td><pre class=\"never\">"), 1);
    ck_assert_ptr_nonnull(strstr(page, "<h1>The stage: all 26 expectations met</h1>"));
    ck_assert_ptr_nonnull(strstr(page, "the worst margin of a frame: "));
    ck_assert_uint_eq(count_of(page, "http"), count_of(page, "xmlns=\"http://www.w3.org/2000/svg\""));
    ck_assert_uint_lt(strlen(page), 2000000);
}

TEST(what_a_report_missed_comes_first_and_names_are_only_text)
{
    g_free(write_file("wand.csv", "key,protocol,address,command\na,nec,33,1\n"));
    g_autofree char *plan = write_file(
        "odd.plan", "plan \"<script>alert(1)</script> & more\"\nboard mega328\nreceiver on pin 8\n"
                    "handset wand from \"wand.csv\"\nrelay bell on pin 7\nwhen wand.a pressed: bell on\n");
    g_autofree char *script =
        write_file("odd.csv", "at_ms,handset,key,held_ms,expect\n500,wand,a,50,\n900,,,,bell is off\n");
    g_autofree char *arguments = g_strdup_printf("%s %s", plan, script);
    g_autofree char *page = report_of(arguments, 1);
    const char *const missed = strstr(page, "<span class=\"alert\">! <a href=\"#timeline\"");
    ck_assert(missed != NULL && missed < strstr(page, "<svg "));
    ck_assert_ptr_null(strstr(page, "<script>alert"));
    ck_assert_contains(page, "&lt;script&gt;alert(1)&lt;/script&gt; &amp; more");
    static const refusal wrong[] = {
        {" --report /nowhere/page.html $EXAMPLES/lantern/bell.plan power", 3, "/nowhere/page.html"},
        {" --report $EXAMPLES/lantern/bell.plan $EXAMPLES/lantern/bell.plan power", 2,
         "is read, and can't be written over"},
        {" --report page.html $EXAMPLES/lantern/bell.plan - </dev/null", 2, "a report needs its input twice"},
    };
    ASSERT_REFUSED("$DROMIKOS rehearse", wrong);
}

/* A benchmark's figures side by side; the curve passes through the numbers. */
TEST(curves_are_drawn_as_they_were_measured)
{
    g_autoptr(GString) text = g_string_new("figure,x,y,curve,at,value\n");
    for (unsigned i = 0; i < 24; i++) {
        for (int at = -2; at <= 2; at++) {
            g_string_append_printf(text, "part %u,load in %%,\"heard, in %%\",one,%d,%d\n", i, at,
                                   at == 0 ? 80 : 40);
            g_string_append_printf(text, "part %u,load in %%,\"heard, in %%\",other,%d,%.1f\n", i, at,
                                   0.5 * at + 1);
        }
    }
    g_autofree char *path = write_file("curves.csv", text->str);
    drawn seen = drawn_chart(path);
    ck_assert(seen.width == 1280 && seen.height == 800);
    ck_assert_uint_eq(drawn_texts(&seen, "", "", "heard, in %, against load in %"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "", "", "one"), 1);
    ck_assert_uint_eq(drawn_texts(&seen, "", "", "other"), 1);
    for (unsigned i = 0; i < 24; i++) {
        g_autofree char *name = g_strdup_printf("part %u", i);
        ck_assert_uint_eq(drawn_texts(&seen, "figure", name, name), 1);
        ck_assert_uint_eq(drawn_texts(&seen, "figure", name, "80"), 1); /* the highest of all */
    }
    ck_assert_uint_eq(drawn_shapes(&seen, "curve", "one"), 24);
    ck_assert_uint_eq(drawn_shapes(&seen, "curve", "other"), 144); /* its line, and its points */
    drawn_clear(&seen);
    static const struct {
        const char *rows;
        const char *reported;
    } wrong[] = {
        {"", "has no points"},
        {"a,x,y,c,one,2\n", "curves.csv:2:9: 'one' is no number"},
        {"a,x,y,c,1,-2\n", "a value is 0 or more"},
        {"a,x,y,c,1,1\na,x,y,d,1,1\na,x,y,e,1,1\n",
         "curves.csv:4:7: there can be 60 figures, with 2 curves each"},
        {"a,x,y,c,1\n", "curves.csv:2"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(wrong); i++) {
        g_autofree char *bad = g_strconcat("figure,x,y,curve,at,value\n", wrong[i].rows, NULL);
        g_autofree char *file = write_file("curves.csv", bad);
        g_auto(said) heard = run_shell("$DROMIKOS chart --format svg '%s'", file);
        ck_assert_int_eq(heard.code, 1);
        ck_assert_contains(heard.err, wrong[i].reported);
    }
}

TEST(what_can_not_be_drawn_is_refused)
{
    static const refusal wrong[] = {
        {" $EXAMPLES/lantern/bell.plan", 2, "say where the picture goes, as in: --into stage.png"},
        {" --into bell.pdf $EXAMPLES/lantern/bell.plan", 2,
         "the ending of 'bell.pdf' says no format; end it with .png or .svg"},
        {" --format gif $EXAMPLES/lantern/bell.plan", 2, "--format is 'gif'; it can be png, svg or netlist"},
        {" --format svg --size 10x10 $EXAMPLES/lantern/bell.plan", 2,
         "--size is '10x10'; it must be WIDTHxHEIGHT in pixels"},
        {" --format svg --size 1280x800x2 $EXAMPLES/lantern/bell.plan", 2, "--size is '1280x800x2'"},
        {" --format svg --press 2 $EXAMPLES/lantern/bell.plan power", 2, "--press is 2; there is 1"},
        {" --format svg --from 100 $EXAMPLES/lantern/bell.plan power", 2,
         "--from is 100 s; it is over after"},
        {" --format svg --for -1 $EXAMPLES/lantern/bell.plan power", 2, "none of them below 0"},
        {" --format svg --from 1 --press 1 $EXAMPLES/lantern/bell.plan power", 2,
         "--press and --from exclude each other"},
        {" --into /nowhere/at/all.png $EXAMPLES/lantern/bell.plan power", 3,
         "/nowhere/at/all.png: can't be written: No such file"},
        {" --into /dev/full --format svg $EXAMPLES/lantern/bell.plan power", 3,
         "/dev/full: can't be written: No space left"},
        {" --format svg --press 8 $EXAMPLES/lantern/presses.vcd", 2, "--press is 8; there are 7"},
        {" --format svg --draw up $EXAMPLES/lantern/presses.vcd", 2,
         "--draw is 'up'; it must be pin or light"},
        {" --format svg --into $EXAMPLES/lantern/bell.plan $EXAMPLES/lantern/bell.plan", 2,
         "is read, and can't be written over"},
        {" --format svg --press 1 $EXAMPLES/lantern/bell.plan", 2, "add a script or presses"},
        {" --format svg --chip $EXAMPLES/lantern/bell.plan", 2, "--chip is of a rehearsal"},
        {" --format svg --chip $EXAMPLES/lantern/presses.vcd", 2, "--chip is of a rehearsal"},
        {" --format svg nowhere.plan", 3, "nowhere.plan: can't be read"},
    };
    ASSERT_REFUSED("$DROMIKOS chart", wrong);
}

TEST(a_budget_has_its_line)
{
    g_autofree char *path = write_file("budget.csv", "figure,x,y,curve,at,value\n"
                                                     "poll,pixels,percent of each budget,one,1,80\n"
                                                     "poll,pixels,percent of each budget,one,2,130\n");
    drawn seen = drawn_chart(path);
    ck_assert_uint_eq(drawn_texts(&seen, "figure", "poll", "budget"), 1);
    drawn_clear(&seen);
}

TEST(a_picture_is_as_high_as_it_needs_to_be)
{
    drawn seen = drawn_chart("$EXAMPLES/lantern/bell.plan power");
    ck_assert(seen.width == 1280 && seen.height > 300 && seen.height < 500);
    drawn_clear(&seen);
    seen = drawn_chart("--size 1280x800 $EXAMPLES/lantern/bell.plan power");
    ck_assert(seen.width == 1280 && seen.height == 800);
    drawn_clear(&seen);
}

/* A frame of 32 bits shows all of their values, or none. */
TEST(no_bit_has_its_value_where_another_has_none)
{
    unsigned with_values = 0;
    for (unsigned width = 640; width <= 1480; width += 40) {
        g_autofree char *arguments =
            g_strdup_printf("--press 1 --size %ux600 $EXAMPLES/lantern/presses.vcd", width);
        drawn seen = drawn_chart(arguments);
        const unsigned count =
            drawn_texts(&seen, "frame", "nec", "0") + drawn_texts(&seen, "frame", "nec", "1");
        ck_assert_msg(count == 0 || count == 32, "%u px wide: %u bits", width, count);
        with_values += count > 0;
        drawn_clear(&seen);
    }
    ck_assert(with_values > 3 && with_values < 20);
}

TEST(what_comes_from_outside_has_a_lane_and_labels_without_room_are_explained)
{
    g_autofree char *script = write_file("outside.csv", "at_ms,handset,key,held_ms,expect\n"
                                                        "500,wand,power,100,\n1500,,power,cut 2 s,\n");
    g_autofree char *arguments = g_strdup_printf("$EXAMPLES/lantern/bell.plan '%s'", script);
    drawn seen = drawn_chart(arguments);
    ck_assert_uint_eq(drawn_texts(&seen, "outside", "outside", "power cut (2000 ms)"), 1);
    ck_assert_uint_eq(drawn_shapes(&seen, "outside", "outside"), 1);
    drawn_clear(&seen);
    seen = drawn_chart("$EXAMPLES/lantern/stage.plan $EXAMPLES/lantern/stage.csv");
    ck_assert_uint_eq(
        drawn_texts(
            &seen, "", "",
            "+7 beside a name: 7 labels did not fit; draw a wider picture, or less time (--from, --for)"),
        1);
    ck_assert_uint_eq(drawn_texts(&seen, "output", "horn", "hold hall.volume_up"), 1);
    drawn_clear(&seen);
}

TEST(the_parts_of_a_strip_stand_under_its_name)
{
    g_free(write_file("one.csv", "key,protocol,address,command\nup,nec,4,20\n"));
    g_autofree char *path = write_file(
        "parts.plan", "plan \"Parts\"\nboard uno\nreceiver on pin 8\nhandset wand from \"one.csv\"\n"
                      "strip foot on pin 6, 12 pixels\npart shelf of foot, pixels 0 to 3\npart rim of foot, "
                      "pixels 4 to 9\nwhen wand.up pressed: shelf fill red; rim fill blue\n");
    g_autofree char *arguments = g_strdup_printf("'%s' up", path);
    drawn seen = drawn_chart(arguments);
    ck_assert_uint_eq(drawn_texts(&seen, "output", "foot", "shelf 0-3, rim 4-9"), 1);
    drawn_clear(&seen);
}

SUITE("chart")
