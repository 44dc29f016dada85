/* No input reaches a terminal as a command, or a picture as broken text. */
#include "support.h"

#include "plan/text/plain.h"

#include <string.h>

TEST(what_a_terminal_would_obey_becomes_a_sign)
{
    static const struct {
        const char *text;
        const char *plain;
    } rows[] = {
        {"Bühne, 舞台, مسرح\n\tx", "Bühne, 舞台, مسرح\n\tx"},
        {"\x1b[31mred\x1b]0;title\x07", "␛[31mred␛]0;title␇"},
        {"a\rb\x7f", "a␍b␡"},
        {"\xc2\x9b"
         "2J",
         "\xef\xbf\xbd"
         "2J"}, /* CSI as one character */
        {"\xe2\x80\xaetxt.exe", "\xef\xbf\xbdtxt.exe"},
        {"B\xfchne", "B\xef\xbf\xbdhne"},
        {"cut \xe2\x80", "cut \xef\xbf\xbd\xef\xbf\xbd"},
        {"\xef\xbf\xbf", "\xef\xbf\xbd"},
        {"\xed\xa0\x80", "\xef\xbf\xbd\xef\xbf\xbd\xef\xbf\xbd"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        g_autofree char *plain = plain_text(rows[i].text);
        ck_assert_str_eq(plain, rows[i].plain);
        ck_assert(g_utf8_validate(plain, -1, NULL));
    }
}

/* No escape, no other control character, and UTF-8 throughout. */
static void assert_plain(const char *command, const char *text)
{
    ck_assert_msg(g_utf8_validate(text, -1, NULL), "%s: no UTF-8: %s", command, text);
    for (const char *at = text; *at != '\0'; at = g_utf8_next_char(at)) {
        const gunichar sign = g_utf8_get_char(at);
        ck_assert_msg(!g_unichar_iscntrl(sign) || sign == '\n' || sign == '\t', "%s: U+%04X in: %s", command,
                      sign, text);
    }
}

#define ESCAPE "\x1b[2J\x1b]0;gotcha\x07\xc2\x9b"
#define HEAD(title)                                                                                          \
    "plan \"" title                                                                                          \
    "\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\nrelay spot on pin 4\n"            \
    "# a comment may have anything: " ESCAPE "\n"

TEST(plans_with_control_characters_or_in_another_encoding_are_refused_at_their_place)
{
    static const struct {
        const char *plan;
        const char *reported;
    } rows[] = {
        {HEAD("Evil \x1b[31m stage") "when wand.up pressed: spot on\n",
         "stage.plan:1:12: the control character U+001B can't stand in a text\n    1 | plan \"Evil ␛[31m "
         "stage\"\n"
         "      |            ^\n"},
        {HEAD("Evil \xc2\x9b stage") "when wand.up pressed: spot on\n",
         "stage.plan:1:12: the control character U+009B can't stand in a text"},
        {HEAD("B\xfchne") "when wand.up pressed: spot on\n",
         "stage.plan:1:6: this is no text in UTF-8; save the plan in UTF-8"},
        {HEAD("Stage") "when wand." ESCAPE " pressed: spot on\n", "has no place in a plan"},
        {HEAD("Stage") "when wand.up pressed: sp" ESCAPE "ot on\n", "stage.plan:7"},
    };
    g_free(write_file("plain/wand.csv", "key,protocol,address,command\nup,nec,4,1\n"));
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        g_autofree char *path = write_file("plain/stage.plan", rows[i].plan);
        g_auto(said) answer = run_shell("cd \"$(dirname %s)\" && $DROMIKOS vet stage.plan", path);
        ck_assert_msg(answer.code == 1, "%s%s", answer.out, answer.err);
        ck_assert_contains(answer.err, rows[i].reported);
        assert_plain("vet", answer.err);
    }
}

