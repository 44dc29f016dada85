/* A list in the folder says what the tool wrote, and by it such a folder is recognised. */
#include "cli/program/folder.h"

#include "cli/io/io.h"

#include "cli/io/files.h"
#include "cli/program/shipped.h"

#include <glib/gstdio.h>
#include <string.h>

#define LIST "src/about.txt"

struct program_folder {
    const char *verb;
    const char *sort;
    char *path;
    char *name;
    GPtrArray *before;  /* files of an earlier time; NULL: it is new */
    GPtrArray *written; /* files, in order */
};

/* The folder's own name. NULL, and reported, if the IDE wouldn't take it. */
static char *name_of(const char *verb, const char *path)
{
    g_autofree char *absolute = g_canonicalize_filename(path, NULL);
    g_autofree char *name = g_path_get_basename(absolute);
    if (strspn(name, G_CSET_A_2_Z G_CSET_a_2_z G_CSET_DIGITS "_-") != strlen(name) || strlen(name) > 63) {
        complain(verb,
                 "a sketch can't be called '%s': the IDE wants up to 63 letters, digits, '_' and '-' for a "
                 "folder's name",
                 name);
        return NULL;
    }
    return g_steal_pointer(&name);
}

/* The first line of the list. */
static char *head_of(const program_folder *folder)
{
    return g_strdup_printf("Written by dromikos: %s.", folder->sort);
}

/* True if there is nothing in a folder, or no folder. */
static bool is_empty(const program_folder *folder, bool *is_readable)
{
    g_autoptr(GError) error = NULL;
    *is_readable = true;
    if (!g_file_test(folder->path, G_FILE_TEST_EXISTS)) {
        return true;
    }
    g_autoptr(GDir) entries = g_dir_open(folder->path, 0, &error);
    if (entries == NULL) {
        complain(folder->verb, "%s", error->message);
        *is_readable = false;
        return false;
    }
    return g_dir_read_name(entries) == NULL;
}

/* Reads the list of an earlier time. False, and reported, if the folder is something else. */
static bool read_list(program_folder *folder)
{
    g_autofree char *path = g_build_filename(folder->path, LIST, NULL);
    g_autofree char *text = NULL;
    bool is_readable = true;
    if (is_empty(folder, &is_readable)) {
        return true;
    }
    if (!is_readable) {
        return false;
    }
    if (!g_file_get_contents(path, &text, NULL, NULL)) {
        complain(
            folder->verb,
            "the folder %s isn't empty, and isn't %s; nothing was written. Name one that doesn't exist yet",
            folder->path, folder->sort);
        return false;
    }
    g_autofree char *head = head_of(folder);
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    if (strcmp(lines[0], head) != 0) {
        complain(folder->verb,
                 "the folder %s has another program ('%s'), not %s; nothing was written. Name another",
                 folder->path, lines[0], folder->sort);
        return false;
    }
    folder->before = g_ptr_array_new_with_free_func(g_free);
    for (char **line = lines + 1; *line != NULL; line++) {
        if (g_str_has_prefix(*line, "  ") && strstr(*line, "..") == NULL) {
            g_ptr_array_add(folder->before, g_strdup(*line + 2));
        }
    }
    return true;
}

program_folder *folder_open(const char *verb, const char *path, const char *sort, int *code)
{
    program_folder *const folder = g_new0(program_folder, 1);
    folder->verb = verb;
    folder->sort = sort;
    folder->path = g_strdup(path);
    folder->name = name_of(verb, path);
    folder->written = g_ptr_array_new_with_free_func(g_free);
    if (folder->name != NULL && read_list(folder)) {
        return folder;
    }
    *code = folder->name == NULL ? EXIT_WRONG : EXIT_FILE;
    folder_free(folder);
    return NULL;
}

const char *folder_name(const program_folder *folder)
{
    return folder->name;
}

bool folder_put(program_folder *folder, const char *file, const char *text)
{
    g_autofree char *path = g_build_filename(folder->path, file, NULL);
    g_ptr_array_add(folder->written, g_strdup(file));
    return write_into_folder(folder->verb, path, text);
}

bool folder_put_sources(program_folder *folder, const GPtrArray *files, const char *config)
{
    static const char own[] = "include/dromikos/drom_config.h";
    for (guint i = 0; i < files->len; i++) {
        const char *const file = files->pdata[i];
        g_autofree char *target = g_strconcat("src/", file, NULL);
        if (!folder_put(folder, target, strcmp(file, own) == 0 ? config : shipped_text(file))) {
            return false;
        }
    }
    return folder_put(folder, "LICENSE", shipped_text("LICENSE"));
}

bool folder_put_once(program_folder *folder, const char *file, const char *text)
{
    g_autofree char *path = g_build_filename(folder->path, file, NULL);
    return g_file_test(path, G_FILE_TEST_EXISTS) || write_into_folder(folder->verb, path, text);
}

bool folder_finish(program_folder *folder)
{
    g_autofree char *head = head_of(folder);
    g_autoptr(GString) list = g_string_new(head);
    g_string_append(list, "\nThese files are written again, without asking; all others are yours:\n");
    for (guint i = 0; i < folder->written->len; i++) {
        g_string_append_printf(list, "  %s\n", (const char *)folder->written->pdata[i]);
    }
    for (guint i = 0; folder->before != NULL && i < folder->before->len; i++) {
        const char *const file = folder->before->pdata[i];
        if (!g_ptr_array_find_with_equal_func(folder->written, file, g_str_equal, NULL)) {
            g_autofree char *path = g_build_filename(folder->path, file, NULL);
            (void)g_unlink(path);
        }
    }
    g_autofree char *path = g_build_filename(folder->path, LIST, NULL);
    return write_into_folder(folder->verb, path, list->str);
}

void folder_free(program_folder *folder)
{
    if (folder != NULL) {
        g_clear_pointer(&folder->before, g_ptr_array_unref);
        g_ptr_array_unref(folder->written);
        g_free(folder->name);
        g_free(folder->path);
        g_free(folder);
    }
}
