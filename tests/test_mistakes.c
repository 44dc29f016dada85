/* The messages for wrong rules, with their place; and plans of any size. */
#include "support.h"

#include "plans.h"

#include <string.h>
#include <time.h>

#define NAMES                                                                                                \
    "mode show\nmode rigging\nvalue cue from 0 to 20\ntimer nap\nevent knob\nall lights: spot, house\n"      \
    "scene evening: spot on; wait 1 s; spot off\n"

enum { NAMES_LINES = 7 };

#define KEPT(name) "value " name " from 0 to 9, kept\n"
#define FIVE_KEPT(letter) KEPT(letter "1") KEPT(letter "2") KEPT(letter "3") KEPT(letter "4") KEPT(letter "5")
#define MANY_KEPT FIVE_KEPT("a") FIVE_KEPT("b") FIVE_KEPT("c")

/* Lines after NAMES; the mistake's place in them; and the message. */
static const struct {
    const char *lines;
    int line;
    int column;
    const char *message;
} wrong[] = {
    {"mode", 1, 5, "found the end of the line, expected a name"},
    {"mode dark, back 3 s", 1, 17, "found '3 s', expected 'after'"},
    {"mode dark, back after 0 s", 1, 23, "a mode falls back after 1 ms to 24 h"},
    {"mode dark, back after 25 h", 1, 23, "a mode falls back after 1 ms to 24 h"},
    {"mode spot", 1, 6, "the name 'spot' is taken on line 5 already"},
    {"value pace", 1, 11, "found the end of the line, expected 'from'"},
    {"value pace from 5 to 5", 1, 22, "the upper limit must be above the lower one, which is 5"},
    {"value pace from 0 to 40000", 1, 22, "a value is a number from -32768 to 32767"},
    {"value pace from 0 to 9, starts at 10", 1, 35, "'pace' can only start at 0 to 9"},
    {"value pace from 0 to 9, warps", 1, 25,
     "found 'warps', expected 'starts', 'wraps' or 'kept'; did you mean 'wraps'?"},
    {"value pace from 0.5 to 9", 1, 17, "found '0.5', expected a whole number"},
    {"timer nap2 to 3 s", 1, 12, "found 'to', expected the end of the line"},
    {"all dim: house, hose", 1, 17, "there is no output 'hose'; did you mean 'house'?"},
    {"all dim: house; spot", 1, 15, "found ';', expected ',' or the end of the line"},
    {"all dim: cue", 1, 10, "'cue' is a value, and not an output"},
    {"scene dusk", 1, 11, "found the end of the line, expected ':'"},
    {"scene dusk, again never: spot on", 1, 19,
     "found 'never', expected 'restarts', 'ignored', 'queued' or 'stops'"},
    {"when wand.up or wand.down: spot on", 1, 26, "found ':', expected 'pressed'"},
    {"when wand.up or rigging begins: spot on", 1, 14, "found 'or', expected 'pressed'"},
    {"when wand.up pressed in shwo: spot on", 1, 25, "there is no mode 'shwo'; did you mean 'show'?"},
    {"when wand.up pressed in cue: spot on", 1, 25, "'cue' is a value, and not a mode"},
    {"when wand.up pressed if cue: spot on", 1, 28, "found ':', expected '<'"},
    {"when wand.up pressed if cue < many: spot on", 1, 31, "there is no value 'many'"},
    {"when wand.up pressed if cue < 3 and: spot on", 1, 36, "found ':', expected a name"},
    {"when wand.up pressed if nap < 3: spot on", 1, 25, "'nap' is a timer, and not a value"},
    {"when wand.up pressed if spot is lit: spot on", 1, 33,
     "found 'lit', expected 'on', 'off', 'closed' or 'open'"},
    {"when wand.up pressed if cue > 20: spot on", 1, 25,
     "warning: this is never so: 'cue' goes from 0 to 20"},
    {"when wand.up pressed if cue > 2 in show: spot on", 1, 33, "found 'in', expected ',' or ':'"},
    {"sender horn on pin 3\ntranslate wand to wand on horn: up as down again each 100 ms", 2, 55,
     "presses of 'wand.down' can begin each 176 to 2500 ms"},
    {"sender horn on pin 3\nwhen wand.up pressed: horn send wand.down again each 300 ms", 2, 54,
     "presses go on for as long as a key is held: end this with 'while held'"},
    {"when wand.up pressed, again: spot on", 1, 28, "found ':', expected 'restarts'"},
    {"when wand.up pressed, again stops: spot on", 1, 1, "it has no 'wait'"},
    {"when wand.up repeated: spot on; wait 1 s; spot off", 1, 14, "say which of them count: again restarts"},
    {"when wand.up pressed: spot on\n    otherwise: spot off", 1, 1, "'otherwise' needs a condition"},
    {"when wand.up to wand.down pressed: spot on", 1, 22, "a row of keys goes from one number up to another"},
    {"when wand.n8 to wand.n9 pressed: foot show digits", 1, 44, "there is no value 'digits'"},
    {"when wand.n8 to wand.n10 pressed: foot show digit", 1, 45, "'foot' has 9 pixels"},
    {"when wand.up pressed: cue to cue -1", 1, 34, "found '-1', expected '+', '-', '*', '/', ';'"},
    {"when wand.up pressed: cue to cue+1", 1, 30, "put blanks around each '+', as in: cue to cue + 1"},
    {"when wand.n8 to wand.n14 pressed: spot on", 1, 6, "the sheet of 'wand' has no key 'n12'"},
    {"when wand.up pressed: foot show digit", 1, 33, "only a rule about a row of keys has a digit"},
    {"when any other wnd key pressed: spot on", 1, 16, "there is no handset 'wnd'; did you mean 'wand'?"},
    {"when rigging begin: spot on", 1, 14, "found 'begin', expected '.', 'begins'"},
    {"when cue begins: spot on", 1, 6, "'cue' is a value, and not a mode"},
    {"when knub: spot on", 1, 6, "there is no event 'knub'; did you mean 'knob'?"},
    {"when nap changes: spot on", 1, 6, "'nap' is a timer, and not a value"},
    {"when rigging begins: spot on\nwhen rigging begins: spot off", 2, 6, "this is bound on line"},
    {"when wand.up pressed: mode dark", 1, 28, "there is no mode 'dark'"},
    {"when wand.up pressed: mode", 1, 27, "found the end of the line, expected a name"},
    {"when wand.up pressed: rigging", 1, 23, "'rigging' is a mode; to begin it say: mode rigging"},
    {"when wand.up pressed: wand on", 1, 23, "'wand' is a handset, which takes no orders"},
    {"when wand.up pressed: wait", 1, 27,
     "found the end of the line, expected a time such as '2 s' or 'for'"},
    {"when wand.up pressed: wait 31 min", 1, 28, "this time may be 1 ms to 30 min"},
    {"when wand.up pressed: wait for nap", 1, 32, "'nap' is a timer, and not an output"},
    {"when wand.up pressed: cue", 1, 26,
     "'cue' is a value: found the end of the line, expected 'up', 'down' or 'to'"},
    {"when wand.up pressed: cue up 40000", 1, 30, "a value is a number from -32768 to 32767"},
    {"when wand.up pressed: cue up while held", 1, 23, "only an order to an output can be 'while held'"},
    {"when wand.up pressed: nap start", 1, 32, "found the end of the line, expected a time"},
    {"when wand.up pressed: nap start 25 h", 1, 33, "this time may be 1 ms to 24 h"},
    {"when wand.up pressed: stop spot", 1, 28, "'spot' is an output, and not a scene"},
    {"when wand.up pressed: evening now", 1, 31, "found 'now', expected ';' or the end of the line"},
    {"when wand.up pressed: lights sing", 1, 30, "none of 'lights' knows this order"},
    {"when wand.up pressed: everything sings", 1, 34, "found 'sings', expected 'rests'"},
    {"when wand.up pressed: foot show cue", 1, 23,
     "'foot' can't take all that 'cue' may be, which is 0 to 20"},
    {"when wand.up pressed: foot show knob", 1, 33, "only a rule about 'knob' alone knows its number"},
    {"when knob: foot show knob", 1, 12, "'foot' can't take every number"},
    {"when cue changes: cue up", 1, 1, "this causes itself again, for ever and without a wait"},
    {"scene dusk: evening; dusk", 1, 1, "this causes itself again, for ever and without a wait"},
    {"when wand.up pressed: house toggle for 3 s", 1, 36, "found 'for', expected"},
    {"when wand.up pressed: house on for 31 min", 1, 36, "this time may be 1 ms to 30 min"},
    {"when wand.up pressed: house on for", 1, 32, "found 'for', expected"},
    {"call announce\nwhen wand.up pressed: call", 2, 27, "found the end of the line, expected a name"},
    {"call announce\nwhen wand.up pressed: call spot", 2, 28, "'spot' is a relay, which isn't called"},
    {"call announce\nwhen wand.up pressed: call anounce", 2, 28,
     "there is no output 'anounce'; did you mean 'announce'?"},
    {"call announce\nwhen wand.up pressed: call announce 40000", 2, 37,
     "a function gets a number from -32768 to 32767"},
    {"call announce\nwhen wand.up pressed: call announce loud", 2, 37, "there is no value 'loud'"},
    {"call announce on pin 3", 1, 15, "found 'on', expected"},
    {"translate wand", 1, 15, "found the end of the line, expected 'to'"},
    {"translate wand to wand on spot: up", 1, 27, "'spot' is a relay, which sends no keys"},
    {"sender horn on pin 3\ntranslate wand to wand on horn: up as upp", 2, 39,
     "the sheet of 'wand' has no key 'upp'"},
    {"sender horn on pin 3\ntranslate wnd to wand on horn: up", 2, 11, "there is no handset 'wnd'"},
    {"sender horn on pin 3\ntranslate wand to wnd on horn: up", 2, 19, "there is no handset 'wnd'"},
    {"sender horn on pin 3\ntranslate wand to wand on horn: up, up", 2, 37,
     "this gesture of 'wand.up' is bound on line"},
    {"switch top", 1, 11, "found the end of the line, expected 'on'"},
    {"switch top on pin 4", 1, 19, "pin 4 is taken by 'spot' already"},
    {"switch top on pin cue", 1, 19, "the board mega328 has no pin 'cue'"},
    {"buttons wall", 1, 13, "found the end of the line, expected ':'"},
    {"buttons wall: up", 1, 17, "found the end of the line, expected 'on'"},
    {"buttons wall: up on pin 5", 1, 25, "pin 5 is taken by 'house' already"},
    {"buttons wall: up on pin 9, up on pin 10", 1, 28, "'wall' has a button 'up' already"},
    {"buttons wall: up on pin 9\nwhen wall.down pressed: spot on", 2, 11, "'wall' has no key 'down'"},
    {"switch top on pin 9\nwhen top begins: spot on", 2, 6, "'top' is a switch, and not a mode"},
    {"switch top on pin 9\nwhen top clses: spot on", 2, 10, "found 'clses', expected"},
    {"when wand.up pressed if spot is closed: bell on", 1, 25, "'spot' is an output, and not a switch"},
    {"switch top on pin 9\nwhen wand.up pressed: top on", 2, 23, "'top' is a switch, which takes no orders"},
    {"in rigging: spot on", 1, 13, "found 'spot', expected 'when'"},
    {"in cue:\n    when wand.up pressed: spot on", 1, 4, "'cue' is a value, and not a mode"},
    {"in rigging:\n    when wand.up pressed in show: spot on", 2, 29,
     "this block of rules is in 'rigging' already"},
    {"motor fan", 1, 10, "found the end of the line, expected 'on'"},
    {"motor fan on pins 9 10", 1, 21, "found '10', expected 'and'"},
    {"motor fan on pins 9 and 4", 1, 25, "pin 4 is taken by 'spot' already"},
    {"motor fan on pins 9 and 10, speed on pin 9", 1, 42, "pin 9 is taken by 'fan' already"},
    {"motor fan on pin 9, speed on pin 10", 1, 21, "a motor on one pin has its speed there"},
    {"motor fan on pin 9, stops back at cue", 1, 35, "'cue' is a value, and not a switch"},
    {"switch top on pin 10\nmotor fan on pin 9, stops back at top", 2, 21,
     "a motor on one pin doesn't run back"},
    {"motor fan on pin 9, ramp 61 s", 1, 21, "the time from standing to full speed: 0 ms to 1 min"},
    {"motor fan on pin 9, dead time 0 s", 1, 21, "the pause before a motor turns round: 1 ms to 10000 ms"},
    {"motor fan on pin 9, at most 31 min", 1, 21, "a motor runs for so long at a time: 1 ms to 30 min"},
    {"motor fan on pin 9, at most 3", 1, 29, "found '3', expected a time"},
    {"motor fan on pin 9, speeds 40 to 30 %", 1, 21, "the highest speed is 40 % to 100 %"},
    {"motor fan on pin 9, speeds 0 to 30 %", 1, 21, "the lowest speed, in percent: 1 to 100"},
    {"motor fan on pin 9\nwhen wand.up pressed: fan run back 20 %", 2, 23,
     "'fan' is on one pin, and runs one way"},
    {"motor fan on pins 9 and 10\nwhen wand.up pressed: fan brake", 2, 23,
     "'fan' can't brake without a speed pin"},
    {"motor fan on pin 9\nwhen wand.up pressed: fan reverse", 2, 23, "'fan' is on one pin, and runs one way"},
    {"motor fan on pins 9 and 10\nmotor fin on pins A0 and A1\ndrive wagon of fan and fin\nwhen wand.up "
     "pressed: wagon brake",
     4, 23, "'wagon' can't do this, since 'fan' has no speed pin, and can't brake"},
    {"motor fan on pin 9\nmotor fin on pin 10\ndrive wagon of fan and fin\nwhen wand.up pressed: wagon spin "
     "left 40 %",
     4, 23, "'wagon' can't do this, since 'fan' is on one pin, and runs one way"},
    {"motor fan on pin 9\nwhen wand.up pressed: fan run 200 %", 2, 31, "there is nothing past 100 %"},
    {"motor fan on pin 9\nwhen wand.up pressed: fan stop while held", 2, 32, "found 'while', expected"},
    {"own code blocks 7 s\nmotor fan on pin 9", 2, 7,
     "is known after what own code blocks: 6.9 s at most, not 7.0 s"},
    {"motor fan on pin 9\ndrive wagon of fan", 2, 19, "found the end of the line, expected 'and'"},
    {"motor fan on pin 9\ndrive wagon of fan and fan", 2, 24, "'wagon' joins two outputs, not one twice"},
    {"motor fan on pin 9\ndrive wagon of fan and spot", 2, 24,
     "a drive is made of two motors; 'spot' is a relay"},
    {"motor fan on pin 9\ndrive wagon of fan and fen", 2, 24,
     "there is no output 'fen'; did you mean 'fan'?"},
    {"serial 9600", 1, 8, "found '9600', expected 'at'"},
    {"serial at 300", 1, 11, "a serial line is read at 1200 to 1000000 bits a second"},
    {"serial at 9600, report", 1, 17, "found 'report', expected 'reports'"},
    {"serial at 9600, reports\nserial at 9600", 2, 11, "the serial line is given already"},
    {"serial at 9600, reports", 1, 8,
     "warning: the program that is baked says nothing over its serial line yet"},
    {"relay fan on pin 9, on at least 2 s, at most 1 s", 1, 38, "'fan' is to be on for at least 2000 ms"},
    {"relay fan on pin 9, rest on, at most 1 s", 1, 30, "'fan' rests on, and so can't be on for a time only"},
    {"relay fan on pin 9, contacts normaly closed", 1, 30, "found 'normaly', expected 'normally'"},
    {"own code blocks 7 s\nrelay fan on pin 9, at most 1 s", 2, 7, "'fan' must end where the program hangs"},
    {"when wand.up pressed: house dim over 0 s", 1, 38, "this time may be 1 ms to 30 min"},
    {"when any code herd: spot on", 1, 15, "found 'herd', expected 'heard'"},
    {"when any code heard: spot on\nwhen any code heard: spot off", 2, 6, "this is bound on line"},
    {"only one of spot", 1, 6, "one of several: say which"},
    {"only one of spot, spot", 1, 19, "'spot' is in such a list already"},
    {"only one of spot, bell\nonly one of bell, spot", 2, 13, "'bell' is in such a list already"},
    {"only one of spot, bell, a, b, c, d, e, f, g", 1, 6, "9 outputs; one of 8 at most"},
    {"only one of spot, house", 1, 19, "'house' is a lamp; only relays and motors"},
    {"only one of spot, bel", 1, 19, "there is no output 'bel'; did you mean 'bell'?"},
    {"only one of spot, bell, pause 2 min", 1, 31, "a pause takes up to 1 min"},
    {"only one of spot, pause 2 s, bell", 1, 28, "found ',', expected the end of the line"},
    {"only spot, bell", 1, 6, "found 'spot', expected 'one'"},
    {"relay fog on pin 9, rest on\nonly one of fog, bell", 2, 6, "2 of them rest on, and only one may"},
    {"motor fan on pin 9\nmotor fin on pin 10\ndrive wagon of fan and fin\nonly one of fan, spot", 4, 13,
     "'fan' is a motor that another output drives, too"},
    {"relay gl→he on pin 9", 1, 7, "'→' has no meaning here"},
    {"relay ☂ on pin 9", 1, 7, "'☂' has no meaning here"},
    {"relay größe on pin 9\nrelay größe on pin 10", 2, 7, "the name 'größe' is taken on line"},
    {"when wand.üp pressed: spot on", 1, 11, "the sheet of 'wand' has no key 'üp'"},
    {"keyboard", 1, 9, "found the end of the line, expected a name"},
    {"keyboard desk, layout fr", 1, 23, "there is no layout 'fr'; known are: us, de"},
    {"keyboard desk\nkeyboard desk2", 2, 10, "a board is one keyboard, which is 'desk'"},
    {"keyboard desk\nwhen wand.up pressed: desk tap", 2, 31,
     "found the end of the line, expected a key such as f5 or ctrl+alt+t"},
    {"keyboard desk\nwhen wand.up pressed: desk tap ctrl+alt+tt", 2, 32, "a keyboard has no key 'tt'"},
    {"keyboard desk\nwhen wand.up pressed: desk tap volume_upp", 2, 32, "did you mean 'volume_up'?"},
    {"keyboard desk\nwhen wand.up pressed: desk tap a+b", 2, 32,
     "a chord is one key, and others such as ctrl"},
    {"keyboard desk\nwhen wand.up pressed: desk tap ctrl+mute", 2, 32, "a media key is tapped alone"},
    {"keyboard desk\nwhen wand.up pressed: desk tap 12", 2, 32, "a keyboard has no key '12'"},
    {"keyboard desk\nwhen wand.up pressed: desk type hi", 2, 33, "found 'hi', expected a text in quotes"},
    {"keyboard desk\nwhen wand.up pressed: desk type ''", 2, 33,
     "a text is 1 to 255 strokes long; this takes 0"},
    {"keyboard desk\nwhen wand.up pressed: desk type 'fünf'", 2, 33, "the layout of 'desk' can't type 'ü'"},
    {"keyboard desk\nwhen wand.up pressed: desk type 'five", 2, 33, "this quote is never closed"},
    {"keyboard desk\nwhen wand.up pressed: desk type 'five' while held", 2, 40, "found 'while', expected"},
    {"keyboard desk\nwhen wand.up pressed if desk is on: spot on", 2, 25, "a keyboard is neither on nor off"},
    {"when wand.up pressed: house colour red", 1, 23, "'house' is on one pin, and has no colour"},
    {"lamp moon on pins 5 6 11\nwhen wand.up pressed: moon colour rde", 2, 35, "did you mean 'red'?"},
    {"lamp moon on pins 5 6 11\nwhen wand.up pressed: moon colour black", 2, 35,
     "a lamp that is black is off"},
    {"lamp moon on pins 5 6", 1, 22, "found the end of the line, expected a pin"},
    {"part left of spot, pixels 0 to 4", 1, 14, "'spot' is a relay; a part is one of a strip"},
    {"part left of stripe, pixels 0 to 4", 1, 14, "there is no output 'stripe'"},
    {"strip row on pin 6, 9 pixels\npart left of row", 2, 6,
     "say which pixels 'left' has, as in: pixels 0 to 19"},
    {"strip row on pin 6, 9 pixels\npart left of row, pixels 0 to 9", 2, 19,
     "the last pixel of 'left' is 0 to 8"},
    {"strip row on pin 6, 9 pixels\npart left of row, pixels 4 to 3", 2, 19,
     "the last pixel of 'left' is 4 to 8"},
    {"part left of row, pixels 0 to 3\nstrip row on pin 6, 9 pixels", 1, 14,
     "'row' must be said before its parts"},
    {"strip row on pin 6, 9 pixels\npart a of row, pixels 0 to 3\npart b of row, pixels 3 to 4", 3, 16,
     "'a' has some of these pixels"},
    {"strip row on pin 6, 9 pixels\npart a of row, pixels 0 to 3\nwhen wand.up pressed: a show 5", 3, 30,
     "'a' has 4 pixels"},
    {"strip row on pin 6, 9 pixels, at most 9 mA", 1, 31, "'row' takes 9 mA when it is dark"},
    {"strip row on pin 6, 9 pixels, at most 61 A", 1, 31, "a strip takes, in A: 1 to 60"},
    {"strip row on pin 6, 9 pixels, supply 60 V 1 A", 1, 31, "a supply gives 1 to 48 V, and up to 60 A"},
    {"strip row on pin 6, 9 pixels, supply 5 V 0 mA", 1, 31, "a supply gives 1 to 48 V, and up to 60 A"},
    {"strip row on pin 6, 9 pixels, supply 5 V 1 A, supply 5 V 2 A", 1, 47, "this is said of 'row' already"},
    {"relay horn on pin 6, through driver, on a relay board", 1, 38, "this is said of 'horn' already"},
    {"lamp dim on pin 6, on a relay board", 1, 20, "found 'on'"},
    {"strip row on pin 6, 9 pixels, at most 2 A, at most 90 mA", 1, 44, "this is said of 'row' already"},
    {"stepper disc on pins 9 10 11 12, home at tip", 1, 42, "there is no switch 'tip'"},
    {"switch top on pin A4\nstepper disc on pins 9 10 11 12, home at top within 0 turns", 2, 34,
     "home is found within 1 to 1000 turns"},
    {"stepper disc on pins 9 10 11 12\nwhen wand.up pressed: disc home", 2, 23,
     "'disc' has no switch to find home at, as in: home at top"},
    {"switch top on pin A4\nstepper disc on pins 9 10 11 12, home at top, home at top within 2 turns", 2, 47,
     "this is said of 'disc' already"},
    {"strip row on pin 6, 20 pixels\npart p0 of row, pixels 0 to 0\npart p1 of row, pixels 1 to 1\npart p2 "
     "of row, pixels 2 to 2\npart p3 of row, pixels 3 to 3\npart p4 of row, pixels 4 to 4\npart p5 of row, "
     "pixels 5 to 5\npart p6 of row, pixels 6 to 6\npart p7 of row, pixels 7 to 7\npart p8 of row, pixels 8 "
     "to 8\npart p9 of row, pixels 9 to 9\npart p10 of row, pixels 10 to 10\npart p11 of row, pixels 11 to "
     "11\npart p12 of row, pixels 12 to 12\npart p13 of row, pixels 13 to 13\npart p14 of row, pixels 14 to "
     "14\npart p15 of row, pixels 15 to 15\npart p16 of row, pixels 16 to 16\n",
     18, 6, "'row' has 16 parts already, which is the most"},
    {"value pace from 0 to 9, kept 5 s", 1, 30, "found '5 s', expected ',' or the end of the line"},
    {MANY_KEPT, 15, 23, "14 values are kept already, which is the most on the board mega328"},
    {"protocol torch: 20 bits, leader 3000 1000, zero 500 500, one 500 1500, carrier 100 kHz", 1, 10,
     "its carrier has 20 to 60 kHz"},
    {"protocol torch: 20 bits, leader 3000 1000, zero 500 500, one 500 1500, carrier 38", 1, 80,
     "expected a frequency such as '16 MHz' or '38 kHz'"},
    {"palette dusk: red otherwise: blue", 1, 19, "found 'otherwise', expected"},
    {"mode dark", 1, 6, "warning: nothing begins the mode 'dark', as in: mode dark"},
    {"scene dusk: spot on", 1, 7, "warning: nothing begins the scene 'dusk'"},
};

