/* Loads a plan from a text. */
#include "plans.h"

#include "support.h"

#include <stdio.h>

plan *load_plan(const char *text, const char *csv, char **reported)
{
    g_free(write_file("wand.csv", csv));
    g_autofree char *path = write_file("stage.plan", text);
    g_autofree char *folder = g_path_get_dirname(path);
    report *const faults = report_new();
    plan *const loaded = plan_load(path, faults);
    char *written = NULL;
    size_t length = 0;
    FILE *const out = open_memstream(&written, &length);
    report_print(faults, out);
    (void)fclose(out);
    ck_assert_int_eq(loaded == NULL, report_errors(faults) > 0);
    report_free(faults);
    g_autoptr(GString) shortened = g_string_new(written);
    g_autofree char *prefix = g_strdup_printf("%s/", folder);
    (void)g_string_replace(shortened, prefix, "", 0);
    *reported = g_strdup(shortened->str);
    free(written);
    return loaded;
}

plan *load_stage(const char *lines, char **reported)
{
    g_autofree char *text = g_strconcat(STAGE_HEAD, lines, "\n", NULL);
    return load_plan(text, STAGE_SHEET, reported);
}
