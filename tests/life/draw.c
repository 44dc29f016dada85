/* Plans at random. Each is one that the checker takes: what can go wrong then is the engine's. */
#include "life.h"

#include <stdlib.h>
#include <string.h>

enum { MAX_KEYS = 8 };

static unsigned draw(GRand *dice, unsigned min, unsigned max)
{
    return (unsigned)g_rand_int_range(dice, (gint32)min, (gint32)max + 1);
}

static bool chance(GRand *dice, unsigned percent)
{
    return draw(dice, 1, 100) <= percent;
}

typedef char *draw_order(GRand *dice, bool can_hold);

static char *relay_order(GRand *dice, bool can_hold)
{
    switch (draw(dice, 0, can_hold ? 5 : 3)) {
    case 0:
        return g_strdup("on");
    case 1:
        return g_strdup("off");
    case 2:
        return g_strdup("toggle");
    case 3:
        return g_strdup_printf("pulse for %u ms", draw(dice, 20, 1500));
    default:
        return g_strdup("on while held");
    }
}

static char *lamp_order(GRand *dice, bool can_hold)
{
    switch (draw(dice, 0, can_hold ? 6 : 5)) {
    case 0:
        return g_strdup("on");
    case 1:
        return g_strdup("off");
    case 2:
        return g_strdup("toggle");
    case 3:
        return g_strdup_printf("brighter %u %%", draw(dice, 1, 40));
    case 4:
        return g_strdup_printf("dimmer %u %%", draw(dice, 1, 40));
    case 5:
        return g_strdup_printf("fade to %u %% over %u ms", draw(dice, 0, 100), draw(dice, 0, 2000));
    default:
        return g_strdup("on while held");
    }
}

static char *stepper_order(GRand *dice, bool can_hold)
{
    const char *const back = chance(dice, 50) ? "back " : "";
    switch (draw(dice, 0, can_hold ? 5 : 3)) {
    case 0:
        return g_strdup_printf("run%s", chance(dice, 50) ? " back" : "");
    case 1:
        return g_strdup("stop");
    case 2:
        return g_strdup_printf("turn %s%u steps", back, draw(dice, 1, 400));
    case 3:
        return g_strdup_printf("go to %s%u steps", back, draw(dice, 0, 500));
    default:
        return g_strdup_printf("run%s while held", chance(dice, 50) ? " back" : "");
    }
}

static char *strip_order(GRand *dice, bool can_hold)
{
    static const char *const colours[] = {"red", "amber", "0x102030", "warm", "black"};
    static const char *const effects[] = {"chase", "blend", "breathe", "sparkle"};
    switch (draw(dice, 0, can_hold ? 10 : 9)) {
    case 0:
        return g_strdup("on");
    case 1:
        return g_strdup("off");
    case 2:
        return g_strdup("toggle");
    case 3:
        return g_strdup_printf("fill %s", colours[draw(dice, 0, G_N_ELEMENTS(colours) - 1)]);
    case 4:
        return g_strdup_printf("show %u", draw(dice, 0, 8));
    case 5:
        return g_strdup_printf("brightness %u %%", draw(dice, 0, 100));
    case 6:
        return g_strdup_printf("brighter %u %%", draw(dice, 1, 50));
    case 7:
        return g_strdup_printf("dimmer %u %%", draw(dice, 1, 50));
    case 8:
        return g_strdup_printf("palette %s", chance(dice, 50) ? "dusk" : "dawn");
    case 9:
        return g_strdup(effects[draw(dice, 0, G_N_ELEMENTS(effects) - 1)]);
    default:
        return g_strdup("on while held");
    }
}

static char *sender_order(GRand *dice, bool can_hold)
{
    const unsigned key = draw(dice, 0, 3);
    switch (draw(dice, 0, can_hold ? 3 : 1)) {
    case 0:
        return g_strdup_printf("send hall.h%u", key);
    case 1:
        return g_strdup_printf("send hall.h%u %u times", key, draw(dice, 1, 4));
    default:
        return g_strdup_printf("send hall.h%u while held", key);
    }
}

