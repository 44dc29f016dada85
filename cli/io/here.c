/* A line is looked for among the devices of adapters and of boards with USB of their own; the program that
 * has it is found in /proc. */
#include "cli/io/here.h"

#include "cli/io/io.h"

#include <errno.h>
#include <glob.h>
#include <grp.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#define USUAL_LINES "/dev/ttyUSB* /dev/ttyACM*"

/* Returns the files that match patterns separated by blanks. */
static GPtrArray *matching(const char *patterns)
{
    GPtrArray *const found = g_ptr_array_new_with_free_func(g_free);
    g_auto(GStrv) each = g_strsplit(patterns, " ", -1);
    for (char **pattern = each; *pattern != NULL; pattern++) {
        glob_t files = {0};
        if (**pattern != '\0' && glob(*pattern, 0, NULL, &files) == 0) {
            for (size_t i = 0; i < files.gl_pathc; i++) {
                g_ptr_array_add(found, g_strdup(files.gl_pathv[i]));
            }
        }
        globfree(&files);
    }
    return found;
}

char *plan_here(void)
{
    g_autoptr(GPtrArray) plans = matching("*.plan");
    return plans->len == 1 ? g_strdup(plans->pdata[0]) : NULL;
}

static void complain_of_plans(const char *verb)
{
    g_autoptr(GPtrArray) plans = matching("*.plan");
    if (plans->len == 0) {
        complain(verb, "say which plan, or go to its folder: there is none here. 'dromikos begin' makes one");
        return;
    }
    g_ptr_array_add(plans, NULL);
    g_autofree char *names = g_strjoinv(", ", (char **)plans->pdata);
    complain(verb, "say which plan; here are %s", names);
}

static bool is_a_plan(const char *word)
{
    return g_str_has_suffix(word, ".plan") || g_file_test(word, G_FILE_TEST_EXISTS);
}

/* Returns the script beside a plan; NULL if there is none with a row below its head. */
static char *script_of(const char *plan_path)
{
    g_autofree char *base = g_strndup(plan_path, strlen(plan_path) - strlen(".plan"));
    g_autofree char *path = g_strconcat(base, ".csv", NULL);
    g_autofree char *text = NULL;
    if (!g_file_get_contents(path, &text, NULL, NULL) || !g_str_has_prefix(text, "at_ms,")) {
        return NULL;
    }
    const char *const row = strchr(text, '\n');
    return row != NULL && row[strspn(row, " \t\r\n")] != '\0' ? g_steal_pointer(&path) : NULL;
}

GPtrArray *words_with_plan(const char *verb, int argc, char **argv, bool has_inputs)
{
    g_autoptr(GPtrArray) words = g_ptr_array_new_with_free_func(g_free);
    g_ptr_array_add(words, g_strdup(argv[0]));
    if (argc < 2 || (has_inputs && strcmp(argv[1], "-") != 0 && !is_a_plan(argv[1]))) {
        g_autofree char *found = plan_here();
        g_autofree char *script = found != NULL && has_inputs && argc < 2 ? script_of(found) : NULL;
        if (found == NULL && argc < 2) {
            complain_of_plans(verb);
            return NULL;
        }
        if (found != NULL) {
            g_ptr_array_add(words, g_steal_pointer(&found));
        }
        if (script != NULL) {
            g_ptr_array_add(words, g_steal_pointer(&script));
        }
    }
    for (int i = 1; i < argc; i++) {
        g_ptr_array_add(words, g_strdup(argv[i]));
    }
    g_ptr_array_add(words, NULL);
    return g_steal_pointer(&words);
}

char *line_here(const char *verb)
{
    const char *const wanted = getenv("DROMIKOS_LINES");
    const char *const patterns = wanted != NULL && *wanted != '\0' ? wanted : USUAL_LINES;
    g_autoptr(GPtrArray) lines = matching(patterns);
    if (lines->len == 1) {
        put_note("dromikos %s: on the line %s\n", verb, (const char *)lines->pdata[0]);
        return g_strdup(lines->pdata[0]);
    }
    if (lines->len == 0) {
        complain(verb,
                 "there is no serial line (%s): is the board plugged in? A capture's file can be named, too",
                 patterns);
        return NULL;
    }
    g_ptr_array_add(lines, NULL);
    g_autofree char *names = g_strjoinv(", ", (char **)lines->pdata);
    complain(verb, "say which serial line; there are %s", names);
    return NULL;
}

/* Returns "picocom (process 4711)"; NULL if no program can be seen that has the file open. */
static char *holder_of(const char *path)
{
    g_autoptr(GPtrArray) open_files = matching("/proc/[0-9]*/fd/[0-9]*");
    g_autofree char *target = realpath(path, NULL);
    for (guint i = 0; target != NULL && i < open_files->len; i++) {
        const char *const file = open_files->pdata[i];
        g_autofree char *link = g_file_read_link(file, NULL);
        const long process = strtol(file + strlen("/proc/"), NULL, 10);
        if (process != (long)getpid() && g_strcmp0(link, target) == 0) {
            g_autofree char *name_path = g_strdup_printf("/proc/%ld/comm", process);
            g_autofree char *name = NULL;
            (void)g_file_get_contents(name_path, &name, NULL, NULL);
            return g_strdup_printf("%s (process %ld)", name != NULL ? g_strstrip(name) : "a program",
                                   process);
        }
    }
    return NULL;
}

void explain_line(const char *verb, const char *path, int failure)
{
    struct stat about;
    const struct group *const owner = stat(path, &about) == 0 ? getgrgid(about.st_gid) : NULL;
    if (failure == EACCES && owner != NULL && (about.st_mode & S_IWGRP) != 0) {
        complain(verb,
                 "%s: you may not use this line; the group %s may. Join it with 'sudo usermod -aG %s $USER', "
                 "then log "
                 "out and in again",
                 path, owner->gr_name, owner->gr_name);
        return;
    }
    if (failure == EBUSY || failure == EWOULDBLOCK) {
        g_autofree char *holder = holder_of(path);
        complain(verb, "%s: %s has this line open; end it (a serial monitor, perhaps), and try again", path,
                 holder != NULL ? holder : "another program");
        return;
    }
    complain(verb, "%s: can't be read: %s", path, g_strerror(failure));
}

void put_next(const char *format, ...)
{
    if (isatty(STDOUT_FILENO)) {
        va_list arguments;
        va_start(arguments, format);
        g_autofree char *text = g_strdup_vprintf(format, arguments);
        va_end(arguments);
        put_text("\nnext: %s\n", text);
    }
}
