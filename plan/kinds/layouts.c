/* Layouts are tables of the letters of each key alone, with shift, and with the right alt key. Keys without a
 * letter have a name, the same in all layouts. */
#include "plan/kinds/layouts.h"

#include "plan/text/report.h"

#include <string.h>

enum { SHIFT = 0x02, RIGHT_ALT = 0x40, MEDIA = 0x8000, SPACE = 44 };

/* Letters of a key alone, with shift, with the right alt key; 0: none. */
typedef struct layout_key {
    uint8_t usage;
    gunichar letters[3];
} layout_key;

struct layout {
    const char *name;
    layout_key keys[52];
    gunichar dead[4]; /* dead keys: followed by a blank they type the letter itself */
};

static const uint8_t modifiers_of[] = {0, SHIFT, RIGHT_ALT};

#define LETTER(usage, low, high)                                                                             \
    {                                                                                                        \
        usage,                                                                                               \
        {                                                                                                    \
            low, high, 0                                                                                     \
        }                                                                                                    \
    }
#define LETTERS_BUT_Y_AND_Z                                                                                  \
    LETTER(5, 'b', 'B'), LETTER(6, 'c', 'C'), LETTER(7, 'd', 'D'), LETTER(9, 'f', 'F'),                      \
        LETTER(10, 'g', 'G'), LETTER(11, 'h', 'H'), LETTER(12, 'i', 'I'), LETTER(13, 'j', 'J'),              \
        LETTER(14, 'k', 'K'), LETTER(15, 'l', 'L'), LETTER(17, 'n', 'N'), LETTER(18, 'o', 'O'),              \
        LETTER(19, 'p', 'P'), LETTER(21, 'r', 'R'), LETTER(22, 's', 'S'), LETTER(23, 't', 'T'),              \
        LETTER(24, 'u', 'U'), LETTER(25, 'v', 'V'), LETTER(26, 'w', 'W'), LETTER(27, 'x', 'X'),              \
        LETTER(4, 'a', 'A'), LETTER(SPACE, ' ', 0)

static const layout layouts[] = {
    {"us",
     {LETTERS_BUT_Y_AND_Z,   LETTER(8, 'e', 'E'),  LETTER(16, 'm', 'M'),  LETTER(20, 'q', 'Q'),
      LETTER(28, 'y', 'Y'),  LETTER(29, 'z', 'Z'), LETTER(30, '1', '!'),  LETTER(31, '2', '@'),
      LETTER(32, '3', '#'),  LETTER(33, '4', '$'), LETTER(34, '5', '%'),  LETTER(35, '6', '^'),
      LETTER(36, '7', '&'),  LETTER(37, '8', '*'), LETTER(38, '9', '('),  LETTER(39, '0', ')'),
      LETTER(45, '-', '_'),  LETTER(46, '=', '+'), LETTER(47, '[', '{'),  LETTER(48, ']', '}'),
      LETTER(49, '\\', '|'), LETTER(51, ';', ':'), LETTER(52, '\'', '"'), LETTER(53, '`', '~'),
      LETTER(54, ',', '<'),  LETTER(55, '.', '>'), LETTER(56, '/', '?')},
     {0}},
    {"de",
     {LETTERS_BUT_Y_AND_Z,    {8, {'e', 'E', 0x20ac}}, /* € */
      {16, {'m', 'M', 0xb5}},                          /* µ */
      {20, {'q', 'Q', '@'}},  LETTER(28, 'z', 'Z'),    LETTER(29, 'y', 'Y'),
      LETTER(30, '1', '!'),   {31, {'2', '"', 0xb2}},  {32, {'3', 0xa7, 0xb3}}, /* § */
      LETTER(33, '4', '$'),   LETTER(34, '5', '%'),    LETTER(35, '6', '&'),
      {36, {'7', '/', '{'}},  {37, {'8', '(', '['}},   {38, {'9', ')', ']'}},
      {39, {'0', '=', '}'}},  {45, {0xdf, '?', '\\'}},                         /* ß */
      {46, {0xb4, '`', 0}},                                                    /* ´ */
      LETTER(47, 0xfc, 0xdc),                                                  /* ü */
      {48, {'+', '*', '~'}},  LETTER(50, '#', '\''),   LETTER(51, 0xf6, 0xd6), /* ö */
      LETTER(52, 0xe4, 0xc4),                                                  /* ä */
      LETTER(53, '^', 0xb0),                                                   /* ° */
      LETTER(54, ',', ';'),   LETTER(55, '.', ':'),    LETTER(56, '-', '_'),
      {100, {'<', '>', '|'}}},
     {'^', '`', 0xb4}},
};

