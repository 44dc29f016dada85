/* rehearse, as a process. */
#include "support.h"

#include <string.h>

#define LANTERN_FILES "$EXAMPLES/lantern/lantern.plan $EXAMPLES/lantern/presses.csv"

/* Returns each output's changes from the JSON Lines, as "spot on 2000, spot off 6567". */
static char *story_of(const char *jsonl)
{
    g_autoptr(GString) reported = g_string_new(NULL);
    g_autoptr(json_t) outputs = json_lines(jsonl, "output");
    for (size_t i = 0; i < json_array_size(outputs); i++) {
        const json_t *const output = json_array_get(outputs, i);
        g_string_append_printf(reported, "%s%s %s %d", i > 0 ? ", " : "",
                               json_string_value(json_object_get(output, "output")),
                               json_string_value(json_object_get(output, "state")),
                               (int)(json_integer_value(json_object_get(output, "t_us")) / 1000));
    }
    return g_strdup(reported->str);
}

#define LANTERN_STORY                                                                                        \
    "spot off 0, bell off 0, fog off 0, bell on 567, bell off 1368, spot on 2000, fog on 2567, fog off "     \
    "5668, "                                                                                                 \
    "spot off 6567, spot on 8567, bell on 12065, spot off 14567, bell off 14567"

TEST(theatre_plays_its_script)
{
    g_auto(said) heard = run_shell("$DROMIKOS rehearse --format jsonl " LANTERN_FILES);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_str_eq(heard.err, "");
    g_autofree char *story = story_of(heard.out);
    ck_assert_str_eq(story, LANTERN_STORY);
}

TEST(capture_drives_the_plan_as_the_script_did)
{
    g_auto(said) heard = run_shell(
        "$DROMIKOS rehearse --format jsonl $EXAMPLES/lantern/lantern.plan $EXAMPLES/lantern/presses.vcd");
    ck_assert_int_eq(heard.code, 0);
    g_autoptr(json_t) rules = json_lines(heard.out, "rule");
    static const int lines[] = {23, 24, 24, 22, 22, 25, 32, 32, 34};
    ck_assert_uint_eq(json_array_size(rules), G_N_ELEMENTS(lines));
    for (size_t i = 0; i < G_N_ELEMENTS(lines); i++) {
        ck_assert_int_eq(JSON_INT(rules, i, "line"), lines[i]);
    }
}

/* A strip's effect never ends; the stage's turn takes 20 s. */
TEST(rehearsal_waits_for_what_comes_to_an_end)
{
    g_free(write_file("hand.csv", "key,protocol,address,command\npower,nec,33,69\n"));
    g_autofree char *plan = write_file(
        "turn.plan", "plan \"Turn\"\nboard mega328\nreceiver on pin 8\nhandset hand from \"hand.csv\"\n"
                     "stepper disc on pins A0 A1 A2 A3, 2048 steps a turn, up to 100 steps/s\n"
                     "strip lights on pin 6, 4 pixels, without pause\nat start: lights chase\n"
                     "when hand.power pressed: disc turn 1 turn\n");
    g_autofree char *script = write_file("turn.csv", "at_ms,handset,key,held_ms\n100,hand,power,0\n");
    g_auto(said) heard = run_shell("$DROMIKOS rehearse %s %s", plan, script);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "disc stands at step 2048");
    ck_assert_contains(heard.out, "disc: ends at step 2048, 0 steps lost");
}

TEST(contacts_follow_their_coil)
{
    g_auto(said) heard = run_shell("$DROMIKOS rehearse --format jsonl " LANTERN_FILES);
    g_autoptr(json_t) all = json_lines(heard.out, NULL);
    json_int_t driven_us = -1;
    bool is_on = false;
    unsigned contacts = 0;
    for (size_t i = 0; i < json_array_size(all); i++) {
        const json_t *const object = json_array_get(all, i);
        const char *const kind = json_string_value(json_object_get(object, "kind"));
        if (g_strcmp0(json_string_value(json_object_get(object, "output")), "fog") != 0) {
            continue;
        }
        const json_int_t at_us = json_integer_value(json_object_get(object, "t_us"));
        if (strcmp(kind, "output") == 0) {
            driven_us = at_us;
            is_on = strcmp(json_string_value(json_object_get(object, "state")), "on") == 0;
        } else if (strcmp(kind, "contact") == 0) {
            contacts++;
            ck_assert_int_ge(at_us - driven_us, 3000);
            ck_assert_int_le(at_us - driven_us, 9000 + 6 * 800);
            ck_assert(contacts > 1 || (is_on && json_is_true(json_object_get(object, "closed"))));
        }
    }
    ck_assert_uint_ge(contacts, 2);
}

