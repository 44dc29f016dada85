/* Plans and sheets, good and bad: the messages for each, with their place. */
#include "support.h"
#include "dromikos/outputs/relay.h"

#include "plans.h"
#include "sim.h"

#define HEAD                                                                                                 \
    "plan \"Stage\"\n"                                                                                       \
    "board mega328\n"                                                                                        \
    "receiver on pin 8\n"                                                                                    \
    "handset wand from \"wand.csv\"\n"                                                                       \
    "relay spot on pin 4\n"                                                                                  \
    "relay bell on pin A0\n"                                                                                 \
    "at start: bell off\n"                                                                                   \
    "when wand.play pressed: spot toggle\n"

#define SHEET                                                                                                \
    "key,protocol,address,command,note\n"                                                                    \
    "power,nec,4,70,\n"                                                                                      \
    "play,nec,0x04,0x47,\n"                                                                                  \
    "1,nec,4,1,\n"

TEST(boards_and_pins_go_by_other_names_too)
{
    char *reported = NULL;
    plan *const loaded =
        load_plan("plan \"Stage\"\nboard uno\nreceiver on pin D8\nhandset hand from \"wand.csv\"\n"
                  "relay spot on pin d4\nat start: spot on\n",
                  "key,protocol,address,command\nup,nec,4,1\n", &reported);
    ck_assert_msg(loaded != NULL, "%s", reported);
    ck_assert_str_eq(plan_board(loaded)->id, "uno");
    ck_assert_str_eq(plan_board(loaded)->chip, "ATmega328P");
    ck_assert_uint_eq(((const drom_relay_settings *)plan_output(loaded, 0)->settings)->pin, 4);
    plan_free(loaded);
    free(reported);
}

TEST(plan_becomes_the_tables_that_a_maker_would_write)
{
    g_autofree char *reported = NULL;
    plan *const stage =
        load_plan("plan \"Stage\"  # a comment\n"
                  "board mega328 at 16 MHz\n\n"
                  "receiver on pin 8\n"
                  "handset wand from \"wand.csv\"\n"
                  "relay spot on pin 4, active low, rest on, off at least 2 s, on at least 1.5 s\n"
                  "relay bell on pin A0\n"
                  "at start: spot on; bell off\n"
                  "when wand.power pressed or released: spot toggle\n"
                  "when wand.1 held or held for 2 s:\n"
                  "\n"
                  "    # the bell rings\n"
                  "    bell pulse for 0.25 min;\n"
                  "\tspot off\n",
                  SHEET, &reported);
    ck_assert_str_eq(reported, "");
    ck_assert_ptr_nonnull(stage);
    const drom_plan *const tables = plan_tables(stage);
    ck_assert_int_eq(drom_plan_check(tables, &(drom_port_facts){.pins = 20}, NULL), DROM_OK);
    ck_assert_uint_eq(tables->receive.protocols.count, 1);
    ck_assert_ptr_eq(tables->receive.protocols.rows[0], &drom_nec);
    ck_assert_uint_eq(tables->keys.handsets.rows[0].codes.count, 3);
    ck_assert_uint_eq(tables->keys.handsets.rows[0].codes.rows[1].command, 0x47);
    ck_assert_uint_eq(tables->keys.hold_ms.count, 2);
    ck_assert_uint_eq(tables->keys.hold_ms.rows[0], 500);
    ck_assert_uint_eq(tables->keys.hold_ms.rows[1], 2000);
    const drom_relay_settings *const spot = plan_output(stage, 0)->settings;
    ck_assert_uint_eq(spot->pin, 4);
    ck_assert(spot->is_active_low && spot->rests_on);
    ck_assert_uint_eq(spot->min_off_ms, 2000);
    ck_assert_uint_eq(spot->min_on_ms, 1500);
    ck_assert_uint_eq(((const drom_relay_settings *)plan_output(stage, 1)->settings)->pin, 14);
    ck_assert_uint_eq(tables->rules.rules.count, 5);
    const drom_rule *const rules = tables->rules.rules.rows;
    ck_assert_uint_eq(rules[0].gestures, DROM_PRESS);
    ck_assert_uint_eq(rules[1].gestures, DROM_RELEASE);
    ck_assert_uint_eq(rules[2].key, 2);
    ck_assert_uint_eq(rules[2].hold, 0);
    ck_assert_uint_eq(rules[3].hold, 1);
    ck_assert_uint_eq(rules[3].actions.count, 2);
    ck_assert_uint_eq(rules[3].actions.rows[0].verb, DROM_RELAY_PULSE);
    ck_assert_uint_eq(rules[3].actions.rows[0].value, 15000);
    ck_assert_int_eq(plan_rule_line(stage, 3), 10);
    ck_assert_uint_eq(rules[4].source, DROM_SOURCE_START);
    ck_assert_uint_eq(rules[4].actions.count, 2);
    ck_assert_int_eq(plan_rule_line(stage, 4), 0);
    plan_free(stage);
}

