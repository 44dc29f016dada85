#include "drawn.h"

#include "support.h"

#include <string.h>

typedef struct reading {
    drawn *in;
    GPtrArray *things; /* "class name", the innermost last */
    bool is_text;
} reading;

static double number_of(const char *name, const char **names, const char **values)
{
    for (int i = 0; names[i] != NULL; i++) {
        if (strcmp(names[i], name) == 0) {
            return g_ascii_strtod(values[i], NULL);
        }
    }
    return 0;
}

static const char *value_of(const char *name, const char **names, const char **values)
{
    for (int i = 0; names[i] != NULL; i++) {
        if (strcmp(names[i], name) == 0) {
            return values[i];
        }
    }
    return "";
}

static const char *thing_of(const reading *at)
{
    return at->things->len > 0 ? g_ptr_array_index(at->things, at->things->len - 1) : " ";
}

static void on_start(GMarkupParseContext *context, const char *element, const char **names,
                     const char **values, gpointer user, GError **error)
{
    reading *const at = user;
    (void)context;
    (void)error;
    if (strcmp(element, "svg") == 0) {
        at->in->width = number_of("width", names, values);
        at->in->height = number_of("height", names, values);
    } else if (strcmp(element, "g") == 0) {
        g_ptr_array_add(at->things, g_strdup_printf("%s %s", value_of("class", names, values),
                                                    value_of("data-name", names, values)));
    } else if (strcmp(element, "text") == 0) {
        g_auto(GStrv) thing = g_strsplit(thing_of(at), " ", 2);
        const drawn_text text = {.x = number_of("x", names, values),
                                 .y = number_of("y", names, values),
                                 .width = number_of("textLength", names, values),
                                 .size = number_of("font-size", names, values),
                                 .what = g_strdup(thing[0]),
                                 .name = g_strdup(thing[1])};
        g_array_append_val(at->in->texts, text);
        at->is_text = true;
    } else if (strcmp(element, "rect") == 0 || strcmp(element, "path") == 0) {
        const char *const thing = thing_of(at);
        const unsigned count = GPOINTER_TO_UINT(g_hash_table_lookup(at->in->shapes, thing));
        g_hash_table_insert(at->in->shapes, g_strdup(thing), GUINT_TO_POINTER(count + 1));
        if (element[0] == 'p' && !g_hash_table_contains(at->in->lines, thing)) {
            const char *const path = value_of("d", names, values);
            drawn_line *const line = g_new(drawn_line, 1);
            line->from_y = g_ascii_strtod(strchr(path, ',') + 1, NULL);
            line->to_y = g_ascii_strtod(strrchr(path, ',') + 1, NULL);
            g_hash_table_insert(at->in->lines, g_strdup(thing), line);
        }
    }
}

static void on_end(GMarkupParseContext *context, const char *element, gpointer user, GError **error)
{
    reading *const at = user;
    (void)context;
    (void)error;
    at->is_text = false;
    if (strcmp(element, "g") == 0) {
        g_ptr_array_set_size(at->things, (int)at->things->len - 1);
    }
}

static void on_text(GMarkupParseContext *context, const char *text, gsize length, gpointer user,
                    GError **error)
{
    reading *const at = user;
    (void)context;
    (void)error;
    if (at->is_text) {
        g_array_index(at->in->texts, drawn_text, at->in->texts->len - 1).text = g_strndup(text, length);
    }
}

static void check_places(const drawn *in)
{
    for (guint i = 0; i < in->texts->len; i++) {
        const drawn_text *const one = &g_array_index(in->texts, drawn_text, i);
        ck_assert_msg(one->x >= 0 && one->x + one->width <= in->width + 0.5 && one->y <= in->height &&
                          one->y >= one->size,
                      "'%s' is cut: %g to %g of %g", one->text, one->x, one->x + one->width, in->width);
        ck_assert_msg(one->size >= 12, "'%s' has only %g px", one->text, one->size);
        for (guint j = 0; j < i; j++) {
            const drawn_text *const other = &g_array_index(in->texts, drawn_text, j);
            const bool is_beside =
                one->x + one->width <= other->x + 0.5 || other->x + other->width <= one->x + 0.5;
            const bool is_apart =
                one->y - one->size * 0.75 >= other->y || other->y - other->size * 0.75 >= one->y;
            ck_assert_msg(is_beside || is_apart, "'%s' and '%s' overlap at %g, %g", one->text, other->text,
                          one->x, one->y);
        }
    }
}

static void clear_text(gpointer data)
{
    drawn_text *const unwanted = data;
    g_free(unwanted->text);
    g_free(unwanted->what);
    g_free(unwanted->name);
}

drawn drawn_read(const char *svg)
{
    static const GMarkupParser parser = {.start_element = on_start, .end_element = on_end, .text = on_text};
    drawn read = {.texts = g_array_new(FALSE, TRUE, sizeof(drawn_text)),
                  .lines = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free),
                  .shapes = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL)};
    g_autoptr(GPtrArray) things = g_ptr_array_new_with_free_func(g_free);
    g_autoptr(GError) error = NULL;
    reading at = {&read, things, false};
    g_array_set_clear_func(read.texts, clear_text);
    GMarkupParseContext *const context = g_markup_parse_context_new(&parser, 0, &at, NULL);
    const bool is_read = g_markup_parse_context_parse(context, svg, -1, &error) &&
                         g_markup_parse_context_end_parse(context, &error);
    g_markup_parse_context_free(context);
    ck_assert_msg(is_read, "%s", is_read ? "" : error->message);
    ck_assert_uint_gt(read.texts->len, 0);
    check_places(&read);
    return read;
}

void drawn_clear(drawn *unwanted)
{
    g_array_unref(unwanted->texts);
    g_hash_table_unref(unwanted->shapes);
    g_hash_table_unref(unwanted->lines);
}

unsigned drawn_texts(const drawn *in, const char *what, const char *name, const char *text)
{
    unsigned count = 0;
    for (guint i = 0; i < in->texts->len; i++) {
        const drawn_text *const one = &g_array_index(in->texts, drawn_text, i);
        count += strcmp(one->what, what) == 0 && strcmp(one->name, name) == 0 &&
                 (text == NULL || strcmp(one->text, text) == 0);
    }
    return count;
}

unsigned drawn_shapes(const drawn *in, const char *what, const char *name)
{
    g_autofree char *thing = g_strdup_printf("%s %s", what, name);
    return GPOINTER_TO_UINT(g_hash_table_lookup(in->shapes, thing));
}

drawn drawn_chart(const char *arguments)
{
    g_auto(said) heard = run_shell("$DROMIKOS chart --format svg %s", arguments);
    ck_assert_msg(heard.code == 0, "%s: %d, %.1000s", arguments, heard.code, heard.err);
    return drawn_read(heard.out);
}
