/* Lines are only ever appended: what a maker wrote is not changed. */
#include "cli/program/rules.h"

#include "cli/io/files.h"
#include "cli/io/io.h"

#include "plan/handset/sheet.h"

#include <string.h>

char *handset_of(const char *sheet_file)
{
    g_autofree char *base = g_path_get_basename(sheet_file);
    char *const name = g_strndup(base, strcspn(base, "."));
    g_strcanon(name, G_CSET_A_2_Z G_CSET_a_2_z G_CSET_DIGITS "_", '_');
    if (!g_ascii_isalpha(name[0])) {
        char *const good = g_strconcat("remote_", name, NULL);
        g_free(name);
        return good;
    }
    return name;
}

/* True if a plan's text mentions a key, in a rule or a comment. */
static bool mentions(const char *text, const char *handset, const char *key)
{
    g_autofree char *mention = g_strdup_printf("\\b%s\\.%s\\b", handset, key);
    return g_regex_match_simple(mention, text, 0, 0);
}

bool rules_add(const char *verb, const char *plan_path, const char *handset)
{
    g_autofree char *text = NULL;
    g_autoptr(GError) error = NULL;
    if (!g_file_get_contents(plan_path, &text, NULL, &error)) {
        complain(verb, "%s", error->message);
        return false;
    }
    g_autofree char *folder = g_path_get_dirname(plan_path);
    g_autofree char *file = g_strconcat(handset, ".csv", NULL);
    g_autofree char *sheet_path = g_build_filename(folder, file, NULL);
    report *const faults = report_new();
    sheet *const keys = sheet_read(sheet_path, NULL, faults);
    report_print(faults, stderr);
    report_free(faults);
    if (keys == NULL) {
        return false;
    }
    g_autofree char *declared = g_strdup_printf("(^|\\n)handset +%s ", handset);
    const bool is_declared = g_regex_match_simple(declared, text, 0, 0);
    bool has_rule =
        g_regex_match_simple("(^|\\n) *when ", text, 0, 0) || strstr(text, "relay light ") == NULL;
    g_autoptr(GString) out = g_string_new(text);
    g_string_append(out, out->len > 0 && out->str[out->len - 1] != '\n' ? "\n" : "");
    if (!is_declared) {
        g_string_append_printf(out, "\nhandset %s from \"%s\"\n", handset, file);
    }
    const gsize before = out->len;
    for (guint i = 0; i < keys->keys->len; i++) {
        const char *const key = g_array_index(keys->keys, sheet_key, i).name;
        if (!mentions(text, handset, key)) {
            g_string_append_printf(out, "%swhen %s.%s pressed: light toggle\n", has_rule ? "# " : "", handset,
                                   key);
            has_rule = true;
        }
    }
    const bool is_more = out->len > before || !is_declared;
    sheet_free(keys);
    return !is_more || write_text(verb, plan_path, out->str);
}