TEST(times_of_gestures_are_the_plans)
{
    g_autofree char *reported = NULL;
    plan *const stage = load_plan("plan \"Stage\"\nboard mega328\nreceiver on pin 8\n"
                                  "handset wand from \"wand.csv\", confirmed\nrelay spot on pin 4\n"
                                  "holds after 700 ms\ntaps within 250 ms\ndoubles within 300 ms\n"
                                  "repeats after 600 ms, every 200 ms, fastest 40 ms\n"
                                  "when wand.power held: spot on\nwhen wand.1 tapped: spot off\n"
                                  "when wand.1 tapped twice: spot toggle\n",
                                  SHEET, &reported);
    ck_assert_str_eq(reported, "");
    const drom_keys_plan *const keys = &plan_tables(stage)->keys;
    ck_assert(keys->handsets.rows[0].needs_second_frame);
    ck_assert_uint_eq(keys->hold_ms.rows[0], 700);
    ck_assert_uint_eq(keys->tap_ms, 250);
    ck_assert_uint_eq(keys->double_ms, 300);
    ck_assert_uint_eq(keys->repeat_after_ms, 600);
    ck_assert_uint_eq(keys->repeat_every_ms, 200);
    ck_assert_uint_eq(keys->repeat_fastest_ms, 40);
    ck_assert_uint_eq(keys->doubles.count, 1);
    ck_assert_uint_eq(keys->doubles.rows[0].key, 2);
    ck_assert_uint_eq(plan_tables(stage)->rules.rules.rows[1].gestures, DROM_TAP);
    ck_assert_uint_eq(plan_tables(stage)->rules.rules.rows[2].gestures, DROM_DOUBLE);
    plan_free(stage);
}

TEST(key_may_be_known_by_its_fingerprint)
{
    g_autofree char *reported = NULL;
    plan *const stage =
        load_plan(HEAD "when wand.odd pressed: bell on\n", SHEET "odd,unknown,0xdeadbeef,0,\n", &reported);
    ck_assert_str_eq(reported, "");
    const drom_plan *const tables = plan_tables(stage);
    ck_assert_ptr_nonnull(tables->receive.unknown.memory);
    ck_assert_uint_eq(tables->receive.protocols.count, 1);
    ck_assert_int_eq(drom_plan_check(tables, &(drom_port_facts){.pins = 20}, NULL), DROM_OK);
    plan_free(stage);
}

TEST(whole_fault_is_shown_with_its_line_and_a_caret)
{
    g_autofree char *reported = NULL;
    ck_assert_ptr_null(load_plan(HEAD "when wnad.power pressed: spot toggle\n", SHEET, &reported));
    ck_assert_str_eq(reported, "stage.plan:9:6: there is no handset 'wnad'; did you mean 'wand'?\n"
                               "    9 | when wnad.power pressed: spot toggle\n"
                               "      |      ^~~~\n");
}

