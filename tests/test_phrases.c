/* The words of a plan: the message for each mistake, its place, and the words that could have stood there;
 * and no two phrases have the same meaning. */
#include "support.h"

#include "plan/model/build.h"
#include "plans.h"

#include <string.h>

#define HEAD                                                                                                 \
    "plan \"Stage\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"                     \
    "relay bell on pin 7\nlamp house on pin 5\nstepper disc on pins A0 A2 A1 A3\n"                           \
    "strip foot on pin 6, 9 pixels\nsender horn on pin 3\nservo flag on pin 9\n"                             \
    "at start: bell off; house off; disc stop; foot off; horn let go; flag off\n"

#define SHEET "key,protocol,address,command\nup,nec,4,70\n"

/* A line after HEAD; the caret's column and the underlined length; and the message. */
static const struct {
    const char *line;
    int column;
    int length;
    const char *message;
} wrong[] = {
    {"rely fog on pin 4", 1, 4, "'rely' begins no statement; did you mean 'relay'?"},
    {"zzz fog on pin 4", 1, 3, "'zzz' begins no statement; docs/plan-language.md has all that there are"},
    {"when wand.up pressed: spot on; wait 5 seconds; spot off", 37, 9, "'5 seconds' is said as '5 s'"},
    {"palette p: red, \xe2\x80\x9cno\xe2\x80\x9d", 17, 8,
     "a text stands in straight quotes, \"so\" or 'so', and not in typographic ones"},
    {"5 relays", 1, 1, "found '5', expected a statement or the end of the line"},
    {"relay", 6, 1, "found the end of the line, expected a name"},
    {"relay fog", 10, 1, "found the end of the line, expected 'on'"},
    {"relay fog pin 4", 11, 3, "found 'pin', expected 'on'"},
    {"relay fog on 4", 14, 1, "found '4', expected 'pin'"},
    {"relay fog on pin", 17, 1, "found the end of the line, expected a pin"},
    {"relay fog on pin 4 active low", 20, 6, "found 'active', expected ',' or the end of the line"},
    {"relay fog on pin 4, activ low", 21, 5,
     "found 'activ', expected 'active', 'rest', 'on', 'off', 'at', 'contacts', 'supply' or "
     "'through'; did you mean 'active'?"},
    {"relay fog on pin 4, active", 27, 1, "found the end of the line, expected 'low' or 'high'"},
    {"relay fog on pin 4, active lo", 28, 2, "found 'lo', expected 'low' or 'high'; did you mean 'low'?"},
    {"relay fog on pin 4, off at least", 33, 1, "found the end of the line, expected a time such as '2 s'"},
    {"relay fog on pin 4, off at 2 s", 28, 3, "found '2 s', expected 'least'"},
    {"relay fog on pin 4, 60 pixels", 21, 2,
     "found '60', expected 'active', 'rest', 'on', 'off', 'at', 'contacts', 'supply' or 'through'"},
    {"relay fog on pin 4; active low", 19, 1,
     "found ';', expected a word, 'or', 'in', 'if', 'while', ',', ':' or the end of the line"},
    {"relay fog on pin 4: active low", 19, 1, "found ':', expected ',' or the end of the line"},
    {"relay fog on pin 4,", 20, 1,
     "found the end of the line, expected 'active', 'rest', 'on', 'off', 'at', 'contacts', 'supply' or "
     "'through'"},
    {"relay when on pin 4", 7, 4,
     "found 'when', expected a word, 'or', 'in', 'if', 'while', ',', ':' or the end of the line (this one is "
     "a word of the language)"},
    {"relay fog on pins 4 5", 14, 4, "found 'pins', expected 'pin'; did you mean 'pin'?"},
    {"lamp fog on pin 10, rest on", 21, 4, "found 'rest', expected 'active'"},
    {"stepper fog on pin 4", 16, 3, "found 'pin', expected 'pins'; did you mean 'pins'?"},
    {"stepper fog on pins 4 10 11", 28, 1, "found the end of the line, expected a pin"},
    {"stepper fog on pins 4 10 11 12, 100 steps", 42, 1, "found the end of the line, expected 'a'"},
    {"stepper fog on pins 4 10 11 12, 100 steps the turn", 43, 3, "found 'the', expected 'a'"},
    {"stepper fog on pins 4 10 11 12, up to 9", 40, 1, "found the end of the line, expected 'steps/s'"},
    {"stepper fog on pins 4 10 11 12, up to 9 steps/s within", 55, 1,
     "found the end of the line, expected a time such as '2 s'"},
    {"stepper fog on pins 4 10 11 12, 2.5 steps a turn", 33, 3,
     "found '2.5', expected a whole number, 'up', 'holds', 'home', 'supply' or 'through'"},
    {"strip fog on pin 4, nine pixels", 21, 4,
     "found 'nine', expected a whole number, 'order', 'pause', 'without', 'at' or 'supply'"},
    {"strip fog on pin 4, 9 pixel", 23, 5, "found 'pixel', expected 'pixels'; did you mean 'pixels'?"},
    {"strip fog on pin 4, 9 pixels, pause 10", 37, 2, "found '10', expected a time such as '2 s'"},
    {"sender fog on pin 4, shilded", 22, 7,
     "found 'shilded', expected 'shielded', 'supply' or 'through'; did you mean 'shielded'?"},
    {"servo fog on pin 4, pulses 1000 us", 33, 2, "found 'us', expected 'to'"},
    {"servo fog on pin 4, pulses 300 to 2000 us", 21, 21, "a pulse lasts so many µs: 400 to 2600"},
    {"servo fog on pin 4, pulses 1000 to 3000 us", 21, 22, "a pulse lasts so many µs: 400 to 2600"},
    {"servo fog on pin 4, pulses 900 to 900 us", 21, 20, "the pulses for 0 and for 180 degrees must differ"},
    {"at start: bell", 15, 1,
     "'bell' is a relay: found the end of the line, expected 'off', 'on', 'toggle' or 'pulse'"},
    {"at start: bell fill red", 16, 4,
     "'bell' is a relay: found 'fill', expected 'off', 'on', 'toggle' or 'pulse'"},
    {"at start: bell pulse", 21, 1, "found the end of the line, expected 'for' or a time such as '2 s'"},
    {"at start: bell pulse fr 2 s", 22, 2,
     "found 'fr', expected 'for' or a time such as '2 s'; did you mean 'for'?"},
    {"at start: bell on now", 19, 3, "found 'now', expected 'while', ';', the end of the line or 'for'"},
    {"at start: bell on, bell off", 18, 1, "found ',', expected ';' or the end of the line"},
    {"at start: bell toggle while held", 23, 5, "found 'while', expected ';' or the end of the line"},
    {"at start: 5", 11, 1, "found '5', expected the name of an output, 'wait' or 'mode'"},
    {"at start: again 5 s", 11, 5, "found 'again', expected the name of an output, 'wait' or 'mode'"},
    {"at begin: bell on", 4, 5, "found 'begin', expected 'start'"},
    {"at start bell on", 10, 4, "found 'bell', expected 'if', ',' or ':'"},
    {"at start: house fade 40 % over 1 s", 22, 2, "found '40', expected 'to'"},
    {"at start: house fade to 40 over 1 s", 28, 4, "found 'over', expected '%'"},
    {"at start: house fade to 40 %", 29, 1, "found the end of the line, expected 'over'"},
    {"at start: house fade to 140 % over 1 s", 25, 5, "there is nothing past 100 %"},
    {"at start: house brighter", 25, 1,
     "found the end of the line, expected a number or the name of a value"},
    {"at start: house blink", 22, 1, "found the end of the line, expected a time such as '2 s'"},
    {"at start: house blink 0 s", 23, 3, "this time may be 1 ms to 30 min"},
    {"at start: disc turn", 20, 1,
     "found the end of the line, expected a number or the name of a value or 'back'"},
    {"at start: disc turn 3", 22, 1, "found the end of the line, expected 'steps', 'turns' or 'degrees'"},
    {"at start: disc turn 3 rounds", 23, 6, "found 'rounds', expected 'steps', 'turns' or 'degrees'"},
    {"at start: disc go 3 turns", 19, 1, "found '3', expected 'to'"},
    {"at start: disc run up", 20, 2, "found 'up', expected 'while', ';', the end of the line or 'back'"},
    {"at start: foot show", 20, 1,
     "found the end of the line, expected a whole number or the name of a value"},
    {"at start: foot show 10", 21, 2, "'foot' has 9 pixels"},
    {"at start: foot fill", 20, 1, "found the end of the line, expected a colour"},
    {"at start: foot fill rde", 21, 3, "there is no colour 'rde'; known are"},
    {"at start: foot chas", 16, 4,
     "'foot' is a strip: found 'chas', expected 'off', 'on', 'toggle', 'fill', 'show', 'brightness', "
     "'brighter', 'dimmer', 'palette', 'next', 'previous', 'chase', 'blend', 'breathe' or 'sparkle'; did you "
     "mean 'chase'?"},
    {"at start: horn send", 20, 1, "found the end of the line, expected a name"},
    {"at start: horn send wand", 25, 1, "found the end of the line, expected '.'"},
    {"at start: horn send wand.up 3", 30, 1, "found the end of the line, expected 'times' or 'frames'"},
    {"at start: horn send wand.up 3 time", 31, 4,
     "found 'time', expected 'times' or 'frames'; did you mean 'times'?"},
    {"at start: flag go to 200 degrees", 22, 11, "a servo goes to 0 to 180 degrees"},
    {"at start: flag go to 3 steps", 22, 7, "a servo goes to 0 to 180 degrees"},
    {"at start: flag go to 90", 24, 1, "found the end of the line, expected 'steps', 'turns' or 'degrees'"},
    {"at start: flag go to 90 degrees over", 37, 1,
     "found the end of the line, expected a time such as '2 s'"},
    {"at start: flag run", 16, 3,
     "'flag' is a servo: found 'run', expected 'off', 'go', 'forward' or 'back'"},
    {"when wand.up pressed bell on", 22, 4, "found 'bell', expected 'or', 'in', 'if', ',' or ':'"},
    {"when wand.up pressed", 21, 1, "found the end of the line, expected ':'"},
    {"when wand.up pressed or: bell on", 24, 1,
     "found ':', expected a name, 'any', 'pressed', 'repeated', 'held', 'released' or 'tapped'"},
    {"when wand.up pressed, held: bell on", 23, 4, "found 'held', expected 'again'"},
    {"when wand.up held for: bell on", 22, 1, "found ':', expected a time such as '2 s'"},
    {"when wand.up pressed: bell on while hold", 37, 4,
     "found 'hold', expected 'held'; did you mean 'held'?"},
    {"handset hall, from \"x\"", 13, 1, "found ',', expected 'from'"},
    {"handset hall from \"wand.csv\", confirmd", 31, 8,
     "found 'confirmd', expected 'confirmed'; did you mean 'confirmed'?"},
    {"palette dusk red", 14, 3, "found 'red', expected ':'"},
    {"palette dusk: red; blue", 18, 1, "found ';', expected ',' or the end of the line"},
    {"board mega328, 16 MHz", 14, 1, "found ',', expected the end of the line"},
    {"repeats after 1 s, evry 2 s", 20, 4, "found 'evry', expected 'every'; did you mean 'every'?"},
};

