/* mutate FILE prints possible changes of a C source that compile, a line each: number, place, old text, new
 * text. mutate FILE NUMBER prints the source with that change. */
#include <ctype.h>
#include <glib.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

/* A change of some bytes. */
typedef struct change {
    const char *at;
    gsize length;
    char text[16];
} change;

static const struct {
    const char *from;
    const char *turned;
} swaps[] = {
    {" < ", " <= "},   {" <= ", " < "},   {" > ", " >= "},  {" >= ", " > "}, {" == ", " != "},
    {" != ", " == "},  {" && ", " || "},  {" || ", " && "}, {" + ", " - "},  {" - ", " + "},
    {"true", "false"}, {"false", "true"}, {"++", "--"},     {"--", "++"},    {" += ", " -= "},
    {" -= ", " += "},  {" % ", " / "},
};

/* Returns the end of a comment, a text or a preprocessor line that begins here; else this place. */
static const char *skip(const char *text, const char *at)
{
    const char *end = at;
    if (g_str_has_prefix(at, "/*")) {
        end = strstr(at, "*/");
        return end != NULL ? end + 2 : at + strlen(at);
    }
    if (*at == '#' && (at == text || at[-1] == '\n')) {
        do {
            end = strchr(end + 1, '\n');
        } while (end != NULL && end[-1] == '\\');
        return end != NULL ? end : at + strlen(at);
    }
    if (*at == '"' || *at == '\'') {
        for (end = at + 1; *end != '\0' && *end != *at; end++) {
            end += *end == '\\';
        }
        return *end != '\0' ? end + 1 : end;
    }
    return at;
}

static bool is_name(char letter)
{
    return isalnum((unsigned char)letter) || letter == '_';
}

/* A small number becomes the next one; a large one is doubled. */
static bool can_count(const char *text, const char *at, change *found)
{
    char *end = NULL;
    if (!isdigit((unsigned char)*at) || (at > text && is_name(at[-1]))) {
        return false;
    }
    const unsigned long number = strtoul(at, &end, 0);
    *found = (change){.at = at, .length = (gsize)(end - at)};
    (void)g_snprintf(found->text, sizeof found->text, "%lu", number < 10 ? number + 1 : 2 * number);
    return true;
}

/* A statement that is alone on its line is left out. */
static bool can_drop(const char *text, const char *at, change *found)
{
    const char *const end = strchr(at, '\n');
    const gsize length = end != NULL ? (gsize)(end - at) : 0;
    g_autofree char *line = g_strndup(at, length);
    const bool begins = at > text && isspace((unsigned char)at[-1]) && is_name(*at);
    const bool is_whole = begins && length > 0 && line[length - 1] == ';' &&
                          (at[-1] == '\n' || g_ascii_isspace(at[-1])) && strchr(line, '{') == NULL;
    const gsize name = strcspn(line, " (.-");
    const bool calls = is_whole && line[name] == '(' && !g_str_has_prefix(line, "return");
    const bool sets = is_whole && (line[name] == '.' || line[name] == '-') && strstr(line, " = ") != NULL;
    const char *before = at;
    while (before > text && before[-1] == ' ') {
        before--;
    }
    const bool is_first =
        before > text && before[-1] == '\n' && before > text + 1 && strchr(";{}", before[-2]) != NULL;
    *found = (change){.at = at, .length = length, .text = ";"};
    return (calls || sets) && is_first;
}

static void add_changes(GArray *changes, const char *text, const char *at)
{
    change found;
    for (size_t i = 0; i < G_N_ELEMENTS(swaps); i++) {
        const char *const from = swaps[i].from;
        const bool is_word = is_name(from[0]);
        if (g_str_has_prefix(at, from) &&
            (!is_word || (!is_name(at[strlen(from)]) && (at == text || !is_name(at[-1]))))) {
            found = (change){.at = at, .length = strlen(from)};
            g_strlcpy(found.text, swaps[i].turned, sizeof found.text);
            g_array_append_val(changes, found);
        }
    }
    if (*at == '!' && at[1] != '=') {
        found = (change){.at = at, .length = 1};
        g_array_append_val(changes, found);
    }
    if (can_count(text, at, &found)) {
        g_array_append_val(changes, found);
    }
    if (can_drop(text, at, &found)) {
        g_array_append_val(changes, found);
    }
}

static GArray *find_changes(const char *text)
{
    GArray *const changes = g_array_new(FALSE, FALSE, sizeof(change));
    for (const char *at = text; *at != '\0';) {
        const char *const behind = skip(text, at);
        if (behind == at) {
            add_changes(changes, text, at);
            at++;
        } else {
            at = behind;
        }
    }
    return changes;
}

static void print_all(const char *path, const char *text, const GArray *changes)
{
    unsigned line = 1;
    const char *counted = text;
    for (guint i = 0; i < changes->len; i++) {
        const change *const one = &g_array_index(changes, change, i);
        for (; counted < one->at; counted++) {
            line += *counted == '\n';
        }
        printf("%u %s:%u: '%.*s' -> '%s'\n", i, path, line, (int)one->length, one->at, one->text);
    }
}

int main(int argc, char **argv)
{
    g_autofree char *text = NULL;
    g_autoptr(GError) error = NULL;
    if (argc < 2 || !g_file_get_contents(argv[1], &text, NULL, &error)) {
        fprintf(stderr, "mutate: %s\n", error != NULL ? error->message : "say which source");
        return 2;
    }
    g_autoptr(GArray) changes = find_changes(text);
    const guint which = argc > 2 ? (guint)atoi(argv[2]) : 0;
    if (argc < 3) {
        print_all(argv[1], text, changes);
    } else if (which < changes->len) {
        const change *const one = &g_array_index(changes, change, which);
        printf("%.*s%s%s", (int)(one->at - text), text, one->text, one->at + one->length);
    } else {
        fprintf(stderr, "mutate: %s has %u changes\n", argv[1], changes->len);
        return 2;
    }
    return 0;
}
