/* Forms of a number: a digit, a value, an event's number, sums; other conditions and waits of rules. Each
 * plan is rehearsed with a script that has the expectations. */
#include "support.h"

#include <string.h>

#define HEAD                                                                                                 \
    "plan \"Numbers\"\nboard uno\nreceiver on pin 8\nhandset wand from \"wand.csv\"\n"                       \
    "handset hall from \"hall.csv\"\nmode show\nmode rigging\nvalue cue from 0 to 200\n"                     \
    "value place from 0 to 180, starts at 90\nvalue pause from 0 to 9, starts at 2\nvalue beat from 1 to "   \
    "9, starts at 2\n"                                                                                       \
    "value low from -40 to 40, starts at -3\ntimer nap\nevent bell_rope\nswitch top on pin A5\n"             \
    "keyboard desk\ncall announce\nservo head on pin 9\nrelay bell on pin 4\nlamp house on pin 5\n"          \
    "strip foot on pin 7, 9 pixels\nsender horn on pin 3, shielded\n"                                        \
    "stepper wheel on pins A0 A1 A2 A3, 200 steps a turn, up to 400 steps/s within 200 ms\n"                 \
    "motor curtain on pin 6\n"

#define SCRIPT "at_ms,handset,key,held_ms,expect\n"

static const char wand[] = "key,protocol,address,command\n0,nec,4,0\n1,nec,4,1\n2,nec,4,2\n3,nec,4,3\n"
                           "up,nec,4,20\ndown,nec,4,21\n";
static const char hall[] = "key,protocol,address,command\n1,nec,9,1\n2,nec,9,2\n3,nec,9,3\n";

static void write_sheets(void)
{
    g_free(write_file("wand.csv", wand));
    g_free(write_file("hall.csv", hall));
}

static said rehearsed(const char *rules, const char *rows)
{
    g_autofree char *text = g_strconcat(HEAD, rules, "\n", NULL);
    g_autofree char *script = g_strconcat(SCRIPT, rows, NULL);
    write_sheets();
    g_autofree char *plan_path = write_file("numbers.plan", text);
    g_autofree char *script_path = write_file("numbers.csv", script);
    return run_shell("$DROMIKOS rehearse '%s' '%s'", plan_path, script_path);
}

/* All expectations of the script must be met. */
static void check_so(const char *rules, const char *rows)
{
    g_auto(said) seen = rehearsed(rules, rows);
    ck_assert_msg(seen.code == 0 && strstr(seen.out, "came true") != NULL, "%s\n%s%s", rules, seen.out,
                  seen.err);
}

static void check_refused(const char *rules, const char *why)
{
    g_auto(said) seen = rehearsed(rules, "");
    ck_assert_msg(seen.code == 1 && strstr(seen.err, why) != NULL, "%s\nexpected %s\n%s", rules, why,
                  seen.err);
}

#define UP "500,wand,up,100,\n"

TEST(a_digit_stands_in_each_place_of_a_number)
{
    check_so(
        "when wand.1 to wand.3 pressed: house fade to digit % over digit s; wait digit s; foot show digit;"
        " nap start digit min; bell pulse digit s; cue up digit; low to digit; call announce digit;"
        " head go to digit degrees over digit ms; wheel turn digit turns; curtain run digit %",
        "500,wand,3,100,\n1000,,,,house not at 3 %\n3700,,,,house at 3 %\n3700,,,,foot pixel 2 is white\n"
        "3700,,,,foot pixel 3 is black\n3700,,,,nap runs\n6400,,,,bell is on\n6700,,,,bell is off\n"
        "6700,,,,cue is 3\n6700,,,,low is 3\n6700,,,,announce got 3\n6700,,,,head at 3 degrees\n"
        "6700,,,,wheel at 600 steps\n6700,,,,curtain at 3 %\n");
}

TEST(a_digit_names_a_key_and_what_is_typed)
{
    check_so(
        "when wand.1 to wand.3 pressed: horn send hall.digit; desk type digit; desk tap digit",
        "500,wand,2,100,\n2000,wand,3,100,\n3000,,,,horn sent hall.2 once\n3000,,,,horn sent hall.3 once\n"
        "3000,,,,desk typed '2233'\n");
    check_refused("when wand.0 to wand.3 pressed: horn send hall.digit", "has no key '0'");
    check_refused("when wand.0 to wand.3 pressed: nap start digit min", "'digit' is 0 here");
    check_refused("when wand.up pressed: nap start digit min", "only a rule about a row of keys has a digit");
    check_refused("when wand.1 to wand.3 pressed: house on for digit s", "put the digit into a value first");
}