TEST(each_mistake_is_underlined_and_what_could_stand_there_is_said)
{
    int line_number = 1;
    for (const char *at = HEAD; *at != '\0'; at++) {
        line_number += *at == '\n';
    }
    for (size_t i = 0; i < G_N_ELEMENTS(wrong); i++) {
        g_autofree char *text = g_strdup_printf("%s%s\n", HEAD, wrong[i].line);
        g_autofree char *marks = g_strnfill((gsize)wrong[i].length - 1, '~');
        g_autofree char *first =
            g_strdup_printf(":%d:%d: %s", line_number, wrong[i].column, wrong[i].message);
        g_autofree char *caret = g_strdup_printf("%5d | %s\n      | %*s^%s\n", line_number, wrong[i].line,
                                                 wrong[i].column - 1, "", marks);
        char *reported = NULL;
        plan *const loaded = load_plan(text, SHEET, &reported);
        ck_assert_msg(loaded == NULL, "passed: %s", wrong[i].line);
        ck_assert_contains(reported, first);
        ck_assert_contains(reported, caret);
        free(reported);
    }
}

/* Words of the language may be names, except those that join its parts. */
TEST(outputs_may_be_called_by_any_word_that_joins_nothing)
{
    char *reported = NULL;
    plan *const loaded =
        load_plan("plan \"Stage\"\nboard mega328\nreceiver on pin 8\nhandset pin from \"wand.csv\"\n"
                  "relay lamp on pin 4\nrelay on on pin 7\nlamp relay on pin 5\n"
                  "servo pulse on pin 9\npalette fill: red\nstrip palette on pin 6, 9 pixels\n"
                  "at start: lamp on; on off; relay blink 1 s; pulse off; palette palette fill\n"
                  "when pin.up pressed: on on while held; lamp pulse 1 s; lamp pulse for 2 s\n",
                  SHEET, &reported);
    ck_assert_str_eq(reported, "");
    const drom_action *const actions = plan_tables(loaded)->rules.rules.rows[0].actions.rows;
    ck_assert_uint_eq(actions[0].row, 1);
    ck_assert_uint_eq(actions[0].flags, DROM_WHILE_HELD);
    ck_assert_uint_eq(actions[1].value, 1000);
    ck_assert_uint_eq(actions[2].value, 2000);
    plan_free(loaded);
    free(reported);
}