TEST(timeline_is_for_people)
{
    g_auto(said) heard = run_shell("$DROMIKOS rehearse " LANTERN_FILES);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "Lantern Theatre\n");
    ck_assert_contains(heard.out, "    0.500 s  wand.play down (120 ms)\n");
    ck_assert_contains(heard.out,
                       "    0.567 s  nec 33 67         wand.play pressed, +67 ms          line 23  "
                       "bell pulse for 800 ms: on\n");
    ck_assert_contains(heard.out, " wand.play released, +");
    ck_assert_contains(heard.out, "at start spot on: delayed 2000 ms (off at least 2 s, line 11)\n");
    ck_assert_contains(heard.out, "line 22  spot toggle: delayed 1300 ms (off at least 2 s, line 11)\n");
    ck_assert_contains(heard.out, "... 18 more like this, one each 108 ms\n");
    ck_assert_contains(heard.out, "fog off: is off already\n");
    ck_assert_contains(heard.out, "horn sent hall.volume_up, understood 132 ms after wand.vol_up pressed\n");
    ck_assert_contains(heard.out, "horn sent it again\n");
    ck_assert_ptr_null(strstr(heard.out, "contacts"));
    ck_assert_contains(heard.out, ", 0 wrong pixels\n");
    ck_assert_contains(heard.out, "\n7 presses in ");
    ck_assert_contains(heard.out, "bell: switched 4 times, on for 3.303 s in all, ends off\n");
    said_free(&heard);
    heard = run_shell("$DROMIKOS rehearse --contacts " LANTERN_FILES);
    ck_assert_contains(heard.out, "fog contacts closed after ");
}

TEST(wish_that_waits_counts_from_when_it_was_made)
{
    g_auto(said) heard = run_shell("printf 'at_ms,handset,key,held_ms\\n9000,wand,play,50\\n' | "
                                   "$DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan -");
    ck_assert_contains(heard.out, "  at start spot on: delayed 2000 ms (off at least 2 s, line 11)\n");
    ck_assert_contains(heard.out, "                                         spot on\n");
}

TEST(no_row_of_a_script_is_left_out_without_a_word)
{
    g_autofree char *script = write_file("both.csv", "at_ms,handset,key,held_ms\n3000,wand,red,0\n"
                                                     "500,wand,green,1200\n700,wand,play,0\n");
    g_auto(said) heard = run_shell("$DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan %s", script);
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.out, "\n2 presses in ");
    ck_assert_contains(heard.out,
                       "\nnot heard: wand.play at 0.700 s (line 4 of the script): wand.green (line 3) was on "
                       "the air at the same time\n");
    ck_assert_ptr_null(strstr(heard.out, "not heard: wand.red"));
    said_free(&heard);
    heard = run_shell("$DROMIKOS rehearse --format jsonl $EXAMPLES/lantern/lantern.plan %s", script);
    g_autoptr(json_t) unheard = json_lines(heard.out, "unheard");
    ck_assert_uint_eq(json_array_size(unheard), 1);
    ck_assert_int_eq(JSON_INT(unheard, 0, "line"), 4);
}

TEST(capture_of_another_handset_is_reported)
{
    g_auto(said) heard =
        run_shell("$DROMIKOS wave rc5 3 4 | $DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan -");
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.err,
                       "-: no key of this plan's handsets is in this capture; 'dromikos listen -'");
}

TEST(seed_decides_all)
{
    g_auto(said) first = run_shell("$DROMIKOS rehearse --jitter 60 --seed 3 " LANTERN_FILES);
    g_auto(said) again = run_shell("$DROMIKOS rehearse --jitter 60 --seed 3 " LANTERN_FILES);
    g_auto(said) other = run_shell("$DROMIKOS rehearse --jitter 60 --seed 4 " LANTERN_FILES);
    ck_assert_str_eq(first.out, again.out);
    ck_assert_str_ne(first.out, other.out);
}

/* This command makes exactly the capture that ships. */
TEST(demo_capture_is_the_recording_of_the_script)
{
    g_autofree char *path = write_file("again.vcd", "");
    g_auto(said) heard =
        run_shell("$DROMIKOS rehearse --jitter 40 --seed 7 --record %s " LANTERN_FILES " >/dev/null && "
                  "cmp %s $EXAMPLES/lantern/presses.vcd",
                  path, path);
    ck_assert_int_eq(heard.code, 0);
}

TEST(script_may_come_from_standard_input)
{
    g_auto(said) heard = run_shell("printf 'at_ms,handset,key,held_ms\\n100,wand,play,50\\n' | "
                                   "$DROMIKOS rehearse --format jsonl $EXAMPLES/lantern/lantern.plan -");
    ck_assert_int_eq(heard.code, 0);
    g_autofree char *story = story_of(heard.out);
    ck_assert_contains(story, "bell on 167, bell off 968");
}