TEST(a_value_stands_in_each_place_of_a_number)
{
    check_so(
        "when wand.up pressed: head go to place degrees; house fade to place % over 1 s; foot show pause;"
        " wheel turn back place degrees; nap start pause min; call announce low; wait pause s;"
        " bell pulse beat s; curtain run pause %",
        UP "1700,,,,head at 90 degrees\n1700,,,,house at 90 %\n1700,,,,foot pixel 1 is white\n"
           "1700,,,,foot pixel 2 is black\n1700,,,,nap runs\n1700,,,,wheel at back 50 steps\n"
           "1700,,,,announce got -3\n2400,,,,bell is off\n2700,,,,bell is on\n2700,,,,curtain at 2 %\n"
           "4500,,,,bell is on\n4700,,,,bell is off\n");
    check_so("when wand.up pressed: house fade to 40 % over pause s; head go to 45 degrees; wait 200 ms;"
             " head go to 90 degrees over pause s; wheel turn low turns",
             UP "1500,,,,house not at 40 %\n2600,,,,house at 40 %\n2300,,,,head not at 90 degrees\n"
                "2900,,,,head at 90 degrees\n4000,,,,wheel at back 600 steps\n");
    check_so("when wand.up pressed: house on for pause s; wheel forward place steps",
             UP "2400,,,,house is on\n2700,,,,house is off\n2700,,,,wheel at 90 steps\n");
}

TEST(a_value_must_keep_to_what_its_place_takes)
{
    check_refused("when wand.up pressed: head go to cue degrees", "'head' can't take all that 'cue' may be");
    check_refused("when wand.up pressed: foot show place", "which is 0 to 180");
    check_refused("when wand.up pressed: bell pulse pause s", "'bell' can't take all that 'pause' may be");
    check_refused("when wand.up pressed: nap start cue h", "'nap' can't take all that 'cue' may be");
    check_refused("when wand.up pressed: wait low s", "'wait' can't take all that 'low' may be");
    check_refused("when wand.up pressed: house fade to cue % over pause s",
                  "an order has one number that isn't fixed, and here that is 'cue'");
    check_refused("when wand.up pressed: head go to 4.5 degrees over pause s", "whole degrees");
    check_refused("when bell_rope: wait bell_rope s", "put the event's into a value first");
    check_refused("when wand.up pressed: cue to bell_rope", "only a rule about 'bell_rope' alone knows");
    g_auto(said) seen = rehearsed("when wand.up pressed: house fade to cue % over 1 s", "");
    ck_assert_msg(strstr(seen.err, "warning: 'cue' goes from 0 to 200") != NULL, "%s", seen.err);
}

TEST(sums_are_reckoned_from_the_left)
{
    check_so("when wand.0 to wand.3 pressed: cue to cue * 10 + digit",
             "500,wand,1,100,\n1500,wand,2,100,\n2000,,,,cue is 12\n2500,wand,3,100,\n3000,,,,cue is 123\n"
             "3500,wand,0,100,\n4000,,,,cue is 200\n");
    check_so("when wand.up pressed: cue to 2 + 3 * 4 - 5 / 3; low to place / 4 - 30 * 1000 * -1000 - 1;"
             " place to low * 2 + 100 / cue",
             UP "700,,,,cue is 5\n700,,,,low is 40\n700,,,,place is 36\n");
    check_refused("when wand.up pressed: cue to cue * 10 +", "found the end of the line");
    check_refused("when wand.up pressed: cue to cue / 0", "nothing can be divided by 0");
    check_refused("when wand.up pressed: cue to cue * 10 digit", "expected '+', '-', '*' or '/'");
    check_refused("when wand.up pressed: cue to cue * house", "'house' is an output, and not a value");
}

TEST(conditions_ask_for_values_modes_and_what_is_not)
{
    check_so("when wand.up pressed if cue < place: cue up 60\n    otherwise: bell on", UP
             "1500,wand,up,100,\n2000,,,,cue is 120\n2000,,,,bell is off\n2500,wand,up,100,\n3000,,,,bell is "
             "on\n");
    check_so("when wand.up pressed if mode is show: mode rigging\n"
             "when wand.down pressed if not mode is show and mode is not show: bell on",
             "500,wand,down,100,\n900,,,,bell is off\n1500,wand,up,100,\n2500,wand,down,100,\n3000,,,,bell "
             "is on\n");
    check_so("when wand.up pressed if not nap runs: nap start 2 s; cue up\n"
             "when wand.down pressed if not top is closed and not cue >= 1: place to 7",
             UP "1500,wand,up,100,\n2000,,,,cue is 1\n2500,wand,down,100,\n3000,,,,place is 90\n"
                "3500,wand,up,100,\n4000,,,,cue is 2\n");
    check_refused("when wand.up pressed if cue < house: bell on", "'house' is an output, and not a value");
    check_refused("when wand.up pressed if mode is cue: bell on", "'cue' is a value, and not a mode");
}

TEST(a_switch_can_be_waited_for)
{
    check_so(
        "when wand.up pressed: bell on; wait for top closes; bell off; wait for top opens at most 1 s; cue "
        "up",
        UP
        "2000,top,closes,,\n1900,,,,bell is on\n2100,,,,bell is off\n2900,,,,cue is 0\n3200,,,,cue is 1\n");
    check_so("when wand.up pressed: wait for top opens; cue up", UP "700,,,,cue is 1\n");
    check_refused("when wand.up pressed: wait for bell closes", "'bell' is an output, and not a switch");
}