TEST(no_two_phrases_of_a_kind_can_mean_the_same_words)
{
    ck_assert(phrases_are_alike("fill COLOUR", "fill NAME"));
    ck_assert(!phrases_are_alike("fill COLOUR", "show NAME"));
    ck_assert(!phrases_are_alike("show N", "show N times"));
    for (unsigned i = 0; output_kinds[i] != NULL; i++) {
        const kind_order *const orders = output_kinds[i]->words.orders;
        for (unsigned a = 0; orders[a].phrase != NULL; a++) {
            for (unsigned b = 0; b < a; b++) {
                ck_assert_msg(!phrases_are_alike(orders[a].phrase, orders[b].phrase), "%s: '%s' and '%s'",
                              output_kinds[i]->name, orders[a].phrase, orders[b].phrase);
            }
        }
    }
}

/* The phrases of a kind are kept in tables of this size. */
TEST(kinds_keep_to_the_bounds_of_what_they_say)
{
    ck_assert(!phrase_fits("PIN PIN PIN PIN PIN PIN"));
    ck_assert(!phrase_fits("a b c d e f g h i j k l m n o p"));
    for (unsigned i = 0; output_kinds[i] != NULL; i++) {
        const output_kind *const kind = output_kinds[i];
        for (unsigned j = 0; kind->words.heads[j] != NULL; j++) {
            ck_assert_msg(phrase_fits(kind->words.heads[j]), "%s", kind->words.heads[j]);
        }
        unsigned count = 0;
        for (; kind->words.orders[count].phrase != NULL; count++) {
            ck_assert_msg(phrase_fits(kind->words.orders[count].phrase), "%s",
                          kind->words.orders[count].phrase);
        }
        ck_assert_uint_le(count, KIND_MAX_PHRASES);
        for (count = 0; kind->words.clauses[count].phrase != NULL; count++) {
            ck_assert_msg(phrase_fits(kind->words.clauses[count].phrase), "%s",
                          kind->words.clauses[count].phrase);
            ck_assert_uint_lt(kind->words.clauses[count].clause, MAX_CLAUSES);
        }
        ck_assert_uint_le(count, KIND_MAX_PHRASES);
    }
}