/* A line after HEAD, and the faults that must be reported. */
static const struct {
    const char *line;
    const char *reported;
} faults[] = {
    {"when wand.pwoer pressed: spot on",
     ":9:11: the sheet of 'wand' has no key 'pwoer'; did you mean 'power'?"},
    {"when wand.power pressed: sopt on", ":9:26: there is no output 'sopt'; did you mean 'spot'?"},
    {"when wand.power presed: spot on", ":9:17: found 'presed', expected 'pressed', 'repeated', 'held', "
                                        "'released', 'tapped' or 'to'; did you mean 'pressed'?"},
    {"when wand pressed: spot on", ":9:11: found 'pressed', expected '.'"},
    {"when wand. pressed: spot on", ":9:12: found 'pressed', expected a key"},
    {"when wand.power pressed: spot pulse for 5sec", ":9:41: '5sec' is said as '5 s'"},
    {"when wand.power pressed: spot pulse for 0 s", ":9:41: this time may be 1 ms to 30 min"},
    {"when wand.power pressed: spot pulse for 31 min", ":9:41: this time may be 1 ms to 30 min"},
    {"when wand.power held for 70 s: spot on", ":9:26: a key can be held for 1 ms to 65 s"},
    {"when wand.play pressed: spot on", ":9:16: this gesture of 'wand.play' is bound on line 8 already"},
    {"when wand.power pressed or pressed: spot on",
     ":9:28: this gesture of 'wand.power' is bound on line 9 already"},
    {"protocol nec: 8 bits, zero 500 500, one 500 1500", ":9:10: the name 'nec' is that of a known protocol"},
    {"protocol x: 8 bits", ":9:10: the protocol 'x': it needs 'zero' and 'one'"},
    {"protocol x: 8 bits, 9 bits", ":9:21: this is said of the protocol already"},
    {"protocol x: 8 bits, zero 500 500, one 500 550", "are too much alike"},
    {"protocol x: 60 bits, leader 9000 4500, zero 500 500, one 500 1500", "a frame has 4 to 48 bits"},
    {"protocol x: 33 bits, zero 500 500, one 500 1500", "a frame without a leader has 4 to 32 bits"},
    {"protocol x: 8 bits, zero 2100 500, one 2100 1500", "without a leader, marks last 2000 µs at most"},
    {"protocol x: 8 bits, leader 0 0, zero 500 500, one 500 1500", ":9:21: this can't be 0"},
    {"protocol x: 8 bits, leader 99999 5, zero 500 500, one 500 1500",
     "its marks and spaces may be up to 11000 µs"},
    {"protocol x: 8 bits, zero 500 500, one 500 12000", "its marks and spaces may be up to 11000 µs"},
    {"protocol x: phase 1500, 20 bits", "a bi-phase frame lasts 60 ms at most"},
    {"protocol x: phase 500, 8 bits, leader 2500 500, toggle bit 1", "its toggle bit isn't the first"},
    {"protocol x: phase 500, 8 bits, ditto 500",
     "only a protocol with a leader, a 'zero' and a 'one' has repeat frames"},
    {"protocol x: 8 bits, zero 500 500, one 500 1500, ditto 500", "only a protocol with a leader"},
    {"protocol x: 8 bits, zero 500 500, one 500 1500, wide bit 2", "only a bi-phase protocol has a wide bit"},
    {"protocol x: quad 1000 1000 4000, 8 bits, leader 4000 4000", "its longest space may be up to 11000 µs"},
    {"protocol x: quad 1000 1000 2000, 24 bits, leader 4000 4000", "a quaternary frame lasts 60 ms at most"},
    {"protocol x: quad 167 278 167, 8 bits, leader 400 300, toggle bit 2", "has no toggle bit"},
    {"protocol x: 8 bits, zero 500 500, one 500 1500, toggle bit 9", "it has no such bit"},
    {"protocol x: 8 bits, zero 500 500, one 900 500, no stop", "without a stop mark it needs a leader"},
    {"protocol x: phase 500, 60 bits", "a bi-phase frame has 2 to 48 bits"},
    {"protocol x: phase 500, 8 bits, zero 1 1", "it is either bi-phase, or has a 'zero' and a 'one'"},
    {"protocol x: quad 167 278 167, 9 bits, leader 400 300",
     "a quaternary frame has 4 to 32 bits, two by two"},
    {"protocol x: quad 167 278 167, 8 bits", "a quaternary protocol needs a leader"},
    {"protocol muchtoolong1: 8 bits, zero 500 500, one 500 1500", "its name may have 11 letters"},
    {"protocol x: colour", ":9:13: found 'colour', expected"},
    {"holds after 70 s", ":9:13: the times of gestures are 1 ms to 65 s"},
    {"taps within 200 ms\ntaps within 300 ms", ":10:13: this time is given already"},
    {"repeats after 1 s", ":9:18: found the end of the line, expected ','"},
    {"relay fog on pin 4", ":9:18: pin 4 is taken by 'spot' already"},
    {"relay fog on pin 8", ":9:18: pin 8 is taken by the receiver already"},
    {"relay fog on pin 14", ":9:18: the board mega328 has no pin '14'; it has 0 to 13 and A0 to A5"},
    {"relay fog on pin A9", ":9:18: the board mega328 has no pin 'A9'"},
    {"relay spot on pin 5", ":9:7: the name 'spot' is taken on line 5 already"},
    {"relay wand on pin 5", ":9:7: the name 'wand' is taken on line 4 already"},
    {"relay fog on pin 5, active low, active high", ":9:33: this is said of 'fog' already"},
    {"relay fog on pin 5, off at least 31 min", ":9:21: the minimum times of a relay: 0 ms to 30 min"},
    {"handset hall from \"no-such.csv\"", ":9:19: the sheet of 'hall' can't be used"},
    {"handset hall from \"no-such.csv\"", "no-such.csv: can't be read: No such file or directory"},
    {"handset hall from \"hall.csv", ":9:19: this quote is never closed"},
    {"plan \"Other\"", ":9:6: the name of the plan is given on line 1 already"},
    {"board mega328", ":9:7: the board is given on line 2 already"},
    {"receiver on pin 9", ":9:17: the receiver is given on line 3 already"},
    {"at start: spot on @", ":9:19: '@' has no meaning here"},
    {"at start: spot on \x01", ":9:19: the byte 0x01 has no place in a plan"},
    {"at start: spot on \xff\xfe", "has no meaning here"},
    {"strip foot on pin 6", ":9:7: say how many pixels 'foot' has, as in: 60 pixels"},
    {"strip foot on pin 6, 1001 pixels", "a strip has so many pixels: 1 to 1000"},
    {"strip foot on pin 6, 9 pixels, order grr", "sent: rgb, rbg, grb, gbr, brg or bgr"},
    {"strip foot on pin 6, 9 pixels, order gr", "sent: rgb, rbg, grb, gbr, brg or bgr"},
    {"strip foot on pin 6, 9 pixels, order grbw", "sent: rgb, rbg, grb, gbr, brg or bgr"},
    {"strip foot on pin 6, 9 pixels, pause 70 s", "the pause after a refresh: 0 ms to 255 ms"},
    {"strip foot on pin 6, 9 pixels\nwhen wand.power pressed: foot fill rde",
     ":10:36: there is no colour 'rde'; known are black,"},
    {"strip foot on pin 6, 9 pixels\nwhen wand.power pressed: foot fill rde",
     "and 0xrrggbb; did you mean 'red'?"},
    {"strip foot on pin 6, 9 pixels\nwhen wand.power pressed: foot fill 0x1000000",
     "there is no colour '0x1000000'"},
    {"strip foot on pin 6, 9 pixels\nwhen wand.power pressed: foot palette dusk",
     ":10:39: there is no palette 'dusk'"},
    {"palette dusk: red, blu", ":9:20: there is no colour 'blu'; known are"},
    {"palette dusk: red, red, red, red, red, red, red, red, red, red, red, red, red, red, red, red, red",
     ":9:9: a palette has at most 16 colours"},
    {"palette dusk: red\npalette dusk: blue", "the name 'dusk' is taken on line 9 already"},
    {"lamp house on pin 5\nwhen wand.power pressed: house fade to 50 % over 31 min",
     ":10:50: this time may be up to 30 min"},
    {"lamp house on pin 4", ":9:19: pin 4 is taken by 'spot' already"},
    {"stepper disc on pins 5 6 7 9, up to 100 steps/s within 61 s",
     "a stepper speeds up within 1 ms to 1 min"},
    {"stepper disc on pins 5 6 7 9, up to 0 steps/s within 1 s", "steps a second: 1 to"},
    {"stepper disc on pins 5 6 7 9, 3 steps a turn", "a turn has so many steps: 4 to 100000"},
    {"stepper disc on pins 5 6 7 5", "pin 5 is taken by 'disc' already"},
    {"sender horn on pin 3\nwhen wand.power pressed: horn send hall.up", "there is no handset 'hall'"},
    {"sender horn on pin 3\nwhen wand.power pressed: horn send wand.up",
     "the sheet of 'wand' has no key 'up'"},
    {"sender horn on pin 3\nwhen wand.power pressed: horn send wand.power 256 times",
     "a key can be sent 1 to 255 times"},
    {"when wand.power released: spot on while held",
     ":9:27: 'while held' needs a key that goes down: a rule with 'pressed' or 'held'"},
    {"protocol x: 8 bits, zero 500 500, one 500 1500\nprotocol x: 9 bits, zero 500 500, one 500 1500",
     ":10:10: the name 'x' is taken on line 9 already"},
    {"at start: sp\xc3\xb6t on", ":9:11: there is no output 'sp\xc3\xb6t'; did you mean 'spot'?"},
};

