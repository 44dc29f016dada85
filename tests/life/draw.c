/* Plans at random. Each is one that the checker takes: what can go wrong then is the engine's. */
#include "life.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { MAX_KEYS = 8, TIP_PIN = 2 };

static unsigned draw(GRand *dice, unsigned min, unsigned max)
{
    return (unsigned)g_rand_int_range(dice, (gint32)min, (gint32)max + 1);
}

static bool chance(GRand *dice, unsigned percent)
{
    return draw(dice, 1, 100) <= percent;
}

/* Appends a text in which "[3-9]" stands for one of these numbers. */
static void append_numbers(GRand *dice, GString *text, const char *pattern)
{
    for (const char *at = pattern; *at != '\0';) {
        const size_t plain = strcspn(at, "[");
        unsigned min = 0;
        unsigned max = 0;
        g_string_append_len(text, at, (gssize)plain);
        at += plain;
        if (sscanf(at, "[%u-%u]", &min, &max) == 2) {
            g_string_append_printf(text, "%u", draw(dice, min, max));
            at = strchr(at, ']') + 1;
        }
    }
}

/* The same, with "{a|b|c}" for one of these words. */
static void append_drawn(GRand *dice, GString *text, const char *pattern)
{
    g_auto(GStrv) parts = g_strsplit_set(pattern, "{}", -1); /* each second one stood in braces */
    for (guint i = 0; parts[i] != NULL; i++) {
        g_auto(GStrv) words = g_strsplit(parts[i], i % 2 == 0 ? "\n" : "|", -1);
        const guint count = g_strv_length(words);
        append_numbers(dice, text, count > 0 ? words[draw(dice, 0, count - 1)] : "");
    }
}

/* Of these rows. */
enum { SPOT = 0, FOOT = 5, FAN = 6, FIN = 7, WAGON = 8, LEFT = 9, DESK = 10 };

/* The outputs, and their orders; the last one is for a key that is held. */
static const struct {
    const char *name;
    const char *line;
    const char *orders[14];
} outputs[] = {
#define RELAY(pin)                                                                                           \
    "on pin " pin "{||, active low}{||||, rest on}{||, on at least [10-900] ms}{||, off at least [10-900] "  \
    "ms}"
#define RELAY_ORDERS                                                                                         \
    {                                                                                                        \
        "on", "off", "toggle", "pulse for [20-1500] ms", "on while held"                                     \
    }
    {"relay spot", RELAY("4"), RELAY_ORDERS},
    {"relay bell", RELAY("7"), RELAY_ORDERS},
    {"relay fog", RELAY("12"), RELAY_ORDERS},
    {"lamp house",
     "on pin 5{||, active low}",
     {"on", "off", "toggle", "brighter [1-40] %", "dimmer [1-40] %", "fade to [0-100] % over [0-2000] ms",
      "on while held"}},
    {"stepper disc",
     "on pins A0 A2 A1 A3, up to {[40-400]|[40-400]|[40-2000]} steps/s within [130-900] ms{||, holds still}",
     {"run{| back}", "stop", "turn {|back }[1-400] steps", "go to {|back }[0-500] steps",
      "run{| back} while held"}},
    {"strip foot",
     "on pin 6, [8-60] pixels{|, without pause|, pause [1-60] ms}{||, at most [100-900] mA}",
     {"on", "off", "toggle", "fill {red|amber|0x102030|warm|black}", "show [0-8]", "brightness [0-100] %",
      "brighter [1-50] %", "dimmer [1-50] %", "palette {dusk|dawn}", "{chase|blend|breathe|sparkle}",
      "on while held"}},
    {"motor fan",
     "on pins 9 and 10, speed on pin 11{||, ramp [0-900] ms}{||, dead time [1-300] ms}{||, at most "
     "[300-3000] ms}"
     "{||, speeds [5-30] to [60-100] %}{|, stops forward at tip|, stops back at tip}",
     {"run{| back} [1-100] %", "stop", "coast", "brake", "faster [1-30] %", "slower [1-30] %",
      "{forward|back|reverse}", "resume", "toggle", "run{| back} [20-100] % while held"}},
    {"motor fin",
     "on pins A4 and A5, speed on pin 13{||, ramp [0-900] ms}{||, at most [300-3000] ms}{|, stops forward at "
     "tip}",
     {"run{| back} [1-100] %", "stop", "coast", "reverse", "run [20-100] % while held"}},
    {"drive wagon",
     "of fan and fin",
     {"{forward|back|left|right|spin left|spin right}{| [10-100] %}", "stop", "coast", "brake",
      "{forward|spin left} while held"}},
    {"part left",
     "of foot, pixels 0 to 7",
     {"on", "off", "fill {red|0x102030|warm}", "show [0-8]", "brighter [1-50] %", "{chase|sparkle}",
      "on while held"}},
    {"keyboard desk",
     "{|, layout de}",
     {"tap {a|ctrl+alt+t|shift+f5|gui}", "tap {mute|volume_up}", "type '{Cue|A b, c!|lantern}'",
      "hold shift+x", "let go", "hold {up|ctrl+page_down|volume_down} while held"}},
    {"sender horn",
     "on pin 3{|, shielded}",
     {"send hall.h[0-3]", "send hall.h[0-3] [1-4] {times|frames}", "send hall.h[0-3] while held"}},
};