/* A handset of no protocol: its fingerprints are codes like any others. */
TEST(key_of_no_protocol_works_by_its_fingerprint)
{
    g_autofree char *capture = write_file("odd.txt", "");
    g_autofree char *folder = g_path_get_dirname(capture);
    g_auto(said) heard =
        run_shell("set -e; cd %s; awk 'BEGIN { for (n = 0; n < 4; n++) { printf(\"^2500_900\"); for "
                  "(j = 0; j < 15; j++) "
                  "printf(\"^%%d_450\", (n < 2 ? j %% 3 == 0 : j %% 4 < 2) ? 900 : 450); print "
                  "\"^450_600000\" } }' >odd.txt; "
                  "$DROMIKOS enrol --sheet odd.csv odd.txt first second; "
                  "printf 'plan \"Odd\"\nboard mega328\nreceiver on pin 8\nhandset odd from "
                  "\"odd.csv\"\nrelay spot on pin 4\n"
                  "when odd.second pressed: spot toggle\n' >odd.plan; $DROMIKOS rehearse --format "
                  "jsonl odd.plan odd.txt",
                  folder);
    ck_assert_msg(heard.code == 0, "%s", heard.err);
    g_autofree char *story = story_of(heard.out);
    ck_assert_msg(g_str_has_prefix(story, "spot off 0, spot on 1") && strstr(story, ", spot off 1") != NULL,
                  "%s", story);
}

#define EXPECTING(rows)                                                                                      \
    "printf 'at_ms,handset,key,held_ms,expect\n" rows                                                        \
    "' | $DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan -"

#define WITH_SCRIPT(text) "printf '" text "' | $DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan -"
#define COLUMNS "at_ms,handset,key,held_ms\\n"

static const refusal faults[] = {
    {"$DROMIKOS rehearse", 2, "say which plan, or go to its folder"},
    {"$DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan powr", 1,
     "'powr' is neither a file nor a key of the plan's handsets; did you mean 'power'?"},
    {"$DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan wnad.power", 1,
     "'wnad.power' is neither a file nor a key of the plan's handsets; did you mean 'wand'?"},
    {"$DROMIKOS rehearse " LANTERN_FILES " power", 1,
     "is a file: one script or capture, or presses, not both"},
    {"$DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan 'power hold 2 s'", 1,
     "the press:1:2: found 'hold', expected the end or 'held'; did you mean 'held'?"},
    {"$DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan 'wand.power held 11 min'", 1,
     "a key is held for 1 ms to 10 min"},
    {EXPECTING("5,,,,bel is on\n"), 1, "-:2:6: there is no output, value or timer 'bel'"},
    {EXPECTING("5,,,,bell is lit\n"), 1, "-:2:14: found 'lit', expected 'on', 'not' or 'off'"},
    {EXPECTING("5,,,,horn sent hall.mute once\n"), 1, "-:2:16: no rule has 'horn' send 'hall.mute'"},
    {EXPECTING("5,,,,footlights pixel 60 is red\n"), 1, "-:2:23: the pixels of 'footlights' are 0 to 59"},
    {EXPECTING("5,,,,bell is on within 5\n"), 1, "-:2:17: found 'within', expected 'within' or the end"},
    {EXPECTING("5,,,,footlights pixel 3 is rde\n"), 1, "-:2:28: there is no colour 'rde'"},
    {"printf 'at_ms,handset,key,held_ms,expect\n5,,,,desk holds shfit+a\n' | $DROMIKOS rehearse "
     "$EXAMPLES/scenes/cues.plan -",
     1, "-:2:17: a keyboard has no key 'shfit'"},
    {EXPECTING("5,wand,up,3,bell is on\n"), 1, "-:2:13: what is expected stands in a row of its own"},
    {EXPECTING("5,,,,mode is dusk\n"), 1, "-:2:14: there is no mode 'dusk'"},
    {EXPECTING("x,,,,bell is on\n"), 1, "-:2:1: the time 'x' is no whole number"},
    {"$DROMIKOS rehearse --jitter -1 " LANTERN_FILES, 2, "--jitter is -1; it must be 0 to 1000"},
    {"$DROMIKOS rehearse --jitter nan " LANTERN_FILES, 2, "--jitter is nan"},
    {"$DROMIKOS rehearse --seed x " LANTERN_FILES, 2, "seed"},
    {"$DROMIKOS rehearse /no/such.plan $EXAMPLES/lantern/presses.csv", 3, "/no/such.plan: can't be read"},
    {"$DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan /no/such.csv", 3, "/no/such.csv: can't be read"},
    {"$DROMIKOS rehearse $EXAMPLES/lantern/presses.csv $EXAMPLES/lantern/presses.csv", 1,
     "presses.csv:1:1: 'at_ms' begins no statement"},
    {"$DROMIKOS rehearse --record /no/such/x.vcd " LANTERN_FILES, 3, "/no/such/x.vcd: can't be written"},
    {"$DROMIKOS rehearse --record /dev/full " LANTERN_FILES, 3, "/dev/full: can't be written"},
    {"$DROMIKOS rehearse " LANTERN_FILES " >/dev/full", 3, "standard output can't be written"},
    {"printf '\\001\\002\\377x' | $DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan -", 3, "the byte 0x01"},
    {"printf '^garbage\\n' | $DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan -", 3,
     "1 line held no runs, passed over"},
    {"printf 'x\\377y\\n' | $DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan -", 1, "is no text in UTF-8"},
    {"head -c 900 $EXAMPLES/lantern/presses.vcd | head -c 60 | $DROMIKOS rehearse "
     "$EXAMPLES/lantern/lantern.plan -",
     3, "cut short"},
    {WITH_SCRIPT(""), 3, "the file is empty"},
    {WITH_SCRIPT("at_ms,key\\n"), 1, "the column 'handset' is missing"},
    {WITH_SCRIPT(COLUMNS "5,wnad,play,1\\n"), 1,
     "-:2:3: the plan has no handset 'wnad'; did you mean 'wand'?"},
    {WITH_SCRIPT(COLUMNS "5,wand,paly,1\\n"), 1,
     "-:2:8: the sheet of 'wand' has no key 'paly'; did you mean 'play'?"},
    {WITH_SCRIPT(COLUMNS "-5,wand,play,1\\n"), 1, "-:2:1: the time '-5' is no whole number"},
    {WITH_SCRIPT(COLUMNS "5,wand,play,600001\\n"), 1, "-:2:13: the time held 600001 is out of range"},
};