/* Of a layout, as far as it is filled. */
static const layout_key *key_at(const layout *in, size_t row)
{
    return row < G_N_ELEMENTS(in->keys) && in->keys[row].usage != 0 ? &in->keys[row] : NULL;
}

const layout *layout_by_name(const char *name)
{
    for (size_t i = 0; i < G_N_ELEMENTS(layouts); i++) {
        if (strcmp(layouts[i].name, name) == 0) {
            return &layouts[i];
        }
    }
    return NULL;
}

const char *const *layout_names(void)
{
    static const char *names[G_N_ELEMENTS(layouts) + 1];
    for (size_t i = 0; i < G_N_ELEMENTS(layouts); i++) {
        names[i] = layouts[i].name;
    }
    return names;
}

static bool is_dead(const layout *in, gunichar letter)
{
    bool is_so = false;
    for (size_t i = 0; i < G_N_ELEMENTS(in->dead); i++) {
        is_so |= letter != 0 && in->dead[i] == letter;
    }
    return is_so;
}

unsigned layout_strokes(const layout *in, gunichar letter, drom_stroke *strokes)
{
    const layout_key *key;
    for (size_t row = 0; (key = key_at(in, row)) != NULL; row++) {
        for (size_t i = 0; i < G_N_ELEMENTS(modifiers_of); i++) {
            if (key->letters[i] == letter && letter != 0) {
                strokes[0] = (drom_stroke){key->usage, modifiers_of[i]};
                strokes[1] = (drom_stroke){SPACE, 0};
                return is_dead(in, letter) ? 2 : 1;
            }
        }
    }
    return 0;
}

gunichar layout_letter(const layout *in, drom_stroke stroke, bool *is_dead_key)
{
    const layout_key *key;
    *is_dead_key = false;
    for (size_t row = 0; (key = key_at(in, row)) != NULL; row++) {
        for (size_t i = 0; i < G_N_ELEMENTS(modifiers_of); i++) {
            if (key->usage == stroke.usage && modifiers_of[i] == stroke.modifiers) {
                *is_dead_key = is_dead(in, key->letters[i]);
                return key->letters[i];
            }
        }
    }
    return 0;
}

static const struct {
    const char *name;
    uint8_t bit;
} modifiers[] = {
    {"ctrl", 0x01},        {"shift", SHIFT},         {"alt", 0x04},      {"gui", 0x08}, {"right_ctrl", 0x10},
    {"right_shift", 0x20}, {"right_alt", RIGHT_ALT}, {"right_gui", 0x80}};

static const struct {
    const char *name;
    uint16_t usage;
} named[] = {
    {"enter", 40},
    {"escape", 41},
    {"backspace", 42},
    {"tab", 43},
    {"space", SPACE},
    {"caps_lock", 57},
    {"f1", 58},
    {"f2", 59},
    {"f3", 60},
    {"f4", 61},
    {"f5", 62},
    {"f6", 63},
    {"f7", 64},
    {"f8", 65},
    {"f9", 66},
    {"f10", 67},
    {"f11", 68},
    {"f12", 69},
    {"print_screen", 70},
    {"scroll_lock", 71},
    {"pause", 72},
    {"insert", 73},
    {"home", 74},
    {"page_up", 75},
    {"delete", 76},
    {"end", 77},
    {"page_down", 78},
    {"right", 79},
    {"left", 80},
    {"down", 81},
    {"up", 82},
    {"num_lock", 83},
    {"keypad_divide", 84},
    {"keypad_multiply", 85},
    {"keypad_minus", 86},
    {"keypad_plus", 87},
    {"keypad_enter", 88},
    {"keypad_1", 89},
    {"keypad_2", 90},
    {"keypad_3", 91},
    {"keypad_4", 92},
    {"keypad_5", 93},
    {"keypad_6", 94},
    {"keypad_7", 95},
    {"keypad_8", 96},
    {"keypad_9", 97},
    {"keypad_0", 98},
    {"application", 101},
    {"f13", 104},
    {"f14", 105},
    {"f15", 106},
    {"f16", 107},
    {"f17", 108},
    {"f18", 109},
    {"f19", 110},
    {"f20", 111},
    {"f21", 112},
    {"f22", 113},
    {"f23", 114},
    {"f24", 115},
    {"brightness_up", MEDIA | 0x6f},
    {"brightness_down", MEDIA | 0x70},
    {"play", MEDIA | 0xb0},
    {"record", MEDIA | 0xb2},
    {"fast_forward", MEDIA | 0xb3},
    {"rewind", MEDIA | 0xb4},
    {"next_track", MEDIA | 0xb5},
    {"previous_track", MEDIA | 0xb6},
    {"stop", MEDIA | 0xb7},
    {"eject", MEDIA | 0xb8},
    {"play_pause", MEDIA | 0xcd},
    {"mute", MEDIA | 0xe2},
    {"volume_up", MEDIA | 0xe9},
    {"volume_down", MEDIA | 0xea},
    {"calculator", MEDIA | 0x192},
    {"search", MEDIA | 0x221},
    {"browser_home", MEDIA | 0x223},
    {"browser_back", MEDIA | 0x224},
    {"browser_forward", MEDIA | 0x225},
    {"refresh", MEDIA | 0x227},
    {"power", MEDIA | 0x30},
    {"sleep", MEDIA | 0x32},
};