static const struct {
    const char *name;
    draw_order *order;
} outputs[] = {{"spot", relay_order},   {"bell", relay_order}, {"fog", relay_order},  {"house", lamp_order},
               {"disc", stepper_order}, {"foot", strip_order}, {"horn", sender_order}};

static void add_outputs(GRand *dice, GString *text, bool *is_there)
{
    static const char *const relay_pins[] = {"4", "7", "12"};
    for (unsigned i = 0; i < G_N_ELEMENTS(outputs); i++) {
        is_there[i] = chance(dice, 75);
        if (!is_there[i]) {
            continue;
        }
        if (i < 3) {
            g_string_append_printf(text, "relay %s on pin %s", outputs[i].name, relay_pins[i]);
            g_string_append(text, chance(dice, 40) ? ", active low" : "");
            g_string_append(text, chance(dice, 20) ? ", rest on" : "");
            if (chance(dice, 40)) {
                g_string_append_printf(text, ", on at least %u ms", draw(dice, 10, 900));
            }
            if (chance(dice, 40)) {
                g_string_append_printf(text, ", off at least %u ms", draw(dice, 10, 900));
            }
        } else if (i == 3) {
            g_string_append_printf(text, "lamp house on pin 5%s", chance(dice, 30) ? ", active low" : "");
        } else if (i == 4) {
            g_string_append_printf(text, "stepper disc on pins A0 A2 A1 A3, up to %u steps/s within %u ms%s",
                                   draw(dice, 40, chance(dice, 30) ? 2000 : 400), draw(dice, 130, 900),
                                   chance(dice, 30) ? ", holds still" : "");
        } else if (i == 5) {
            g_string_append_printf(text, "strip foot on pin 6, %u pixels", draw(dice, 8, 60));
            if (chance(dice, 30)) {
                g_string_append(text, ", without pause");
            } else if (chance(dice, 50)) {
                g_string_append_printf(text, ", pause %u ms", draw(dice, 1, 60));
            }
        } else {
            g_string_append_printf(text, "sender horn on pin 3%s", chance(dice, 50) ? ", shielded" : "");
        }
        g_string_append_c(text, '\n');
    }
    g_string_append(text, "palette dusk: orange, purple, 0x200040\npalette dawn: red, yellow\n");
}

static void add_actions(GRand *dice, GString *text, const bool *is_there, bool can_hold)
{
    const unsigned count = draw(dice, 1, 3);
    unsigned done = 0;
    for (unsigned tries = 0; done == 0 || (tries < 40 && done < count); tries++) {
        const unsigned output = draw(dice, 0, G_N_ELEMENTS(outputs) - 1);
        if (is_there[output]) {
            g_autofree char *order = outputs[output].order(dice, can_hold);
            g_string_append_printf(text, "%s%s %s", done > 0 ? "; " : "", outputs[output].name, order);
            done++;
        }
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
    if (chance(dice, 60)) {
        g_string_append(text, "at start: ");
        add_actions(dice, text, is_there, false);
    }
    for (unsigned key = 0; key < keys; key++) {
        const unsigned first = draw(dice, 0, 1);
        g_string_append_printf(text, "when hand.k%u %s: ", key, gestures[first].text);
        add_actions(dice, text, is_there, gestures[first].can_hold);
        if (chance(dice, 70)) {
            const unsigned second = draw(dice, 2, G_N_ELEMENTS(gestures) - 1);
            g_string_append_printf(text, "when hand.k%u %s: ", key, gestures[second].text);
            add_actions(dice, text, is_there, gestures[second].can_hold);
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
    GString *const text = g_string_new("plan \"Drawn\"\nboard mega328 at 16 MHz\nreceiver on pin 8\n"
                                       "handset hand from \"hand.csv\"\nhandset hall from \"hall.csv\"\n");
    if (chance(dice, 20)) {
        g_string_append_printf(text, "repeats after %u ms, every %u ms, fastest 60 ms\n",
                               draw(dice, 250, 600), draw(dice, 80, 300));
    }
    GString *const lines = g_string_new(NULL);
    bool is_any = false;
    while (!is_any) {
        g_string_truncate(lines, 0);
        add_outputs(dice, lines, is_there);
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