TEST(each_mistake_is_said_where_it_stands)
{
    g_autoptr(GString) missed = g_string_new(NULL);
    for (size_t i = 0; i < G_N_ELEMENTS(wrong); i++) {
        g_autofree char *reported = NULL;
        g_autofree char *lines = g_strconcat(NAMES, wrong[i].lines, NULL);
        g_autofree char *where =
            g_strdup_printf(":%d:%d: ", STAGE_LINES + NAMES_LINES + wrong[i].line, wrong[i].column);
        plan *const stage = load_stage(lines, &reported);
        g_auto(GStrv) said_lines = g_strsplit(reported, "\n", -1);
        bool is_found = false;
        for (int line = 0; said_lines[line] != NULL; line++) {
            is_found |=
                strstr(said_lines[line], where) != NULL && strstr(said_lines[line], wrong[i].message) != NULL;
        }
        if (!is_found) {
            g_string_append_printf(missed, "%s\nexpected %s%s\n%s\n", wrong[i].lines, where, wrong[i].message,
                                   reported);
        }
        plan_free(stage);
    }
    ck_assert_msg(missed->len == 0, "%s", missed->str);
}

TEST(a_plan_of_255_actions_and_rules_is_taken_and_one_more_is_not)
{
    for (unsigned count = 255; count <= 256; count++) {
        g_autoptr(GString) lines = g_string_new("value cue from 0 to 9\nwhen wand.up pressed: ");
        g_autofree char *reported = NULL;
        for (unsigned i = 0; i < count; i++) {
            g_string_append_printf(lines, "%scue up", i > 0 ? "; " : "");
        }
        plan *const stage = load_stage(lines->str, &reported);
        ck_assert_msg((stage != NULL) == (count == 255), "%s", reported);
        ck_assert(count == 255 || strstr(reported, "has 256 actions in one rule; 255 fit") != NULL);
        plan_free(stage);
    }
}

