/* Each phrase is matched along the words as far as possible. The furthest point that any of them reached is
 * the place of the error, and what each of those expected there is what could have stood there. */
#include "plan/text/phrase.h"

#include <string.h>

/* The elements of a phrase; placeholders of several words are taken apart. */
typedef enum element_kind {
    LITERAL,
    NAME,
    KEY_NAME,
    NUMBER,
    SIGNED,
    COUNT,
    SUM,
    AMOUNT,
    SHARE,
    LENGTH, /* of a WAY */
    TIME,
    CLOCK,
    COLOUR,
    TEXT,
    PIN,
    CHORD,
    UNIT
} element_kind;

typedef struct element {
    const char *text; /* of a literal */
    gsize length;
    element_kind kind;
    bool is_last; /* of a value */
} element;

enum { MAX_EXPECTED = 40 };

static const char *const shown[] = {
    [NAME] = "a name",
    [KEY_NAME] = "a key",
    [NUMBER] = "a whole number",
    [SIGNED] = "a whole number",
    [COUNT] = "a whole number",
    [SUM] = "a whole number",
    [SHARE] = "a number",
    [LENGTH] = "a number",
    [AMOUNT] = "a number",
    [TIME] = "a time such as '2 s'",
    [CLOCK] = "a frequency such as '16 MHz' or '38 kHz'",
    [COLOUR] = "a colour such as red or 0xff8000 ('#' begins a comment)",
    [TEXT] = "a text in quotes",
    [PIN] = "a pin",
    [CHORD] = "a key such as f5 or ctrl+alt+t",
    [UNIT] = "'steps', 'turns' or 'degrees'",
};

static const struct {
    const char *text;
    uint32_t ms;
} time_units[] = {{"ms", 1}, {"s", 1000}, {"min", 60000}, {"h", 3600000}};

static const struct {
    const char *text;
    enum way_unit unit;
} units[] = {{"steps", WAY_STEPS}, {"turn", WAY_TURNS}, {"turns", WAY_TURNS}, {"degrees", WAY_DEGREES}};

/* The placeholders and their elements. */
static const struct {
    const char *text;
    element elements[3];
    unsigned count;
} types[] = {
    {"NAME", {{.kind = NAME, .is_last = true}}, 1},
    {"KEY", {{.kind = NAME}, {.text = ".", .length = 1}, {.kind = KEY_NAME, .is_last = true}}, 3},
    {"N", {{.kind = NUMBER, .is_last = true}}, 1},
    {"INT", {{.kind = SIGNED, .is_last = true}}, 1},
    {"COUNT", {{.kind = COUNT, .is_last = true}}, 1},
    {"NUMBER", {{.kind = SUM, .is_last = true}}, 1},
    {"AMOUNT", {{.kind = AMOUNT, .is_last = true}}, 1},
    {"LEVEL", {{.kind = SHARE}, {.text = "%", .length = 1, .is_last = true}}, 2},
    {"WAY", {{.kind = LENGTH}, {.kind = UNIT, .is_last = true}}, 2},
    {"TIME", {{.kind = TIME, .is_last = true}}, 1},
    {"CLOCK", {{.kind = CLOCK, .is_last = true}}, 1},
    {"COLOUR", {{.kind = COLOUR, .is_last = true}}, 1},
    {"TEXT", {{.kind = TEXT, .is_last = true}}, 1},
    {"PIN", {{.kind = PIN, .is_last = true}}, 1},
    {"CHORD", {{.kind = CHORD, .is_last = true}}, 1},
};

/* As far as there is room; phrase_fits() tells whether that is all. */
static unsigned take_apart(const char *phrase, element *elements)
{
    unsigned count = 0;
    for (const char *at = phrase; *at != '\0' && count + G_N_ELEMENTS(types[0].elements) <= PHRASE_ELEMENTS;
         at += strspn(at, " ")) {
        const gsize length = strcspn(at, " ");
        const unsigned before = count;
        for (size_t i = 0; i < G_N_ELEMENTS(types); i++) {
            if (strlen(types[i].text) == length && strncmp(types[i].text, at, length) == 0) {
                memcpy(&elements[count], types[i].elements, sizeof types[i].elements[0] * types[i].count);
                count += types[i].count;
            }
        }
        if (count == before) {
            elements[count++] = (element){.kind = LITERAL, .text = at, .length = length};
        }
        at += length;
    }
    return count;
}