/* Each small example is rehearsed, vetted and baked, and its script's expectations are met. */
TEST(small_examples_do_what_their_scripts_expect)
{
    g_auto(said) heard =
        run_shell("cd $EXAMPLES/scenes && for plan in *.plan ../lantern/stage.plan ../lantern/desk.plan; do "
                  "$DROMIKOS vet $plan >/dev/null || echo \"$plan: vet\"; "
                  "$DROMIKOS rehearse $plan ${plan%%.plan}.csv >/dev/null || echo \"$plan: rehearse\"; "
                  "$DROMIKOS rehearse $plan ${plan%%.plan}.csv | grep -c 'came true' >/dev/null || echo "
                  "\"$plan: expects nothing\"; "
                  "done; ls *.plan ../lantern/stage.plan ../lantern/desk.plan | wc -l");
    ck_assert_str_eq(heard.err, "");
    ck_assert_msg(atoi(heard.out) >= 15, "%s", heard.out); /* an error would stand first */
}

TEST(plan_includes_others_and_faults_are_said_where_they_stand)
{
    g_auto(said) heard = run_shell(
        "work=$(mktemp -d) && cd $work && mkdir inc && cp $EXAMPLES/scenes/lectern.csv inc && "
        "printf 'plan \"Included\"\\ninclude \"inc/common.plan\"\\nboard mega328\\nwhen lectern.1 pressed: "
        "spot on\\n' >own.plan && "
        "printf 'receiver on pin 8\\nhandset lectern from \"lectern.csv\"\\ninclude \"rules.plan\"\\nrelay "
        "spot on pin 4\\n' "
        ">inc/common.plan && printf '# rules\\nwhen lectern.2 pressed: spot off\\n' >inc/rules.plan && "
        "$DROMIKOS rehearse own.plan 1 2 && printf 'include \"../own.plan\"\\nwhen lectern.3 pressed: spot "
        "of\\n' "
        ">>inc/rules.plan && printf 'include \"none.plan\"\\ninclude 3\\n' >>own.plan; $DROMIKOS vet "
        "own.plan; rm -r $work");
    ck_assert_contains(heard.out, "line 4   spot on: on\n");
    ck_assert_contains(heard.out, "rules.plan:2 spot off: off\n");
    ck_assert_contains(heard.err, "inc/rules.plan:3:9: '../own.plan' is a part of this plan already\n");
    ck_assert_contains(heard.err, "inc/rules.plan:4:30: 'spot' is a relay: found 'of', expected 'off'");
    ck_assert_contains(heard.err, "own.plan:5:9: 'none.plan' can't be included\n");
    ck_assert_contains(heard.err, "own.plan:6:9: found '3', expected a text in quotes\n");
    ck_assert_contains(heard.err, "none.plan: can't be read: No such file or directory\n");
}

TEST(plan_is_no_larger_for_what_it_includes)
{
    g_auto(said) heard = run_shell("work=$(mktemp -d) && cd $work && yes '# a comment' | head -c 700000 "
                                   ">half.plan && cp half.plan more.plan && "
                                   "printf 'plan \"S\"\\nboard uno\\ninclude \"half.plan\"\\ninclude "
                                   "\"more.plan\"\\ninclude \"-\"\\n' >own.plan && "
                                   "$DROMIKOS vet own.plan; rm -r $work");
    ck_assert_contains(heard.err,
                       "own.plan:4:9: 'more.plan' doesn't fit: a plan is 1 MiB at most, with all that it "
                       "includes\n");
    ck_assert_contains(heard.err, "own.plan:5:9: '-' is standard input, which can't be included\n");
    ck_assert(strstr(heard.err, "half") == NULL);
}

TEST(presses_are_given_as_words)
{
    g_auto(said) heard = run_shell(
        "$DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan play 'wand.menu held 2200 ms' drawer.jvc");
    ck_assert_msg(heard.code == 0, "%s", heard.err);
    ck_assert_contains(heard.out, "0.567 s  nec 33 67         wand.play pressed");
    ck_assert_contains(heard.out, "line 25  bell pulse for 3000 ms: on");
    ck_assert_contains(heard.out, "drawer.jvc pressed");
    ck_assert_contains(heard.out, "\n3 presses in ");
}