TEST(no_verb_hands_a_control_character_on)
{
    static const char *const commands[] = {
        "vet 'odd%s.plan'",
        "rehearse 'odd%s.plan' up",
        "rehearse 'odd%s.plan' 'u%sp'",
        "rehearse 'odd%s.plan' 'none%s.csv'",
        "rehearse 'odd%s.plan' script.csv",
        "rehearse bad.plan up",
        "chart --into 'a%s.png/b' 'odd%s.plan'",
        "chart --into 'a%s.gif' 'odd%s.plan'",
        "bake --into 'in%s' 'odd%s.plan'",
        "bake --into in 'none%s.plan'",
        "listen 'none%s.vcd'",
        "listen bad.vcd",
        "listen --signal 'ir%s' two.vcd",
        "enrol two.vcd 'na%sme'",
        "infer 'none%s.vcd'",
        "wave 'nec%s' 1 2",
        "wave bad.csv up",
        "ear --board 'b%s' --receiver 8 --into x",
        "ear --board mega328 --receiver 8 --into 'x%s'",
        "ear --board mega328 --receiver '8%s' --into x",
        "play 'none%s.plan'",
        "'verb%s'",
        "vet '--opt%s=1' x",
    };
    g_free(write_file("odd/wand.csv", "key,protocol,address,command\nup,nec,4,1\n"));
    g_free(write_file("odd/bad.csv",
                      "key,protocol,address,command\nup" ESCAPE ",nec,4" ESCAPE ",1\n" ESCAPE "\n"));
    g_free(write_file("odd/bad.plan",
                      "plan \"Bad\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"bad.csv\"\n"
                      "relay spot on pin 4\nwhen wand.up pressed: spot on\n"));
    g_free(write_file("odd/script.csv",
                      "at_ms,handset,key,held_ms,expect\n1,wand,up" ESCAPE ",1,\n1,,,,spot is " ESCAPE
                      "\n1," ESCAPE ",up,1,\n" ESCAPE ",,,,spot is on\n"));
    g_free(write_file("odd/bad.vcd",
                      "$timescale 1 us $end\n$var wire 1 ! ir" ESCAPE " $end\n$var wire 1 ? two" ESCAPE
                      " $end\n$enddefinitions $end\n#0\n1!\n"));
    g_free(write_file("odd/two.vcd",
                      "$timescale 1 us $end\n$var wire 1 ! ir $end\n$enddefinitions $end\n#0\n1" ESCAPE
                      "\n#10\n0!\n"));
    g_autofree char *named = g_strdup_printf("odd/odd%s.plan", ESCAPE);
    g_autofree char *path = write_file(named, HEAD("Stage") "when wand.up pressed: spot on\n");
    g_autofree char *folder = g_path_get_dirname(path);
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        g_autoptr(GString) command = g_string_new(commands[i]);
        (void)g_string_replace(command, "%s", ESCAPE, 0);
        g_auto(said) answer = run_shell("cd '%s' && $DROMIKOS %s </dev/null", folder, command->str);
        ck_assert_int_ge(answer.code, 0);
        assert_plain(commands[i], answer.err);
        assert_plain(commands[i], answer.out);
    }
}

/* Texts of keys and names of files in pictures, pages and JSON. */
TEST(pictures_pages_and_json_are_well_formed_whatever_the_names)
{
    g_free(write_file("well/wand.csv", "key,protocol,address,command\nup,nec,4,1\n"));
    g_autofree char *named = g_strdup_printf("well/st%s\xff.plan", ESCAPE);
    g_autofree char *path =
        write_file(named, HEAD("A < B & \xe2\x80\xae C") "when wand.up pressed: spot on\n");
    g_autofree char *folder = g_path_get_dirname(path);
    g_auto(said) answer = run_shell("cd '%s' && mv st*.plan \"$(printf 'odd\\033[2J\\377.plan')\" && cp "
                                    "\"$(printf 'odd\\033[2J\\377.plan')\" "
                                    "\"$(printf '\\033.csv')\" && for input in '' up; do $DROMIKOS chart "
                                    "--format svg odd*.plan $input; done && "
                                    "$DROMIKOS rehearse --report page.html odd*.plan up >/dev/null && cat "
                                    "page.html && $DROMIKOS rehearse "
                                    "--format jsonl odd*.plan up",
                                    folder);
    ck_assert_msg(answer.code == 0, "%s", answer.err);
    assert_plain("chart", answer.out);
    for (const char *at = strstr(answer.out, "<svg "); at != NULL; at = strstr(at + 1, "<svg ")) {
        g_autofree char *svg = g_strndup(at, (gsize)(strstr(at, "</svg>") - at) + strlen("</svg>"));
        g_autoptr(GError) error = NULL;
        GMarkupParseContext *const parser =
            g_markup_parse_context_new(&(GMarkupParser){0}, G_MARKUP_DEFAULT_FLAGS, NULL, NULL);
        const bool is_good = g_markup_parse_context_parse(parser, svg, -1, &error) &&
                             g_markup_parse_context_end_parse(parser, &error);
        ck_assert_msg(is_good, "%s", error != NULL ? error->message : "");
        g_markup_parse_context_free(parser);
    }
    ck_assert_contains(answer.out, "A &lt; B &amp; \xef\xbf\xbd C");
}

SUITE("plain")