TEST(something_is_done_again_and_again)
{
    check_so("every 2 s: cue up", "1900,,,,cue is 0\n2100,,,,cue is 1\n6100,,,,cue is 3\n");
    check_so(
        "every 500 ms in rigging if cue < 3: cue up\n    otherwise: bell on\nevery 500 ms in show: low up\n"
        "when wand.up pressed: mode rigging",
        "400,,,,low is -3\n900,,,,low is -2\n1000,wand,up,100,\n1500,,,,cue is 0\n1600,,,,cue is 1\n"
        "2600,,,,cue is 3\n2700,,,,bell is off\n3200,,,,bell is on\n3200,,,,low is -1\n");
    check_refused("every 20 ms: cue up", "this time may be 50 ms to 24 h");
    check_refused("every cue s: cue up", "found 'cue', expected a time");
    check_refused("every 2 s pressed: cue up", "found 'pressed'");
}

TEST(a_servo_goes_on_from_where_it_is)
{
    check_so(
        "when wand.up pressed: head forward 5.5 degrees\nwhen wand.down pressed: head back 8 degrees over 1 "
        "s\n"
        "when bell_rope: head forward 170 degrees",
        UP
        "1000,wand,up,100,\n1500,,,,head at 11 degrees\n2000,wand,down,100,\n2900,,,,head not at 3 degrees\n"
        "3300,,,,head at 3 degrees\n3500,,bell_rope,,\n4000,,bell_rope,,\n4500,,,,head at 180 degrees\n");
}

TEST(a_script_posts_cuts_the_power_and_pulls_the_cable)
{
    check_so("when bell_rope: low to bell_rope; cue up",
             "500,,bell_rope,-7,\n600,,,,low is -7\n700,,bell_rope,,\n800,,,,low is 0\n900,,,,cue > 1\n"
             "900,,,,cue < 3\n900,,,,cue >= 2\n900,,,,cue <= 2\n900,,,,cue != 3\n900,,,,not cue = 3\n");
    check_so("when wand.up pressed: bell on; house on; cue up; foot fill red; desk hold a while held",
             "500,wand,up,3000,\n1000,,,,desk holds a\n1100,,power,cut 1 s,\n1200,,,,bell is off\n"
             "1200,,,,house is off\n1200,,,,foot is off\n1200,,,,desk holds nothing\n1200,,,,mode is show\n"
             "2500,,,,cue is 0\n2500,,,,bell is off\n");
    check_so("when wand.up pressed: desk hold a while held",
             "500,wand,up,4000,\n1000,,,,desk holds a\n1500,desk,unplugged,,\n1600,,,,desk holds nothing\n"
             "2000,desk,plugged,,\n2100,,,,desk holds nothing\n");
    check_so("when wand.up pressed: horn send hall.1",
             UP "400,,,,horn sends nothing\n400,,,,horn sent nothing\n600,,,,horn sends hall.1\n"
                "1500,,,,horn sends nothing\n1500,,,,horn not sent nothing\n");
}

TEST(what_is_pressed_without_power_is_not_heard)
{
    g_auto(said) seen = rehearsed("when wand.up pressed: cue up; mode rigging",
                                  "500,wand,up,100,\n1500,,power,cut,\n1900,wand,up,100,\n3000,,,,cue is 0\n"
                                  "3000,,,,mode is show\n");
    ck_assert_int_eq(seen.code, 1);
    ck_assert_contains(seen.out, "cue is 0");
    ck_assert_contains(seen.out, "show begins");
    ck_assert_contains(seen.out, "the power was cut then (line 3)");
    ck_assert_contains(seen.out, "came true: 2 of 2");
}

TEST(rows_of_a_script_that_make_no_sense_are_refused)
{
    static const struct {
        const char *row;
        const char *why;
    } wrong[] = {
        {"500,,bell_roap,1,\n", "'bell_roap' is no event of the plan"},
        {"500,,bell_rope,loud,\n", "the number of an event is -32768 to 32767, not 'loud'"},
        {"500,,power,off,\n", "found 'off', expected 'cut'"},
        {"500,,power,cut 11 min,\n", "the power is cut for 1 ms to 10 min"},
        {"500,desk,pulled,,\n", "'desk' is 'unplugged' or 'plugged'"},
        {"500,top,shuts,,\n", "'top' is 'opens' or 'closes'"},
        {"500,,,,cue > many\n", "expected a whole number"},
    };
    for (gsize i = 0; i < G_N_ELEMENTS(wrong); i++) {
        g_auto(said) seen = rehearsed("when bell_rope: cue up", wrong[i].row);
        ck_assert_msg(seen.code == 1 && strstr(seen.err, wrong[i].why) != NULL, "%s%s", wrong[i].row,
                      seen.err);
    }
}

SUITE("numbers")