TEST(each_mistake_is_reported_where_it_stands)
{
    for (size_t i = 0; i < G_N_ELEMENTS(faults); i++) {
        g_autofree char *text = g_strdup_printf("%s%s\n", HEAD, faults[i].line);
        g_autofree char *reported = NULL;
        ck_assert_msg(load_plan(text, SHEET, &reported) == NULL, "passed: %s", faults[i].line);
        ck_assert_contains(reported, faults[i].reported);
    }
}

TEST(heads_that_lack_something_are_reported)
{
    g_autofree char *reported = NULL;
    ck_assert_ptr_null(load_plan("", SHEET, &reported));
    ck_assert_contains(reported, "stage.plan:1:1: the plan has no name; begin it with: plan \"My stage\"");
    ck_assert_contains(reported, "the plan names no board; say: board uno");
    g_free(reported);
    ck_assert_ptr_null(load_plan("plan \"x\"\nboard mega382\n", SHEET, &reported));
    ck_assert_contains(
        reported,
        ":2:7: there is no board 'mega382'; known are: uno, nano, pro, mini, leonardo, "
        "micro, mega, rpipico, mega328, mega32u4, mega2560, rp2040, esp32; did you mean 'mega328'?");
    g_free(reported);
    ck_assert_ptr_null(load_plan("plan \"x\"\nboard mega328 at 40 MHz\n", SHEET, &reported));
    ck_assert_contains(reported, ":2:18: 40 MHz is out of range; the ATmega328P runs at 1 to 20 MHz");
    g_free(reported);
    ck_assert_ptr_null(load_plan("plan \"x\"\nboard mega328 at 0 MHz\n", SHEET, &reported));
    ck_assert_contains(reported, ":2:18: 0 MHz is out of range; the ATmega328P runs at 1 to 20 MHz");
    g_free(reported);
    ck_assert_ptr_null(
        load_plan("plan \"x\"\nboard mega328\nhandset wand from \"wand.csv\"\nrelay spot on pin 4\n"
                  "when wand.power pressed: spot on\n",
                  SHEET, &reported));
    ck_assert_contains(reported,
                       ":5:1: nothing can be heard: say where the receiver is, as in: receiver on pin 8");
}

