/* bake: a plan becomes three C files, for a chip. */
#include "cli.h"

#include "bake.h"

#include <string.h>

/* A file's name without folder and ending, as a C identifier. To be freed. */
static char *identifier_of(const char *path)
{
    char *const name = g_path_get_basename(path);
    char *const dot = strchr(name, '.');
    if (dot != NULL) {
        *dot = '\0';
    }
    g_strcanon(name, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_", '_');
    if (!g_ascii_isalpha(name[0])) {
        char *const good = g_strconcat("my_", name, NULL);
        g_free(name);
        return good;
    }
    return name;
}

static bool write_part(const char *folder, const char *name, const char *ending, const char *text)
{
    g_autofree char *file = g_strconcat(name, ending, NULL);
    g_autofree char *path = g_build_filename(folder, file, NULL);
    if (!write_into_folder("bake", path, text)) {
        return false;
    }
    (void)printf("%s\n", path);
    return true;
}

static int bake(const char *path, const char *folder, const char *name)
{
    report *const faults = report_new();
    plan *const loaded = plan_load(path, faults);
    report_print(faults, stderr);
    const int code = report_has_unreadable(faults) ? EXIT_FILE : EXIT_NO;
    report_free(faults);
    if (loaded == NULL) {
        return code;
    }
    g_autofree char *source = plan_bake_source(loaded, name);
    g_autofree char *header = plan_bake_header(loaded, name);
    g_autofree char *config = plan_bake_config(loaded, name);
    const bool is_written = write_part(folder, name, "_plan.h", header) &&
                            write_part(folder, name, "_plan.c", source) &&
                            write_part(folder, "drom_config", ".h", config);
    plan_free(loaded);
    return is_written ? EXIT_DONE : EXIT_FILE;
}

int bake_verb(int argc, char **argv)
{
    g_autofree char *folder = NULL;
    g_autofree char *name = NULL;
    const GOptionEntry entries[] = {
        {"into", 0, 0, G_OPTION_ARG_FILENAME, &folder,
         "The folder for the three files, made where it is missing; the current one unless given", "FOLDER"},
        {"name", 0, 0, G_OPTION_ARG_STRING, &name,
         "What the tables are called; the plan's file name unless given", "NAME"},
        {0},
    };
    int code = EXIT_WRONG;
    if (!take_options(
            "PLAN",
            "Writes NAME_plan.c and NAME_plan.h: the plan as const tables, which are what a rehearsal\n"
            "runs, too; and drom_config.h, with which the library is compiled for this plan alone. See\n"
            "docs/porting.md.",
            entries, 1, 1, &argc, argv, &code)) {
        return code;
    }
    g_autofree char *identifier = identifier_of(name != NULL ? name : argv[1]);
    return finish("bake", bake(argv[1], folder != NULL ? folder : ".", identifier));
}
