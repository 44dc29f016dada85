/* The files of a plan: the plan itself, and those that it includes. */
#include "plan/language/source.h"
#include "plan/text/csv_table.h"

#include <string.h>

enum { MAX_FILES = 32, MAX_BYTES = 1 << 20 /* of all together */ };

const char *source_path(const plan_source *source, place where)
{
    const char *path = g_array_index(source->files, included_file, 0).path;
    for (guint i = 0; i < source->files->len; i++) {
        const included_file *const one = &g_array_index(source->files, included_file, i);
        path = one->file == where.file ? one->path : path;
    }
    return path;
}

char *path_beside(const char *file, const char *path)
{
    g_autofree char *folder = g_path_get_dirname(file);
    return g_path_is_absolute(path) || strcmp(folder, ".") == 0 ? g_strdup(path)
                                                                : g_build_filename(folder, path, NULL);
}

/* A file counts once, however its path is written: none can include itself. */
static bool is_known(const plan_source *source, const char *path)
{
    g_autofree char *name = g_canonicalize_filename(path, NULL);
    bool is_known = false;
    for (guint i = 0; i < source->files->len; i++) {
        g_autofree char *other =
            g_canonicalize_filename(g_array_index(source->files, included_file, i).path, NULL);
        is_known |= strcmp(name, other) == 0;
    }
    return is_known;
}

/* Returns the size of the file, which is read if `room` is left. */
static gsize include(plan_source *source, word named, gsize room)
{
    g_autofree char *path = path_beside(source_path(source, named.where), named.text);
    const char *wrong = is_known(source, path)   ? "is a part of this plan already"
                        : strcmp(path, "-") == 0 ? "is standard input, which can't be included"
                        : source->files->len == MAX_FILES
                            ? "is one more than the 32 files that a plan may have"
                            : NULL;
    gsize length = 0;
    g_autofree char *text = wrong == NULL ? read_text_file(path, &length, source->faults) : NULL;
    if (wrong == NULL) {
        wrong = text == NULL    ? "can't be included"
                : length > room ? "doesn't fit: a plan is 1 MiB at most, with all that it includes"
                                : NULL;
    }
    if (wrong != NULL) {
        report_error(source->faults, named.where, "'%s' %s", named.text, wrong);
        return 0;
    }
    g_autofree char *whole = g_strconcat(text, "\n", NULL);
    source_parse(source, path, whole, length + 1);
    return length;
}

void source_include_all(plan_source *source, gsize length)
{
    gsize bytes = length;
    for (guint i = 0; i < source->includes->len; i++) { /* the array grows meanwhile */
        bytes += include(source, g_array_index(source->includes, word, i),
                         MAX_BYTES > bytes ? MAX_BYTES - bytes : 0);
    }
}