TEST(all_faults_of_a_file_come_in_one_go)
{
    g_autofree char *reported = NULL;
    ck_assert_ptr_null(
        load_plan(HEAD "when wnad.power pressed: spot on\nrelay fog pin 5\nwhen wand.power pressed: fgo on\n",
                  SHEET, &reported));
    ck_assert_contains(reported, ":9:6: there is no handset 'wnad'");
    ck_assert_contains(reported, ":10:11: found 'pin', expected 'on'");
    ck_assert_contains(reported, ":11:26: there is no output 'fgo'");
    g_free(reported);
    g_autoptr(GString) many = g_string_new(HEAD);
    for (int i = 0; i < 1000; i++) {
        g_string_append(many, "nonsense\n");
    }
    ck_assert_ptr_null(load_plan(many->str, SHEET, &reported));
    ck_assert_contains(reported, "stage.plan: and 980 more like these");
}

TEST(things_that_may_be_meant_are_warned_of)
{
    g_autofree char *reported = NULL;
    plan *stage = load_plan(HEAD "relay fog on pin 5\n", SHEET, &reported);
    ck_assert_str_eq(reported, "stage.plan:9:7: warning: nothing drives 'fog'\n"
                               "    9 | relay fog on pin 5\n"
                               "      |       ^~~\n");
    plan_free(stage);
    g_free(reported);
    stage = load_plan(HEAD "handset twin from \"wand.csv\"\nwhen twin.power pressed: bell on\n", SHEET,
                      &reported);
    ck_assert_contains(
        reported,
        ":10:6: warning: this can never fire: 'twin.power' has the code of 'wand.power', which counts");
    plan_free(stage);
}