static bool can_be_there(const bool *is_there, unsigned output, bool has_usb)
{
    switch (output) {
    case WAGON:
        return is_there[FAN] && is_there[FIN];
    case LEFT:
        return is_there[FOOT];
    case DESK:
        return has_usb;
    default:
        return true;
    }
}

static void add_outputs(GRand *dice, GString *text, bool *is_there, bool has_usb)
{
    for (unsigned i = 0; i < G_N_ELEMENTS(outputs); i++) {
        is_there[i] = chance(dice, 75) && can_be_there(is_there, i, has_usb);
        if (is_there[i]) {
            const bool has_pins = outputs[i].line[0] != '{';
            g_autofree char *line =
                g_strdup_printf("%s%s%s", outputs[i].name, has_pins ? " " : "", outputs[i].line);
            append_drawn(dice, text, line);
            g_string_append_c(text, '\n');
        }
    }
    if (is_there[SPOT] && is_there[FAN] && !is_there[WAGON] && chance(dice, 40)) {
        append_drawn(dice, text, "only one of spot, fan{|, pause [10-600] ms}");
        g_string_append_c(text, '\n');
    }
    g_string_append(text, "palette dusk: orange, purple, 0x200040\npalette dawn: red, yellow\n");
}

/* What a plan has of its own, and rules about it. */
static const char *const state_lines[] = {"mode show", "mode dark{|, back after [1-4] s}",
                                          "value cue from 0 to [2-6]{|, wraps}", "timer nap"};
static const char *const state_actions[] = {"cue up",           "cue down [1-2]",    "cue to [0-2]",
                                            "mode {show|dark}", "nap start [1-3] s", "nap add [500-2000] ms",
                                            "nap cancel"};
static const char *const state_rules[] = {"dark begins", "dark ends", "cue changes", "nap ends",
                                          "any other hand key pressed"};
static const char *const conditions[] = {" in {show|dark}", " if cue {<|>=|=|!=} [0-2]", " if nap runs",
                                         " in {show|dark} if cue > 0"};

/* How a rule's actions may be drawn. */
typedef struct freedom {
    bool can_hold;
    bool has_state; /* actions on it, and waits */
} freedom;

static void add_list(GRand *dice, GString *text, const bool *is_there, freedom may)
{
    const unsigned count = draw(dice, 1, 3);
    unsigned done = 0;
    for (unsigned tries = 0; done == 0 || (tries < 40 && done < count); tries++) {
        const unsigned output = draw(dice, 0, G_N_ELEMENTS(outputs) - 1);
        unsigned orders = 0;
        while (outputs[output].orders[orders] != NULL) {
            orders++;
        }
        if (!is_there[output]) {
            continue;
        }
        g_string_append(text, done > 0 ? "; " : "");
        if (may.has_state && chance(dice, 25)) {
            append_drawn(dice, text, state_actions[draw(dice, 0, G_N_ELEMENTS(state_actions) - 1)]);
            g_string_append(text, "; ");
        } else if (may.has_state && chance(dice, 15)) {
            append_drawn(dice, text, "wait [20-900] ms");
            g_string_append(text, "; ");
        }
        g_string_append_printf(text, "%s ", strchr(outputs[output].name, ' ') + 1);
        append_drawn(dice, text, outputs[output].orders[draw(dice, 0, orders - (may.can_hold ? 1 : 2))]);
        done++;
    }
}