TEST(without_input_each_key_of_a_rule_is_pressed)
{
    g_auto(said) heard = run_shell(
        "$DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan | grep -o '  line [0-9]*' | sort -u | wc -l");
    ck_assert_int_eq(atoi(heard.out), 20); /* all of its rules except the actions at start */
}

TEST(what_a_script_expects_is_looked_at)
{
    g_auto(said) heard = run_shell(
        EXPECTING("0,,,,spot is off\n500,wand,play,100,\n600,,,,bell is on\n1400,,,,bell is not on\n"
                  "1500,,,,spot is on within 1 s\n2500,,,,house at 80 "
                  "%%%%\n3000,wand,red,100,\n3200,,,,footlights pixel 59 is red\n"
                  "4000,wand,up,100,\n4500,,,,revolve runs\n12000,,,,revolve at 1 turns\n12000,,,,horn sends "
                  "nothing\n"));
    ck_assert_msg(heard.code == 0, "%s%s", heard.out, heard.err);
    ck_assert_contains(heard.out, "all that was expected came true: 9 of 9\n");
    said_free(&heard);
    heard = run_shell(EXPECTING("500,wand,play,100,\n1500,,,,bell is on\n2500,,,,spot is off within 100 ms\n"
                                "2600,,,,revolve at back 3 steps\n20000,,,,house at 80 %%%%\n"));
    ck_assert_int_eq(heard.code, 1);
    ck_assert_contains(heard.out, "EXPECTED: bell is on; but bell is off\n");
    ck_assert_contains(heard.out, "\n    2.601 s  ");
    ck_assert_contains(heard.out, "  EXPECTED: spot is off within 100 ms; but spot is on\n");
    ck_assert_contains(heard.out, "EXPECTED: revolve at back 3 steps; but revolve stands at 0 steps\n");
    ck_assert_contains(heard.out,
                       "1 of 4 expectations met; the first that wasn't: at 1.500 s (line 3 of the script)\n");
}

/* Ten times a tenth more is full, and three times is three tenths: for lamp, strip and motor. */
TEST(percents_add_up)
{
    g_autoptr(GString) script = g_string_new("at_ms,handset,key,held_ms,expect\n");
    for (unsigned i = 1; i <= 10; i++) {
        g_string_append_printf(script, "%u,wand,up,50,\n%u,,,,house at %u %%\n%u,,,,fan at %u %%\n", 500 * i,
                               500 * i + 400, 10 * i, 500 * i + 400, 10 * i);
    }
    g_string_append(script, "5600,,,,row pixel 0 is white\n");
    g_free(write_file("wand.csv", "key,protocol,address,command\nup,nec,4,1\n"));
    g_autofree char *rows = write_file("sums.csv", script->str);
    g_autofree char *plan = write_file(
        "sums.plan", "plan \"Sums\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
                     "lamp house on pin 5\nstrip row on pin 6, 3 pixels\nmotor fan on pin 11, ramp 0 ms\n"
                     "when wand.up pressed: house brighter 10 %; fan faster 10 %; row brighter 10 %\n");
    g_auto(said) heard = run_shell("$DROMIKOS rehearse '%s' '%s'", plan, rows);
    ck_assert_msg(heard.code == 0, "%s%s", heard.out, heard.err);
    ck_assert_contains(heard.out, "came true: 21 of 21");
}

/* Actions at start may depend on a switch, or on a value. */
TEST(start_may_ask)
{
    g_free(write_file("wand.csv", "key,protocol,address,command\nup,nec,4,1\n"));
    g_autofree char *plan = write_file(
        "asks.plan", "plan \"Asks\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
                     "relay a on pin 4\nrelay b on pin 7\nvalue cue from 0 to 3, starts at 2\n"
                     "at start if cue = 2: a on\n    otherwise: b on\nat start if cue = 1: b on\n"
                     "when wand.up pressed: b toggle\n");
    g_auto(said) heard = run_shell("$DROMIKOS rehearse '%s' up", plan);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "a on");
    ck_assert_contains(heard.out, "b: switched 1 time,");
}

TEST(bad_input_ends_with_a_message)
{
    ASSERT_REFUSED("", faults);
}