/* A sheet, and the faults that must be reported; NULL: it is valid. */
static const struct {
    const char *sheet;
    const char *reported;
} sheets[] = {
    {"key,protocol,address,command,note\r\npower,nec,4,70,\r\nplay,nec,4,71,\r\n", NULL},
    {"\xef\xbb\xbfkey,protocol,address,command,note\npower,nec,4,70,\nplay,nec,4,71,\n", NULL},
    {"key;protocol;address;command;note\npower;nec;4;70;\nplay;nec;4;71;\n", NULL},
    {"Note,Command,Address,Protocol,Key\n\"big, red\",70,4,nec,power\n,0x47,0x4,nec,play\n,,,,\n\n", NULL},
    {"key,protocol,address,command\npower,nec,4,70\nplay, nec , 4 ,71", NULL},
    {"", "wand.csv: is empty; the first line must be: key,protocol,address,command,note"},
    {"key,protocol,address,command\n", "wand.csv: has no keys; put one on each line below the first"},
    {"key,protocol,command\nplay,nec,4\n", "wand.csv:1:1: the column 'address' is missing"},
    {"key,key,protocol,address,command\nplay,play,nec,4,1\n",
     "wand.csv:1:5: the column 'key' stands here twice"},
    {SHEET "power,nec,4,72,\n", "wand.csv:5:1: the key 'power' stands on line 2 already"},
    {SHEET "stop,nec,256,72,\n",
     "wand.csv:5:10: the address 256 is out of range; it must be 0 to 255 (0xff)"},
    {SHEET "stop,nec,4,0x100,\n", "wand.csv:5:12: the command 0x100 is out of range"},
    {SHEET "stop,nec,4,-1,\n", "wand.csv:5:12: the command '-1' is no whole number"},
    {SHEET "stop,nec,4,1e3,\n", "wand.csv:5:12: the command '1e3' is no whole number"},
    {SHEET "stop,nec,4,,\n", "wand.csv:5:12: the command '' is no whole number"},
    {SHEET "stop,nex,4,1,\n",
     "wand.csv:5:6: there is no protocol 'nex'; known are: nec, nec_extended, nec_unchecked,"},
    {SHEET "vol up,nec,4,9,\n",
     "wand.csv:5:1: the key name 'vol up' must be made of letters, digits and '_'"},
    {SHEET ",nec,4,9,\n", "wand.csv:5:1: the key name '' must be made of letters"},
    {SHEET "stop,nec\n", "wand.csv:5:1: this line ends before the 'address'"},
    {SHEET "stop,\"nec,4,9,\n", "wand.csv:5:6: this quote is never closed"},
    {SHEET "st\"op,nec,4,9,\n", "a quote inside a cell"},
    {SHEET "stop,n\xff,4,9,\n", "wand.csv: is no text in UTF-8"},
};

TEST(sheets_are_read_or_their_faults_reported)
{
    for (size_t i = 0; i < G_N_ELEMENTS(sheets); i++) {
        g_autofree char *reported = NULL;
        plan *const stage = load_plan(HEAD, sheets[i].sheet, &reported);
        if (sheets[i].reported == NULL) {
            ck_assert_str_eq(reported, "");
            ck_assert_ptr_nonnull(stage);
            const int row = plan_find_key(stage, 0, "play");
            ck_assert_uint_eq(plan_tables(stage)->keys.handsets.rows[0].codes.rows[row].command, 71);
        } else {
            ck_assert_msg(stage == NULL, "passed: %s", sheets[i].sheet);
            ck_assert_contains(reported, sheets[i].reported);
        }
        plan_free(stage);
    }
}

/* A code that its protocol can't carry is refused at its place. */
static const struct {
    const char *protocol;
    const char *row;
    const char *reported;
} unheard[] = {
    {"protocol x: 8 bits, leader 2500 500, phase 500", "stop,x,0,0x7f,",
     "wand.csv:5:1: the code of 'stop' can't be one of x: its first bit begins with a space"},
    {"protocol x: 8 bits, leader 2500 500, phase 500", "stop,x,0,0xff,", NULL},
    {"protocol x: 8 bits, leader 2500 500, phase 500, one space first", "stop,x,0,0x80,",
     "begins with a space"},
    {"protocol x: 8 bits, phase 500, one space first", "stop,x,0,0x80,", NULL},
    {"protocol x: 8 bits, phase 500, one space first", "stop,x,0,0x7f,",
     "its first bit must begin with a space"},
    {"protocol x: 8 bits, phase 500", "stop,x,0,0xff,", "its first bit must begin with a space"},
    {"protocol x: 8 bits, zero 500 500, one 500 1500", "stop,x,0,0xff,", NULL},
    {"protocol x: 16 bits, leader 9000 4500, zero 500 500, one 500 1500, ditto 4450", "stop,x,0,0xff,",
     "no receiver reads it back"},
};