static void add_actions(GRand *dice, GString *text, const bool *is_there, freedom may)
{
    add_list(dice, text, is_there, may);
    g_string_append_c(text, '\n');
}

static void add_key_rule(GRand *dice, GString *text, const bool *is_there, unsigned key, const char *gesture,
                         freedom may)
{
    g_string_append_printf(text, "when hand.k%u %s", key, gesture);
    const bool is_asked = may.has_state && chance(dice, 40);
    const unsigned condition = draw(dice, 0, G_N_ELEMENTS(conditions) - 1);
    if (is_asked) {
        append_drawn(dice, text, conditions[condition]);
    }
    may.has_state &=
        strstr(gesture, "repeated") == NULL; /* which would have to say what becomes of its waits */
    g_string_append(text, ": ");
    add_list(dice, text, is_there, may);
    if (is_asked && condition > 0 && chance(dice, 50)) {
        g_string_append(text, "\n    otherwise: ");
        add_list(dice, text, is_there, may);
    }
    g_string_append_c(text, '\n');
}

static void add_rules(GRand *dice, GString *text, const bool *is_there, unsigned keys)
{
    static const struct {
        const char *text;
        bool can_hold;
    } gestures[] = {
        {"pressed", true}, {"pressed or repeated", false}, {"held", true},     {"held for 1200 ms", true},
        {"tapped", false}, {"tapped twice", false},        {"released", false}};
    const bool has_state = chance(dice, 50);
    for (unsigned i = 0; has_state && i < G_N_ELEMENTS(state_lines); i++) {
        append_drawn(dice, text, state_lines[i]);
        g_string_append_c(text, '\n');
    }
    if (chance(dice, 60)) {
        g_string_append(text, "at start: ");
        add_actions(dice, text, is_there, (freedom){false, has_state});
    }
    for (unsigned key = 0; key < keys; key++) {
        const unsigned first = draw(dice, 0, 1);
        add_key_rule(dice, text, is_there, key, gestures[first].text,
                     (freedom){gestures[first].can_hold, has_state});
        if (chance(dice, 70)) {
            const unsigned second = draw(dice, 2, G_N_ELEMENTS(gestures) - 1);
            add_key_rule(dice, text, is_there, key, gestures[second].text,
                         (freedom){gestures[second].can_hold, has_state});
        }
    }
    for (unsigned i = 0; has_state && i < G_N_ELEMENTS(state_rules); i++) {
        if (chance(dice, 40)) { /* orders alone, since others could cause each other for ever */
            g_string_append_printf(text, "when %s: ", state_rules[i]);
            add_actions(dice, text, is_there, (freedom){false, false});
        }
    }
}

/* Protocols that check their frames, so that noise makes no key. */
static const struct {
    const char *id;
    unsigned address;
    unsigned command;
} codes[] = {
    {"nec", 0x21, 0x45},   {"samsung32", 0x1c, 0x2a}, {"kaseikyo", 0x40, 0x35}, {"rca", 0x0c, 0x6e},
    {"lg28", 0x5d, 0x1c3}, {"necx", 0x2112, 0x10},    {"rc6", 0x20, 0x31},      {"denon", 0x05, 0x09},
};

static char *draw_sheet(GRand *dice, char letter, unsigned keys, unsigned protocols)
{
    GString *const sheet_text = g_string_new("key,protocol,address,command,note\n");
    const unsigned first = draw(dice, 0, G_N_ELEMENTS(codes) - 1);
    for (unsigned i = 0; i < keys; i++) {
        const unsigned code = (first + i % protocols) % G_N_ELEMENTS(codes);
        g_string_append_printf(sheet_text, "%c%u,%s,%u,%u,\n", letter, i, codes[code].id, codes[code].address,
                               codes[code].command + i);
    }
    return g_string_free(sheet_text, FALSE);
}