/* Each order of each kind, in the timeline's words. */
TEST(each_order_is_said_as_in_the_plan)
{
    static const char *const orders[] = {
        "spot on",
        "spot off",
        "spot toggle",
        "spot pulse for 50 ms",
        "house on",
        "house off",
        "house toggle",
        "house fade to 40 % over 20 ms",
        "house brighter 10 %",
        "house dimmer 5 %",
        "disc run",
        "disc run back",
        "disc turn 5 steps",
        "disc turn back 5 steps",
        "disc go to 12 steps",
        "disc stop",
        "foot on",
        "foot off",
        "foot toggle",
        "foot fill red",
        "foot fill 0x102030",
        "foot show 5",
        "foot brightness 50 %",
        "foot brighter 10 %",
        "foot dimmer 10 %",
        "foot palette dusk",
        "foot chase",
        "foot blend",
        "foot breathe",
        "foot sparkle",
        "foot off",
        "horn send wand.power",
        "horn send wand.play 3 times",
    };
    g_autoptr(GString) text =
        g_string_new("plan \"x\"\nboard mega328\nreceiver on pin 8\n"
                     "handset wand from \"wand.csv\"\nrelay spot on pin 4\nlamp house on pin 5\n"
                     "stepper disc on pins A0 A1 A2 A3\nstrip foot on pin 6, 8 pixels\n"
                     "sender horn on pin 3\npalette dusk: red, blue\nat start: ");
    for (size_t i = 0; i < G_N_ELEMENTS(orders); i++) {
        g_string_append_printf(text, "%s%s", i > 0 ? "; " : "", orders[i]);
    }
    g_string_append(text, "\nwhen wand.power pressed: spot toggle\n");
    g_free(write_file("wand.csv", "key,protocol,address,command,note\npower,nec,4,70,\nplay,nec,4,71,\n"));
    g_free(write_file("none.csv", "at_ms,handset,key,held_ms\n100,wand,power,50\n"));
    g_autofree char *path = write_file("orders.plan", text->str);
    g_auto(said) heard = run_shell("$DROMIKOS rehearse '%s' \"$(dirname '%s')/none.csv\"", path, path);
    ck_assert_msg(heard.code == 0, "%s", heard.err);
    for (size_t i = 0; i < G_N_ELEMENTS(orders); i++) {
        ck_assert_contains(heard.out, orders[i]);
    }
}

/* On the board's chip the theatre's expectations are met, too; and an evening ends, whether main would sleep
 * then or not. */
TEST(the_boards_chip_takes_its_time)
{
    g_auto(said) heard = run_shell("$DROMIKOS rehearse --chip $EXAMPLES/lantern/stage.plan "
                                   "$EXAMPLES/lantern/stage.csv");
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "all that was expected came true: 26 of 26");
    ck_assert_contains(heard.out, "interrupts off for up to 30 µs, ");
    ck_assert_contains(heard.out, "; 0 edges lost");
    g_auto(said) still = run_shell("$DROMIKOS rehearse --chip $EXAMPLES/lantern/bell.plan power");
    ck_assert_int_eq(still.code, 0);
    ck_assert_contains(still.out, "1 press in 1.0");
    ck_assert_contains(still.out, "mega328: polls up to 0.17 ms apart; interrupts never off; 0 edges lost");
    g_auto(said) ideal = run_shell("$DROMIKOS rehearse $EXAMPLES/lantern/bell.plan power");
    ck_assert_ptr_null(strstr(ideal.out, "polls"));
}

/* A refresh of 30 pixels is 30 times 30 µs with interrupts off, all of it between two polls. */
TEST(rows_of_the_chip_add_up)
{
    g_auto(said) heard = run_shell("$DROMIKOS rehearse --chip --format jsonl $EXAMPLES/scenes/colours.plan");
    g_autoptr(json_t) rows = json_lines(heard.out, "chip");
    json_int_t masked_us = 0;
    json_int_t poll_us = 0;
    for (size_t i = 0; i < json_array_size(rows); i++) {
        masked_us += JSON_INT(rows, i, "interrupts_off_us");
        poll_us = MAX(poll_us, JSON_INT(rows, i, "poll_us"));
        const bool is_last = i + 1 == json_array_size(rows); /* what is left at the end */
        ck_assert_int_ge(JSON_INT(rows, i, "until_us") - JSON_INT(rows, i, "t_us"), is_last ? 1 : 20000);
        ck_assert_int_eq(JSON_INT(rows, i, "lost_edges"), 0);
    }
    ck_assert_int_eq(masked_us, INT64_C(10) * 30 * 30); /* "sky: refreshed 10 times" */
    ck_assert_int_eq(poll_us,
                     175 + 30 * 30 + 45); /* a poll, the pixels, and the edges that are let in after each */
}

/* A handset that sends a frame at the release: its boundary frames get no rows. */
TEST(boundary_frames_are_not_shown)
{
    g_free(write_file("wand.csv", "key,protocol,address,command,note\nplay,nrc17,4,35,\n"));
    g_free(write_file("s.csv", "at_ms,handset,key,held_ms\n100,wand,play,300\n"));
    g_autofree char *path =
        write_file("n.plan", "plan \"x\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
                             "relay bell on pin 7\nwhen wand.play pressed: bell on while held\n");
    g_auto(said) heard = run_shell("$DROMIKOS rehearse '%s' \"$(dirname '%s')/s.csv\"", path, path);
    ck_assert_int_eq(heard.code, 0);
    ck_assert_contains(heard.out, "wand.play pressed");
    ck_assert_contains(heard.out, "bell off: off");
    ck_assert_ptr_null(strstr(heard.out, "nrc17 0 "));
}