TEST(code_that_its_own_protocol_cannot_carry_is_refused)
{
    for (size_t i = 0; i < G_N_ELEMENTS(unheard); i++) {
        g_autofree char *text = g_strdup_printf("%s%s\n", HEAD, unheard[i].protocol);
        g_autofree char *sheet_text = g_strdup_printf("%s%s\n", SHEET, unheard[i].row);
        g_autofree char *reported = NULL;
        plan *const stage = load_plan(text, sheet_text, &reported);
        ck_assert_msg((stage == NULL) == (unheard[i].reported != NULL), "%s, %s: %s", unheard[i].protocol,
                      unheard[i].row, reported);
        if (unheard[i].reported != NULL) {
            ck_assert_contains(reported, unheard[i].reported);
        }
        plan_free(stage);
    }
}

/* A time as handsets have it, and sometimes one that they don't. */
static unsigned any_time(GRand *dice)
{
    static const int32_t longest[] = {900, 900, 5000, 10900};
    return (unsigned)g_rand_int_range(dice, 110, longest[g_rand_int_range(dice, 0, 4)]);
}

static char *any_protocol(GRand *dice)
{
    GString *const line = g_string_new("protocol x: ");
    const int bits = g_rand_int_range(dice, 2, 49);
    g_string_append_printf(line, "%d bits, %s first", bits, g_rand_boolean(dice) ? "lsb" : "msb");
    if (g_rand_boolean(dice)) {
        g_string_append_printf(line, ", leader %u %u", 4 * any_time(dice) / 2, 4 * any_time(dice) / 2);
    }
    switch (g_rand_int_range(dice, 0, 4)) {
    case 0:
        g_string_append_printf(line, ", phase %u, one %s first", any_time(dice) / 2,
                               g_rand_boolean(dice) ? "mark" : "space");
        break;
    case 1:
        g_string_append_printf(line, ", quad %u %u %u", any_time(dice) / 2, any_time(dice) / 2,
                               any_time(dice) / 2);
        break;
    default:
        g_string_append_printf(line, ", zero %u %u, one %u %u", any_time(dice), any_time(dice),
                               any_time(dice), any_time(dice));
    }
    if (g_rand_int_range(dice, 0, 4) == 0) {
        g_string_append_printf(line, ", toggle bit %d", g_rand_int_range(dice, 1, bits + 1));
    }
    g_string_append(line, g_rand_boolean(dice) ? ", gap 60 ms" : ", period 250 ms");
    return g_string_free(line, FALSE);
}

static void count_presses(void *context, const drom_key_event *event)
{
    *(unsigned *)context += event->gesture == DROM_PRESS && event->key == 3;
}

/* With any figures: an accepted plan decodes its keys, from handsets with clocks 3 % off. */
TEST(protocol_that_is_accepted_is_heard)
{
    GRand *const dice = g_rand_new_with_seed(11);
    unsigned accepted = 0;
    for (unsigned i = 0; i < 3000; i++) {
        g_autofree char *protocol = any_protocol(dice);
        g_autofree char *text = g_strdup_printf("%s%s\nwhen wand.stop pressed: bell on\n", HEAD, protocol);
        g_autofree char *sheet_text = g_strdup_printf(
            "%sstop,x,%d,%d,\n", SHEET, g_rand_boolean(dice) ? 0 : g_rand_int_range(dice, 0, 65536),
            g_rand_int_range(dice, 0, 65536));
        g_autofree char *reported = NULL;
        plan *const stage = load_plan(text, sheet_text, &reported);
        if (stage == NULL) {
            continue;
        }
        accepted++;
        drom_engine engine;
        unsigned presses = 0;
        const drom_observer observer = {.context = &presses, .key = count_presses};
        sim_bench *const bench = sim_bench_new(i);
        ck_assert_int_eq(drom_engine_init(&engine, plan_tables(stage), sim_bench_port(bench), NULL), DROM_OK);
        sim_bench_wire_engine(bench, &engine);
        drom_engine_observe(&engine, &observer);
        const drom_code code = plan_tables(stage)->keys.handsets.rows[0].codes.rows[3];
        for (uint64_t press = 0; press < 4 && plan_waveform(stage, code.protocol) != NULL; press++) {
            ck_assert(
                sim_bench_press(bench, &(sim_press){.waveform = plan_waveform(stage, code.protocol),
                                                    .code = code,
                                                    .at_us = 100000 + press * 1500000,
                                                    .room = {.clock_error = press % 2 == 0 ? 0.03 : -0.03}}));
        }
        while (sim_bench_sleep(bench, drom_engine_poll(&engine))) {
        }
        if (plan_waveform(stage, code.protocol) != NULL) {
            ck_assert_msg(presses == 4, "%u of 4 presses of %s with %s", presses, protocol, sheet_text);
        }
        sim_bench_free(bench);
        plan_free(stage);
    }
    ck_assert_uint_gt(accepted, 100);
    g_rand_free(dice);
}