bool phrase_fits(const char *phrase)
{
    element elements[PHRASE_ELEMENTS];
    const unsigned count = take_apart(phrase, elements);
    unsigned values = 0;
    for (unsigned i = 0; i < count; i++) {
        values += elements[i].is_last;
    }
    return values <= PHRASE_VALUES && count + G_N_ELEMENTS(types[0].elements) <= PHRASE_ELEMENTS;
}

bool word_is_reserved(const char *text)
{
    static const char *const reserved[] = {"wait",  "mode",      "in",    "if", "and", "or",
                                           "again", "otherwise", "while", "at", "when"};
    bool is_so = false;
    for (size_t i = 0; i < G_N_ELEMENTS(reserved); i++) {
        is_so |= strcmp(reserved[i], text) == 0;
    }
    return is_so;
}

static bool is_literal(const token *given, const element *wanted)
{
    return (given->kind == TOKEN_WORD || given->kind == TOKEN_MARK) &&
           strlen(given->text) == wanted->length && strncmp(given->text, wanted->text, wanted->length) == 0;
}

static bool is_positive(const token *given)
{
    return given->kind == TOKEN_NUMBER && given->text[0] != '-';
}

/* Placeholders that a name may stand for, and their form without a name. */
static const element_kind plain[UNIT + 1] = {
    [COUNT] = NUMBER, [SUM] = SIGNED, [SHARE] = AMOUNT, [LENGTH] = AMOUNT, [TIME] = TIME};

/* Matches a token with an element. */
static bool take(const token *given, const element *wanted, phrase_value *value)
{
    const bool is_name = given->kind == TOKEN_WORD && !word_is_reserved(given->text);
    const word here = {given->text, given->where};
    switch (plain[wanted->kind] != LITERAL ? plain[wanted->kind] : wanted->kind) {
    case LITERAL:
        return is_literal(given, wanted);
    case NAME:
        value->name = here;
        return is_name;
    case KEY_NAME:
        value->key = here;
        return given->kind == TOKEN_KEY;
    case NUMBER:
        value->number = (uint32_t)MIN(g_ascii_strtoull(given->text, NULL, 10), UINT32_MAX);
        return is_positive(given) && strchr(given->text, '.') == NULL;
    case SIGNED:
        value->number = (uint32_t)CLAMP(g_ascii_strtoll(given->text, NULL, 10), INT32_MIN, INT32_MAX);
        return given->kind == TOKEN_NUMBER && strchr(given->text, '.') == NULL;
    case AMOUNT:
        value->amount = g_ascii_strtod(given->text, NULL);
        value->number = (uint32_t)CLAMP(value->amount * 1000 + 0.5, 0, UINT32_MAX);
        return is_positive(given);
    case TIME:
        value->number = given->ms;
        return given->kind == TOKEN_TIME;
    case CLOCK:
        value->amount = given->mhz;
        value->number = (uint32_t)MIN(given->mhz * 1000 + 0.5, (double)UINT32_MAX);
        return given->kind == TOKEN_CLOCK;
    case COLOUR:
        value->name = here;
        return is_name || given->kind == TOKEN_HEX;
    case TEXT:
        value->name = here;
        return given->kind == TOKEN_TEXT;
    case PIN:
        value->name = here;
        return is_name || is_positive(given);
    case CHORD:
        value->name = here;
        return is_name || given->kind == TOKEN_CHORD || is_positive(given);
    case COUNT:
    case SUM:
    case SHARE:
    case LENGTH:
        break;
    case UNIT:
        for (size_t i = 0; i < G_N_ELEMENTS(units); i++) {
            if (given->kind == TOKEN_WORD && strcmp(units[i].text, given->text) == 0) {
                value->unit = units[i].unit;
                return true;
            }
        }
        return false;
    }
    return false;
}

static place span(place first, place last)
{
    const bool is_one_line = first.line == last.line;
    return (place){first.line, first.column,
                   is_one_line ? last.column + last.length - first.column : first.length, first.file};
}

static const token *token_at(wording given, guint at)
{
    return &g_array_index(given.tokens, token, at);
}

place wording_place(wording given)
{
    return given.from == given.end
               ? token_at(given, given.end)->where
               : span(token_at(given, given.from)->where, token_at(given, given.end - 1)->where);
}