static char *no_such_key(const char *name)
{
    const char *names[G_N_ELEMENTS(named) + G_N_ELEMENTS(modifiers) + 1] = {NULL};
    for (size_t i = 0; i < G_N_ELEMENTS(named); i++) {
        names[i] = named[i].name;
    }
    for (size_t i = 0; i < G_N_ELEMENTS(modifiers); i++) {
        names[G_N_ELEMENTS(named) + i] = modifiers[i].name;
    }
    g_autofree char *hint = did_you_mean(name, names);
    return g_strdup_printf(
        "a keyboard has no key '%s'; there are letters, digits, and keys such as f5, enter, up, "
        "volume_up%s",
        name, hint);
}

static uint8_t modifier_named(const char *name)
{
    for (size_t i = 0; i < G_N_ELEMENTS(modifiers); i++) {
        if (strcmp(modifiers[i].name, name) == 0) {
            return modifiers[i].bit;
        }
    }
    return 0;
}

/* Returns a key by its name, or by a letter or digit that it types alone; 0: none. */
static uint16_t usage_named(const layout *in, const char *name)
{
    drom_stroke strokes[LAYOUT_STROKES];
    for (size_t i = 0; i < G_N_ELEMENTS(named); i++) {
        if (strcmp(named[i].name, name) == 0) {
            return named[i].usage;
        }
    }
    const bool is_letter = name[0] != '\0' && name[1] == '\0' && g_ascii_isalnum(name[0]);
    return is_letter && layout_strokes(in, (gunichar)g_ascii_tolower(name[0]), strokes) == 1
               ? strokes[0].usage
               : 0;
}

char *layout_chord(const layout *in, const char *text, drom_stroke *stroke)
{
    g_auto(GStrv) parts = g_strsplit(text, "+", -1);
    *stroke = (drom_stroke){0};
    for (int i = 0; parts[i] != NULL; i++) {
        const uint8_t modifier = modifier_named(parts[i]);
        const uint16_t usage = modifier == 0 ? usage_named(in, parts[i]) : 0;
        if (modifier == 0 && usage == 0) {
            return no_such_key(parts[i]);
        }
        if (stroke->usage != 0 && usage != 0) {
            return g_strdup("a chord is one key, and others such as ctrl, shift, alt, gui before it");
        }
        stroke->modifiers |= modifier;
        stroke->usage = usage != 0 ? usage : stroke->usage;
    }
    return (stroke->usage & MEDIA) != 0 && stroke->modifiers != 0
               ? g_strdup("a media key is tapped alone, without others")
               : NULL;
}

static char *usage_text(const layout *in, uint16_t usage)
{
    bool is_dead_key;
    for (size_t i = 0; i < G_N_ELEMENTS(named); i++) {
        if (named[i].usage == usage) {
            return g_strdup(named[i].name);
        }
    }
    const gunichar letter = layout_letter(in, (drom_stroke){usage, 0}, &is_dead_key);
    char utf8[7] = {0};
    if (letter == 0) {
        return g_strdup_printf("0x%x", usage);
    }
    (void)g_unichar_to_utf8(letter, utf8);
    return g_strdup(utf8);
}

char *layout_chord_text(const layout *in, drom_stroke stroke)
{
    GString *const text = g_string_new(NULL);
    for (size_t i = 0; i < G_N_ELEMENTS(modifiers); i++) {
        if ((stroke.modifiers & modifiers[i].bit) != 0) {
            g_string_append_printf(text, "%s%s", text->len > 0 ? "+" : "", modifiers[i].name);
        }
    }
    if (stroke.usage != 0) {
        g_autofree char *key = usage_text(in, stroke.usage);
        g_string_append_printf(text, "%s%s", text->len > 0 ? "+" : "", key);
    }
    return g_string_free(text, FALSE);
}