/* Endless activity ends a minute after everything else can be over, and is named. */
TEST(rehearsal_ends_whatever_goes_on_and_says_what)
{
    static const struct {
        const char *lines;
        double from_s;
        double until_s;
        const char *going_on;
    } rows[] = {
        {"timer nap\nwhen wand.up pressed: nap start 5 s\nwhen nap ends: nap start 5 s; spot toggle\n", 65,
         71, "still going on: the timer nap (5 s to go)\n"},
        {"scene wave: spot toggle; wait 2 s; wave\nwhen wand.up pressed: wave\n", 62, 65,
         "still going on: the scene wave (line 8)\n"},
        {"scene wave: spot toggle; wait for spot; wave\nwhen wand.up pressed: wave\n", 60, 62,
         "still going on: the scene wave (line 8)\n"},
        {"servo arm on pin 9\nwhen wand.up pressed: arm go to 0 degrees; wait 100 ms; arm go to 90 degrees "
         "over 5 "
         "s; wait 200 ms; arm off; wait for arm; spot on\n",
         0.8, 4, ""},
        {"timer nap\nwhen wand.up pressed: nap start 20 min; spot on\n", 1200, 1201, ""},
        {"servo arm on pin 9\nat start: arm go to 0 degrees\nwhen wand.up pressed: arm go to 90 degrees over "
         "5 "
         "min; wait for arm at most 10 min; arm off; spot on\n",
         300, 310, ""},
        {"motor fan on pin 5\nwhen wand.up pressed: fan run 50 %\n", 3, 4, "still going on: fan\n"},
        {"mode show\nmode dark, back after 30 s\nwhen wand.up pressed: mode dark; spot on\n", 30, 32, ""},
        {"mode show\nmode dark, back after 2 s\nwhen dark begins: mode show\nwhen show begins: wait 1 s; "
         "mode "
         "dark\nwhen wand.up pressed: mode dark; spot on\n",
         61, 63, "still going on: "},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(rows); i++) {
        g_autofree char *plan_text = g_strdup_printf(
            "plan \"Ends\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"ends.csv\"\n"
            "relay spot on pin 4\n\n\n%s",
            rows[i].lines);
        g_free(write_file("ends.csv", "key,protocol,address,command\nup,nec,4,1\n"));
        g_autofree char *path = write_file("ends.plan", plan_text);
        g_auto(said) answer = run_shell("timeout 900 $DROMIKOS rehearse %s up 2>&1", path);
        double ended_s = 0;
        ck_assert_msg(answer.code == 0, "%s: %d, %s", rows[i].lines, answer.code, answer.out);
        const char *const end = strstr(answer.out, "1 press in ");
        ck_assert_ptr_nonnull(end);
        (void)sscanf(end, "1 press in %lf s", &ended_s);
        ck_assert_msg(ended_s >= rows[i].from_s && ended_s <= rows[i].until_s, "%s: it ended after %g s",
                      rows[i].lines, ended_s);
        ck_assert_msg(rows[i].going_on[0] == '\0' ? strstr(end, "still going on") == NULL
                                                  : strstr(end, rows[i].going_on) != NULL,
                      "%s: %s", rows[i].lines, end);
        said_free(&answer);
        answer = run_shell(
            "timeout 900 $DROMIKOS chart --format svg %s up | grep -c 'still going on'; timeout 900 "
            "$DROMIKOS rehearse --format jsonl --report %s.html %s up | tail -n 1",
            path, path, path);
        ck_assert_msg(strncmp(answer.out, rows[i].going_on[0] == '\0' ? "0" : "1", 1) == 0, "%s: %s",
                      rows[i].lines, answer.out);
        ck_assert_msg((strstr(answer.out, "\"going_on\":\"") != NULL) == (rows[i].going_on[0] != '\0'),
                      "%s: %s", rows[i].lines, answer.out);
    }
}

/* The same press again and again, faster than it can be sent: the sender queues four, and drops the rest. */
TEST(presses_that_an_appliance_counts_otherwise_are_said)
{
    g_free(write_file("wand.csv", "key,protocol,address,command\nup,nec,4,1\ndown,sirc12,4,2\n"));
    g_free(write_file("twice.csv", "at_ms,handset,key,held_ms\n500,wand,up,100\n"));
    g_autofree char *plan =
        write_file("twice.plan",
                   "plan \"Twice\"\nboard mega328\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"
                   "sender horn on pin 3\n"
                   "when wand.up pressed: horn send wand.down; horn send wand.down; horn send wand.down\n");
    g_auto(said) text = run_shell("cd \"$(dirname '%s')\" && $DROMIKOS rehearse twice.plan twice.csv", plan);
    ck_assert_int_eq(text.code, 1);
    ck_assert_contains(text.out, "warning: horn was asked to send 3 presses, and its appliance counted 2\n");
    g_auto(said) rows =
        run_shell("cd \"$(dirname '%s')\" && $DROMIKOS rehearse --format jsonl twice.plan twice.csv", plan);
    ck_assert_int_eq(rows.code, 1);
    json_t *const miscounted = json_lines(rows.out, "miscounted");
    ck_assert_uint_eq(json_array_size(miscounted), 1);
    ck_assert_int_eq(JSON_INT(miscounted, 0, "asked"), 3);
    ck_assert_int_eq(JSON_INT(miscounted, 0, "counted"), 2);
    json_decref(miscounted);
}