TEST(two_names_for_one_code_are_warned_of)
{
    g_autofree char *reported = NULL;
    plan *const stage = load_plan(HEAD, SHEET "stop,nec,4,70,\n", &reported);
    ck_assert_contains(reported, "wand.csv:5:1: warning: 'stop' has the code of 'power' on line 2");
    ck_assert_ptr_nonnull(stage);
    plan_free(stage);
}

TEST(codes_that_no_receiver_takes_are_warned_of)
{
    g_autofree char *reported = NULL;
    plan *const stage = load_plan(
        HEAD, SHEET "odd,kaseikyo,0x41,0x35,\neven,kaseikyo,0x40,0x35,\nwide,nec_unchecked,0xfb04,0xb946,\n",
        &reported);
    ck_assert_contains(reported, "wand.csv:5:1: warning: no receiver takes the code of 'odd' for kaseikyo");
    ck_assert_contains(reported,
                       "wand.csv:7:1: warning: no receiver takes the code of 'wide' for nec_unchecked");
    ck_assert_ptr_null(strstr(reported, "'even'"));
    ck_assert_ptr_nonnull(stage);
    plan_free(stage);
}

TEST(more_than_fits_is_reported)
{
    g_autofree char *reported = NULL;
    g_autoptr(GString) keys = g_string_new("key,protocol,address,command\nplay,nec,9,9\n");
    for (int i = 0; i < 255; i++) {
        g_string_append_printf(keys, "k%d,nec,4,%d\n", i, i);
    }
    ck_assert_ptr_null(load_plan(HEAD, keys->str, &reported));
    ck_assert_contains(reported, "wand.csv:257:1: a sheet holds 255 keys at most");
    g_free(reported);
    g_autoptr(GString) text = g_string_new(HEAD "when wand.power pressed: spot on");
    for (int i = 0; i < 255; i++) {
        g_string_append(text, "; spot off");
    }
    g_string_append(text, "\n");
    ck_assert_ptr_null(load_plan(text->str, SHEET, &reported));
    ck_assert_contains(reported, "stage.plan: has 256 actions in one rule; 255 fit");
}

TEST(files_that_are_no_plan_are_reported)
{
    report *problems = report_new();
    ck_assert_ptr_null(plan_load("/", problems));
    ck_assert(report_has_unreadable(problems));
    report_free(problems);
    g_autofree char *big = g_malloc((1 << 20) + 1);
    memset(big, ' ', (1 << 20) + 1);
    g_autofree char *big_path = write_bytes("big.plan", big, (1 << 20) + 1);
    g_autofree char *binary_path = write_bytes("binary.plan", "plan\0\1\2", 7);
    problems = report_new();
    ck_assert_ptr_null(plan_load(big_path, problems));
    ck_assert_ptr_null(plan_load(binary_path, problems));
    ck_assert_uint_eq(report_errors(problems), 2);
    report_free(problems);
}

TEST(any_bytes_at_all_are_survived)
{
    g_autoptr(GRand) random = g_rand_new_with_seed(11);
    for (int i = 0; i < 400; i++) {
        g_autofree char *text =
            g_strdup(HEAD "when wand.power held for 2 s: spot pulse for 500 ms; bell on\n");
        g_autofree char *csv = g_strdup(SHEET);
        g_autofree char *reported = NULL;
        for (int j = 0; j < 4; j++) {
            text[g_rand_int_range(random, 0, (gint32)strlen(text))] = (char)g_rand_int_range(random, 1, 256);
            csv[g_rand_int_range(random, 0, (gint32)strlen(csv))] = (char)g_rand_int_range(random, 1, 256);
        }
        text[i % 4 == 0 ? (size_t)g_rand_int_range(random, 0, (gint32)strlen(text)) : strlen(text)] = '\0';
        plan *const stage = load_plan(text, csv, &reported);
        ck_assert(stage != NULL || reported[0] != '\0');
        plan_free(stage);
    }
}

SUITE("plan")
