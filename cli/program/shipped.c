/* What a program needs is found as a linker would find it, but by words: a file is needed if a needed text
 * mentions a name that the file defines. A file too many does no harm, since the linker drops it. */
#include "cli/program/shipped.h"

#include <gio/gio.h>
#include <stdbool.h>
#include <string.h>

#define ROOT "/shipped/"

const char *shipped_text(const char *file)
{
    g_autofree char *path = g_strconcat(ROOT, file, NULL);
    g_autoptr(GBytes) bytes = g_resources_lookup_data(path, G_RESOURCE_LOOKUP_FLAGS_NONE, NULL);
    return bytes != NULL ? g_bytes_get_data(bytes, NULL) : NULL; /* the resources stay */
}

/* Adds the files of a folder, "src/", and of those in it. */
static void list_files(const char *top, GPtrArray *files)
{
    g_autoptr(GPtrArray) folders = g_ptr_array_new_with_free_func(g_free);
    g_ptr_array_add(folders, g_strdup(top));
    for (guint i = 0; i < folders->len; i++) {
        const char *const folder = folders->pdata[i];
        g_autofree char *path = g_strconcat(ROOT, folder, NULL);
        g_auto(GStrv) children = g_resources_enumerate_children(path, G_RESOURCE_LOOKUP_FLAGS_NONE, NULL);
        for (char **child = children; children != NULL && *child != NULL; child++) {
            const bool is_folder = g_str_has_suffix(*child, "/");
            if (strcmp(*child, "ear/") != 0) { /* a program of its own */
                g_ptr_array_add(is_folder ? folders : files, g_strconcat(folder, *child, NULL));
            }
        }
    }
}

/* Adds the library's names that a text mentions. */
static void add_words(const char *text, GHashTable *words)
{
    static GRegex *word;
    if (word == NULL) {
        word = g_regex_new("\\bdrom_[a-z0-9_]+", G_REGEX_OPTIMIZE, 0, NULL);
    }
    g_autoptr(GMatchInfo) match = NULL;
    (void)g_regex_match(word, text, 0, &match);
    for (; g_match_info_matches(match); (void)g_match_info_next(match, NULL)) {
        (void)g_hash_table_add(words, g_match_info_fetch(match, 0));
    }
}

/* True if a file's names are put together by macros, and begin like the file's own name. */
static bool has_made_names(const char *file)
{
    static const char *const folders[] = {"src/protocols/", "src/receive/", "src/encode/"};
    bool is_made = false;
    for (unsigned i = 0; i < G_N_ELEMENTS(folders); i++) {
        is_made |= g_str_has_prefix(file, folders[i]);
    }
    return is_made;
}

/* True if a file defines one of the names: a function or an object at the beginning of a line. */
static bool defines_one(const char *file, const char *text, GHashTable *words)
{
    static GRegex *definition;
    if (definition == NULL) {
        definition =
            g_regex_new("^(?!static|extern|typedef)[A-Za-z][^\\n;={(#]*?\\b(drom_[a-z0-9_]+)(\\(|\\[|;| =)",
                        G_REGEX_MULTILINE | G_REGEX_OPTIMIZE, 0, NULL);
    }
    g_autoptr(GMatchInfo) match = NULL;
    (void)g_regex_match(definition, text, 0, &match);
    for (; g_match_info_matches(match); (void)g_match_info_next(match, NULL)) {
        g_autofree char *name = g_match_info_fetch(match, 1);
        if (g_hash_table_contains(words, name)) {
            return true;
        }
    }
    g_autofree char *base = g_path_get_basename(file);
    g_autofree char *family = g_strdup_printf("drom_%.*s", (int)strcspn(base, "."), base);
    GHashTableIter all;
    gpointer name = NULL;
    g_hash_table_iter_init(&all, words);
    while (has_made_names(file) && g_hash_table_iter_next(&all, &name, NULL)) {
        if (g_str_has_prefix(name, family)) {
            return true;
        }
    }
    return false;
}

GPtrArray *shipped_needed(const char *const *texts, const char *port)
{
    static const char *const folders[] = {"include/", "src/", NULL};
    g_autofree char *of_port = g_strconcat(port, "/", NULL);
    g_autoptr(GPtrArray) files = g_ptr_array_new_with_free_func(g_free);
    g_autoptr(GHashTable) words = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, NULL);
    GPtrArray *const needed = g_ptr_array_new_with_free_func(g_free);
    for (unsigned i = 0; folders[i] != NULL; i++) {
        list_files(folders[i], files);
    }
    list_files(of_port, files);
    for (; *texts != NULL; texts++) {
        add_words(*texts, words);
    }
    for (bool is_grown = true; is_grown;) {
        is_grown = false;
        for (guint i = 0; i < files->len; i++) {
            char *const file = files->pdata[i];
            const char *const text = shipped_text(file);
            const bool is_header = g_str_has_suffix(file, ".h");
            if (is_header ||
                (g_regex_match_simple("\\.c(pp)?$", file, 0, 0) && defines_one(file, text, words))) {
                if (!is_header) {
                    add_words(text, words);
                }
                g_ptr_array_add(needed, g_strdup(file));
                (void)g_ptr_array_remove_index_fast(files, i--);
                is_grown = true;
            }
        }
    }
    return needed;
}