/* A press that covers the handset's repeats, as no gap is long enough; and one with a gap. An appliance that
 * receives both lights decodes the second one only. */
TEST(appliance_that_sees_the_handset_is_confused_where_a_press_covers_repeats)
{
    static const struct {
        const char *in_hand;
        const char *sent;
        const char *option;
        int code;
        const char *end;
    } cases[] = {
        {"samsung32,4,1", "sirc12,7,11", "", 0, "horn: sent 3 frames that were understood, 0 that weren't\n"},
        {"samsung32,4,1", "sirc12,7,11", "--in-sight", 1,
         "warning: horn was asked to send 1 press, and its appliance counted 0\n"},
        {"nec,4,1", "rc6,7,11", "--in-sight", 0,
         "horn: sent 10 frames that were understood, 0 that weren't\n"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        g_autofree char *wand = g_strdup_printf("key,protocol,address,command\nup,%s\n", cases[i].in_hand);
        g_autofree char *hall = g_strdup_printf("key,protocol,address,command\nup,%s\n", cases[i].sent);
        g_free(write_file("wand.csv", wand));
        g_free(write_file("hall.csv", hall));
        g_autofree char *plan =
            write_file("pair.plan", "plan \"Pair\"\nboard mega328\nreceiver on pin 8\nhandset wand from "
                                    "\"wand.csv\"\nhandset hall from \"hall.csv\"\nsender horn on pin 3\n"
                                    "translate wand to hall on horn: up as up\n");
        g_auto(said) answer = run_shell("$DROMIKOS rehearse '%s' 'up held 1 s' %s", plan, cases[i].option);
        ck_assert_msg(answer.code == cases[i].code, "%s %s: %d", cases[i].in_hand, cases[i].option,
                      answer.code);
        ck_assert_contains(answer.out, cases[i].end);
    }
}

/* A declared protocol of another length that begins like nec's: the longer one isn't decoded as the other,
 * nor the shorter one as its beginning. */
TEST(declared_protocol_goes_before_one_that_is_its_beginning)
{
    static const struct {
        const char *bits;
        const char *codes;
    } rows[] = {{"40", "a,torch,0x345678,7\nb,torch,0x345678,9\n"},
                {"24", "a,torch,0x56,7\nb,torch,0x56,9\n"}};
    for (size_t row = 0; row < G_N_ELEMENTS(rows); row++) {
        g_autofree char *sheet = g_strconcat("key,protocol,address,command\n", rows[row].codes, NULL);
        g_free(write_file("torch.csv", sheet));
        g_free(write_file("other.csv", "key,protocol,address,command\nx,nec_unchecked,1234,4321\n"));
        g_autofree char *text = g_strdup_printf(
            "plan \"Long\"\nboard mega328\nreceiver on pin 8\n"
            "protocol torch: %s bits, lsb first, leader 9000 4500, zero 562 562, one 562 1687, "
            "period 108 ms\nhandset hand from \"torch.csv\"\nhandset other from \"other.csv\"\n"
            "relay spot on pin 4\nwhen hand.a or hand.b or other.x pressed: spot toggle\n",
            rows[row].bits);
        g_autofree char *plan = write_file("long.plan", text);
        g_auto(said) heard = run_shell("$DROMIKOS rehearse %s hand.a hand.b other.x", plan);
        ck_assert_msg(heard.code == 0, "%s", heard.out);
        ck_assert_contains(heard.out, "hand.a pressed");
        ck_assert_contains(heard.out, "hand.b pressed");
        ck_assert_contains(heard.out, "other.x pressed");
        ck_assert_contains(heard.out, "\n3 presses in ");
    }
}

/* A line that stays in a mark, since the capture was cut there. */
TEST(capture_that_ends_within_a_mark_ends)
{
    g_autofree char *capture =
        write_file("cut.vcd", "$timescale 1 us $end\n$var wire 1 ! ir $end\n$enddefinitions $end\n"
                              "#0\n1!\n#500000\n0!\n#500500\n1!\n#600000\n0!\n");
    g_auto(said) answer = run_shell("timeout 900 $DROMIKOS rehearse $EXAMPLES/lantern/lantern.plan %s 2>&1; "
                                    "timeout 900 $DROMIKOS rehearse "
                                    "$EXAMPLES/lantern/stage.plan %s 2>&1",
                                    capture, capture);
    ck_assert_int_ne(answer.code, 124);
    ck_assert_contains(answer.out, "0 presses in ");
}

SUITE("rehearse")