/* Returns the ms of a unit; 0: no unit. */
static uint32_t unit_ms(const token *given)
{
    uint32_t ms = 0;
    for (size_t i = 0; i < G_N_ELEMENTS(time_units); i++) {
        ms =
            given->kind == TOKEN_WORD && strcmp(time_units[i].text, given->text) == 0 ? time_units[i].ms : ms;
    }
    return ms;
}

/* Matches a name that stands for a number, and the unit of a time: returns the number of tokens, 0 if there
 * is none. */
static unsigned take_name(wording given, const element *wanted, phrase_value *value)
{
    const token *const here = token_at(given, given.from);
    const bool is_name = here->kind == TOKEN_WORD && !word_is_reserved(here->text);
    const bool may_be_digit = wanted->kind == CHORD || wanted->kind == TEXT;
    const bool is_time = wanted->kind == TIME;
    if (!given.has_values || !is_name ||
        (may_be_digit ? strcmp(here->text, "digit") != 0 : plain[wanted->kind] == LITERAL)) {
        return 0;
    }
    const uint32_t ms = given.from + 1 < given.end ? unit_ms(token_at(given, given.from + 1)) : 0;
    if (is_time && ms == 0) {
        return 0;
    }
    value->name = (word){here->text, here->where};
    value->is_named = !may_be_digit;
    value->is_digit = may_be_digit;
    value->number = is_time ? ms : 0;
    return is_time ? 2 : 1;
}

/* Matches an element: returns the number of tokens. */
static unsigned take_element(wording given, const element *wanted, phrase_value *value)
{
    const token *const here = token_at(given, given.from);
    const unsigned named = take_name(given, wanted, value);
    if (named > 0 || !take(here, wanted, value)) {
        return named;
    }
    if (wanted->kind == KEY_NAME) {
        value->is_digit = given.has_values && strcmp(here->text, "digit") == 0;
    }
    return 1;
}

/* A phrase that is being matched. */
typedef struct walk {
    element elements[PHRASE_ELEMENTS];
    unsigned count;
    unsigned reached; /* elements that match */
    unsigned taken;   /* and their tokens */
    phrase_value values[PHRASE_VALUES];
} walk;

static walk walk_along(const char *phrase, wording given)
{
    walk made = {0};
    made.count = take_apart(phrase, made.elements);
    unsigned value = 0;
    bool is_within = false;
    for (wording rest = given; made.reached < made.count && rest.from < rest.end;) {
        const element *const wanted = &made.elements[made.reached];
        phrase_value *const said = &made.values[MIN(value, PHRASE_VALUES - 1)];
        const unsigned taken = take_element(rest, wanted, said);
        if (taken == 0) {
            break;
        }
        if (wanted->kind != LITERAL || is_within) {
            const place last = token_at(given, rest.from + taken - 1)->where;
            said->where = span(is_within ? said->where : token_at(given, rest.from)->where, last);
            is_within = !wanted->is_last;
            value += wanted->is_last;
        }
        rest.from += taken;
        made.taken += taken;
        made.reached++;
    }
    return made;
}

/* Of two that match, the one with a literal word where the other has none. */
static bool goes_before(const walk *one, const walk *other)
{
    for (unsigned i = 0; i < one->count && i < other->count; i++) {
        const bool is_literal_here = one->elements[i].kind == LITERAL;
        if (is_literal_here != (other->elements[i].kind == LITERAL)) {
            return is_literal_here;
        }
    }
    return one->count > other->count;
}

static bool overlap(element_kind a, element_kind b)
{
    static const bool words[UNIT + 1] = {[NAME] = true, [COLOUR] = true, [PIN] = true,   [COUNT] = true,
                                         [SUM] = true,  [SHARE] = true,  [CHORD] = true, [LENGTH] = true};
    static const bool numbers[UNIT + 1] = {
        [NUMBER] = true, [SIGNED] = true, [AMOUNT] = true, [PIN] = true,   [COUNT] = true,
        [SUM] = true,    [SHARE] = true,  [CHORD] = true,  [LENGTH] = true};
    return a == b || (words[a] && words[b]) || (numbers[a] && numbers[b]);
}

