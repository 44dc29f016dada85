/* A sentence is drawn from its pattern's beginning to its end. Alternatives in braces are tried in random
 * order, until one is possible. */
#include "grammar.h"

#include <stdio.h>
#include <string.h>

enum { MAX_PIN = 128, MAX_WORDS = 32, MAX_SORT = 24 };

struct grammar {
    GRand *dice;
    const board *board;
    const grammar_pattern *patterns;
    GHashTable *names; /* of each sort: a GPtrArray of char */
    GPtrArray *born;   /* in this sentence: sort and name in turn */
    bool is_taken[MAX_PIN];
};

/* A piece of a pattern. */
typedef struct piece {
    const char *start;
    const char *end;
} piece;

unsigned draw(GRand *dice, unsigned min, unsigned max)
{
    return (unsigned)g_rand_int_range(dice, (gint32)min, (gint32)max + 1);
}

bool chance(GRand *dice, unsigned percent)
{
    return draw(dice, 1, 100) <= percent;
}

static void free_names(gpointer names)
{
    g_ptr_array_unref(names);
}

grammar *grammar_new(GRand *dice, const board *chosen, const grammar_pattern *patterns)
{
    grammar *const made = g_new0(grammar, 1);
    made->dice = dice;
    made->board = chosen;
    made->patterns = patterns;
    made->names = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, free_names);
    made->born = g_ptr_array_new_with_free_func(g_free);
    return made;
}

void grammar_free(grammar *unwanted)
{
    g_hash_table_unref(unwanted->names);
    g_ptr_array_unref(unwanted->born);
    g_free(unwanted);
}

static GPtrArray *names_of(grammar *in, const char *sort)
{
    GPtrArray *names = g_hash_table_lookup(in->names, sort);
    if (names == NULL) {
        names = g_ptr_array_new_with_free_func(g_free);
        g_hash_table_insert(in->names, g_strdup(sort), names);
    }
    return names;
}

void grammar_name(grammar *in, const char *sort, const char *name)
{
    g_ptr_array_add(names_of(in, sort), g_strdup(name));
}

/* Returns the first of some signs that isn't within braces. */
static const char *find(piece within, const char *signs)
{
    int depth = 0;
    const char *at = within.start;
    while (at < within.end && (depth > 0 || strchr(signs, *at) == NULL)) {
        depth += *at == '{';
        depth -= *at == '}';
        at++;
    }
    return at;
}

static bool say(grammar *in, piece what, GString *out);

/* Takes back what was appended and reserved since then. */
static void take_back(grammar *in, GString *out, gsize length, guint born, const bool *is_taken)
{
    g_string_truncate(out, length);
    g_ptr_array_set_size(in->born, (gint)born);
    memcpy(in->is_taken, is_taken, sizeof in->is_taken);
}

static bool say_one_of(grammar *in, piece words, GString *out)
{
    piece each[MAX_WORDS];
    unsigned count = 0;
    bool is_said = false;
    bool is_taken[MAX_PIN];
    const gsize length = out->len;
    const guint born = in->born->len;
    memcpy(is_taken, in->is_taken, sizeof is_taken);
    for (const char *at = words.start; at <= words.end && count < MAX_WORDS;) {
        const char *const end = find((piece){at, words.end}, "|");
        each[count++] = (piece){at, end};
        at = end + 1;
    }
    while (!is_said && count > 0) {
        const unsigned which = draw(in->dice, 0, count - 1);
        is_said = say(in, each[which], out);
        if (!is_said) {
            take_back(in, out, length, born, is_taken);
        }
        each[which] = each[--count];
    }
    return is_said;
}