/* Only a kind's own file and the list of all kinds name it. */
TEST(no_other_file_of_the_host_names_a_kind)
{
    g_autoptr(GString) names = g_string_new(NULL);
    int kinds = 0;
    for (unsigned i = 0; output_kinds[i] != NULL; i++, kinds++) {
        const char *const name = output_kinds[i]->name;
        g_autofree char *upper = g_ascii_strup(name, -1);
        g_string_append_printf(names, "%s\\bdrom_%s|\\bDROM_%s|\\b%s_kind", i > 0 ? "|" : "", name, upper,
                               name);
        if (strcmp(name, "call") != 0 &&
            strcmp(name, "part") != 0) { /* words of the language, and of a sheet */
            g_string_append_printf(names, "|\"%s\"", name);
        }
    }
    g_auto(said) found = run_shell("cd -P $EXAMPLES/.. && grep -nE '%s' $(find plan cli chart live -name "
                                   "'*.[chly]' ! -path 'plan/kinds/*'); true",
                                   names->str);
    ck_assert_msg(found.out[0] == 0 && found.err[0] == 0, "%s%s", found.out, found.err);
    said_free(&found);
    found = run_shell("cd -P $EXAMPLES/.. && grep -lE '%s' plan/kinds/*.c | wc -l", names->str);
    ck_assert_msg(atoi(found.out) == kinds, "%s%s", found.out, found.err);
}

TEST(each_phrase_stands_in_the_docs)
{
    g_autofree char *docs = NULL;
    g_autofree char *path = g_strconcat(g_getenv("EXAMPLES"), "/../docs/plan-language.md", NULL);
    ck_assert(g_file_get_contents(path, &docs, NULL, NULL));
    for (unsigned i = 0; output_kinds[i] != NULL; i++) {
        const kind_order *const orders = output_kinds[i]->words.orders;
        const kind_clause *const clauses = output_kinds[i]->words.clauses;
        for (unsigned j = 0; orders[j].phrase != NULL; j++) {
            g_autofree char *quoted = g_strdup_printf("`%s`", orders[j].phrase);
            ck_assert_msg(orders[j].phrase[0] == '\0' || strstr(docs, quoted) != NULL, "%s: %s",
                          output_kinds[i]->name, quoted);
        }
        for (unsigned j = 0; clauses[j].phrase != NULL; j++) {
            g_autofree char *quoted = g_strdup_printf("`%s`", clauses[j].phrase);
            ck_assert_msg(strstr(docs, quoted) != NULL, "%s: %s", output_kinds[i]->name, quoted);
        }
    }
}

SUITE("phrases")