/* A row above 127 would be taken for a number of presses. */
TEST(sender_has_128_keys_at_most)
{
    for (unsigned count = 128; count <= 129; count++) {
        g_autoptr(GString) csv = g_string_new("key,protocol,address,command\n");
        g_autoptr(GString) text = g_string_new("plan \"Stage\"\nboard mega328\nreceiver on pin 8\n"
                                               "handset wand from \"wand.csv\"\nsender horn on pin 3\n"
                                               "translate wand to wand on horn: ");
        g_autofree char *reported = NULL;
        for (unsigned i = 0; i < count; i++) {
            g_string_append_printf(csv, "k%u,nec,4,%u\n", i, i);
            g_string_append_printf(text, "%sk%u", i > 0 ? ", " : "", i);
        }
        g_string_append_c(text, '\n');
        plan *const stage = load_plan(text->str, csv->str, &reported);
        ck_assert_msg((stage != NULL) == (count == 128), "%s", reported);
        ck_assert(count == 128 || strstr(reported, "'horn' sends 128 keys at most") != NULL);
        plan_free(stage);
    }
}

/* Lines that fill a plan, up to 300 kB; each "%u" is another number. */
static const struct {
    const char *head;
    const char *more;
} fillings[] = {
    {"", "when wand.n8 to wand.n11 pressed: spot on\n"},
    {"", "when wand.up pressed: house on for %u ms\n"},
    {"", "value v%u from 0 to 9\n"},
    {"", "scene s%u: spot on; spot off\n"},
    {"", "mode m%u\n"},
    {"", "relay r%u on pin 9\n"},
    {"", "handset h%u from \"wand.csv\"\n"},
    {"", "palette p%u: red, blue\n"},
    {"mode a\nmode b\nin b:\n", "    when wand.up pressed: spot on\n"},
    {"when wand.up pressed: spot on", "\n ; house on for %u ms"},
    {"all lights: spot, house\nwhen wand.up pressed: lights on", "\n ; lights off"},
    {"value v from 0 to 9\nwhen wand.up pressed if v < 3", "\n and v < 3"},
    {"when wand.up pressed", "\n or wand.down pressed"},
    {"all lights: spot", "\n , spot"},
    {"buttons wall: up on pin 2", "\n , b%u on pin 9"},
    {"sender horn on pin 3\ntranslate wand to wand on horn: up", "\n , down"},
};

TEST(no_plan_takes_long_however_much_is_in_it)
{
    enum { BYTES = 300000, LONGEST_S = 20 /* with sanitizers, on a slow machine */ };
    for (size_t i = 0; i < G_N_ELEMENTS(fillings); i++) {
        g_autoptr(GString) lines = g_string_new(fillings[i].head);
        g_autofree char *reported = NULL;
        for (unsigned number = 1; lines->len < BYTES; number++) {
            g_string_append_printf(lines, fillings[i].more, number);
        }
        const clock_t before = clock();
        plan *const stage = load_stage(lines->str, &reported);
        const double took_s = (double)(clock() - before) / CLOCKS_PER_SEC;
        ck_assert_msg(stage == NULL, "%.20s is taken", fillings[i].more);
        ck_assert_msg(strstr(reported, " fit") != NULL, "%.20s: %.400s", fillings[i].more, reported);
        ck_assert_msg(took_s < LONGEST_S, "%.20s took %.1f s", fillings[i].more, took_s);
    }
}

SUITE("mistakes")