static bool say_pin(grammar *in, const char *sort, GString *out)
{
    const board_pin *fitting[MAX_PIN];
    unsigned count = 0;
    for (const board_pin *pin = in->board->pins; pin->name != NULL; pin++) {
        const bool fits = strcmp(sort, "pwm") == 0       ? pin->timer != NO_TIMER
                          : strcmp(sort, "carrier") == 0 ? pin->has_carrier
                          : strcmp(sort, "latch") == 0   ? pin->has_latch
                                                         : true;
        if (fits && !in->is_taken[pin->number]) {
            fitting[count++] = pin;
        }
    }
    if (count > 0) {
        const board_pin *const found = fitting[draw(in->dice, 0, count - 1)];
        in->is_taken[found->number] = true;
        g_string_append(out, found->name);
    }
    return count > 0;
}

static bool is_pin(const char *sort)
{
    static const char *const sorts[] = {"pin", "pwm", "carrier", "latch", NULL};
    return g_strv_contains(sorts, sort);
}

static bool say_new(grammar *in, const char *sort, GString *out)
{
    guint number = names_of(in, sort)->len + 1;
    for (guint i = 0; i < in->born->len; i += 2) {
        number += strcmp(in->born->pdata[i], sort) == 0;
    }
    char *const name = g_strdup_printf("%s%u", sort, number);
    g_ptr_array_add(in->born, g_strdup(sort));
    g_ptr_array_add(in->born, name);
    g_string_append(out, name);
    return true;
}

static bool say_name(grammar *in, const char *sort, GString *out)
{
    const bool is_that = strcmp(sort, "that") == 0;
    const GPtrArray *const names = is_that ? in->born : names_of(in, sort);
    const bool is_newest = is_that || strcmp(sort, "this") == 0;
    if (names->len > 0) {
        const guint which = is_newest ? names->len - 1 : draw(in->dice, 0, names->len - 1);
        g_string_append(out, names->pdata[which]);
    }
    return names->len > 0;
}

/* The text between < and >. */
static bool say_sort(grammar *in, const char *sort, GString *out)
{
    for (const grammar_pattern *pattern = in->patterns; pattern->name != NULL; pattern++) {
        if (strcmp(pattern->name, sort) == 0) {
            return say(in, (piece){pattern->pattern, pattern->pattern + strlen(pattern->pattern)}, out);
        }
    }
    return g_str_has_prefix(sort, "new ") ? say_new(in, sort + strlen("new "), out)
           : is_pin(sort)                 ? say_pin(in, sort, out)
                                          : say_name(in, sort, out);
}

static bool say_number(grammar *in, const char *from, GString *out)
{
    unsigned min = 0;
    unsigned max = 0;
    const bool is_good = sscanf(from, "[%u-%u]", &min, &max) == 2;
    g_string_append_printf(out, "%u", is_good ? draw(in->dice, min, max) : 0);
    return is_good;
}

static bool say(grammar *in, piece what, GString *out)
{
    bool is_said = true;
    for (const char *at = what.start; at < what.end && is_said;) {
        const char *const next = find((piece){at, what.end}, "[{<");
        g_string_append_len(out, at, next - at);
        at = next;
        if (at == what.end) {
            break;
        }
        const char *const end = *at == '{' ? find((piece){at + 1, what.end}, "}")
                                           : find((piece){at, what.end}, *at == '[' ? "]" : ">");
        g_autofree char *sort = g_strndup(at + 1, (gsize)(end - at - 1));
        is_said = *at == '{'   ? say_one_of(in, (piece){at + 1, end}, out)
                  : *at == '[' ? say_number(in, at, out)
                               : say_sort(in, sort, out);
        at = end + 1;
    }
    return is_said;
}

char *grammar_draw(grammar *in, const char *pattern)
{
    GString *const text = g_string_new(NULL);
    bool is_taken[MAX_PIN];
    memcpy(is_taken, in->is_taken, sizeof is_taken);
    const bool is_said = say(in, (piece){pattern, pattern + strlen(pattern)}, text);
    if (!is_said) {
        take_back(in, text, 0, 0, is_taken);
    }
    for (guint i = 0; i < in->born->len; i += 2) {
        grammar_name(in, in->born->pdata[i], in->born->pdata[i + 1]);
    }
    g_ptr_array_set_size(in->born, 0);
    return g_string_free(text, !is_said);
}