bool phrases_are_alike(const char *a, const char *b)
{
    element one[PHRASE_ELEMENTS];
    element other[PHRASE_ELEMENTS];
    const unsigned count = take_apart(a, one);
    if (take_apart(b, other) != count) {
        return false;
    }
    for (unsigned i = 0; i < count; i++) {
        const bool are_literals = one[i].kind == LITERAL && other[i].kind == LITERAL;
        const bool is_one_word = one[i].length == other[i].length && one[i].kind == LITERAL &&
                                 other[i].kind == LITERAL &&
                                 strncmp(one[i].text, other[i].text, one[i].length) == 0;
        if (are_literals ? !is_one_word : !overlap(one[i].kind, other[i].kind)) {
            return false;
        }
    }
    return true;
}

/* What could have stood at a place, each once. */
typedef struct wanted_there {
    GPtrArray *shown; /* of char */
    GPtrArray *words; /* of char: those with a similar spelling */
    bool has_name;
} wanted_there;

static void want(wanted_there *all, char *text)
{
    if (g_ptr_array_find_with_equal_func(all->shown, text, g_str_equal, NULL)) {
        g_free(text);
    } else {
        g_ptr_array_add(all->shown, text);
    }
}

static void want_element(wanted_there *all, const element *wanted, bool has_values)
{
    if (wanted->kind != LITERAL) {
        const bool may_be_named = has_values && plain[wanted->kind] != LITERAL;
        all->has_name |= wanted->kind == NAME;
        want(all, g_strdup_printf("%s%s", shown[wanted->kind],
                                  may_be_named && wanted->kind != TIME ? " or the name of a value" : ""));
        return;
    }
    want(all, g_strdup_printf("'%.*s'", (int)wanted->length, wanted->text));
    g_ptr_array_add(all->words, g_strndup(wanted->text, wanted->length));
}

static void report_found(report *faults, const token *found, const char *about, wanted_there *all)
{
    g_autoptr(GString) expected = g_string_new(NULL);
    for (guint i = 0; i < all->shown->len && i < MAX_EXPECTED; i++) {
        g_string_append_printf(expected, "%s%s",
                               i == 0                     ? ""
                               : i + 1 == all->shown->len ? " or "
                                                          : ", ",
                               (const char *)g_ptr_array_index(all->shown, i));
    }
    g_ptr_array_add(all->words, NULL);
    const bool is_end = found->kind == TOKEN_END;
    g_autofree char *hint =
        is_end ? g_strdup("") : did_you_mean(found->text, (const char *const *)all->words->pdata);
    const bool is_reserved = all->has_name && found->kind == TOKEN_WORD && word_is_reserved(found->text);
    report_error(faults, found->where, "%sfound %s%s%s, expected %s%s%s", about, is_end ? "" : "'",
                 found->text, is_end ? "" : "'", expected->str,
                 is_reserved ? " (this one is a word of the language)" : "", hint);
}

int phrase_match(report *faults, wording given, const char *const *phrases, const char *about,
                 const char *const *then, phrase_value *values)
{
    const unsigned length = given.end - given.from;
    int best = -1;
    unsigned furthest = 0;
    walk best_walk = {.count = 0};
    for (int i = 0; phrases[i] != NULL; i++) {
        const walk made = walk_along(phrases[i], given);
        furthest = MAX(furthest, made.taken);
        if (made.reached == made.count && made.taken == length &&
            (best < 0 || goes_before(&made, &best_walk))) {
            best = i;
            best_walk = made;
        }
    }
    if (best >= 0) {
        memcpy(values, best_walk.values, sizeof best_walk.values);
        return best;
    }
    wanted_there all = {.shown = g_ptr_array_new_with_free_func(g_free),
                        .words = g_ptr_array_new_with_free_func(g_free)};
    for (int i = 0; phrases[i] != NULL; i++) {
        const walk made = walk_along(phrases[i], given);
        if (made.taken == furthest && made.count > made.reached) {
            want_element(&all, &made.elements[made.reached], given.has_values);
        } else if (made.taken == furthest) {
            for (int j = 0; then[j] != NULL; j++) {
                want(&all, g_strdup(then[j]));
            }
        }
    }
    report_found(faults, token_at(given, given.from + furthest), furthest == 0 ? about : "", &all);
    g_ptr_array_unref(all.shown);
    g_ptr_array_unref(all.words);
    return -1;
}

bool plan_is_letter(gunichar letter)
{
    return letter == '_' || g_unichar_isalpha(letter) || (letter > 0x7f && g_unichar_ismark(letter));
}