drawn_plan draw_plan(GRand *dice)
{
    const unsigned keys = draw(dice, 3, MAX_KEYS);
    bool is_there[G_N_ELEMENTS(outputs)] = {false};
    const bool has_usb = chance(dice, 40);
    GString *const text = g_string_new("plan \"Drawn\"\n");
    g_string_append_printf(text,
                           "board %s at 16 MHz\nreceiver on pin 8\nhandset hand from \"hand.csv\"\n"
                           "handset hall from \"hall.csv\"\nswitch tip on pin %d\n",
                           has_usb ? "mega32u4" : "mega328", TIP_PIN);
    if (chance(dice, 20)) {
        g_string_append_printf(text, "repeats after %u ms, every %u ms, fastest 60 ms\n",
                               draw(dice, 250, 600), draw(dice, 80, 300));
    }
    GString *const lines = g_string_new(NULL);
    bool is_any = false;
    while (!is_any) {
        g_string_truncate(lines, 0);
        add_outputs(dice, lines, is_there, has_usb);
        for (unsigned i = 0; i < G_N_ELEMENTS(outputs); i++) {
            is_any |= is_there[i];
        }
    }
    g_string_append(text, lines->str);
    g_string_free(lines, TRUE);
    add_rules(dice, text, is_there, keys);
    return (drawn_plan){.plan = g_string_free(text, FALSE),
                        .hand = draw_sheet(dice, 'k', keys, draw(dice, 1, 3)),
                        .hall = draw_sheet(dice, 'h', 4, 2),
                        .keys = keys};
}

void drawn_plan_clear(drawn_plan *unwanted)
{
    g_free(unwanted->plan);
    g_free(unwanted->hand);
    g_free(unwanted->hall);
}

GArray *draw_presses(GRand *dice, unsigned keys, uint32_t lasts_ms)
{
    GArray *const presses = g_array_new(FALSE, FALSE, sizeof(life_press));
    uint32_t at_ms = draw(dice, 100, 800);
    while (at_ms < lasts_ms) {
        const uint32_t held_ms = chance(dice, 40) ? draw(dice, 300, 2500) : draw(dice, 0, 200);
        const life_press press = {.key = draw(dice, 0, keys - 1), .at_ms = at_ms, .held_ms = held_ms};
        g_array_append_val(presses, press);
        at_ms += held_ms + 250 + (chance(dice, 30) ? 0 : draw(dice, 0, 1500));
        if (chance(dice, 20)) { /* soon again: twice, perhaps */
            const life_press again = {.key = press.key, .at_ms = at_ms, .held_ms = 50};
            g_array_append_val(presses, again);
            at_ms += 600;
        }
    }
    return presses;
}

GArray *draw_touches(GRand *dice, uint32_t lasts_ms)
{
    GArray *const touches = g_array_new(FALSE, FALSE, sizeof(life_touch));
    bool is_closed = false;
    for (uint32_t at_ms = draw(dice, 0, 5000); at_ms < lasts_ms; at_ms += draw(dice, 60, 3000)) {
        is_closed = !is_closed;
        const life_touch touch = {TIP_PIN, at_ms, is_closed};
        g_array_append_val(touches, touch);
    }
    return touches;
}

static void write_into(const char *folder, const char *name, const char *text)
{
    g_autofree char *path = g_build_filename(folder, name, NULL);
    g_autoptr(GError) error = NULL;
    if (!g_file_set_contents(path, text, -1, &error)) {
        g_error("%s", error->message);
    }
}

plan *load_drawn(const drawn_plan *drawn, const char *folder, char **text)
{
    char *written = NULL;
    size_t length = 0;
    g_autofree char *path = g_build_filename(folder, "drawn.plan", NULL);
    write_into(folder, "drawn.plan", drawn->plan);
    write_into(folder, "hand.csv", drawn->hand);
    write_into(folder, "hall.csv", drawn->hall);
    report *const faults = report_new();
    plan *const loaded = plan_load(path, faults);
    FILE *const out = open_memstream(&written, &length);
    report_print(faults, out);
    (void)fclose(out);
    report_free(faults);
    *text = g_strdup(written);
    free(written);
    return loaded;
}
