/* The command line of a verb, by GLib's option parser, with our exit codes. */
#include "cli/io/io.h"

#include "plan/text/report.h"

#include <stdlib.h>
#include <string.h>

void complain(const char *verb, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_autofree char *message = g_strdup_vprintf(format, arguments);
    va_end(arguments);
    (void)fflush(stdout);
    put_note("dromikos %s: %s\n", verb, message);
}

/* Returns the option nearest to the unknown one, from the parser's message. */
static char *option_hint(const GOptionEntry *entries, char **argv, int argc)
{
    g_autoptr(GPtrArray) names = g_ptr_array_new_with_free_func(g_free);
    for (const GOptionEntry *entry = entries; entry->long_name != NULL; entry++) {
        g_ptr_array_add(names, g_strdup_printf("--%s", entry->long_name));
    }
    g_ptr_array_add(names, g_strdup("--help"));
    g_ptr_array_add(names, NULL);
    for (int i = 1; i < argc; i++) {
        if (g_str_has_prefix(argv[i], "--")) {
            g_autofree char *name = g_strndup(argv[i], strcspn(argv[i], "="));
            if (!g_strv_contains((const char *const *)names->pdata, name)) {
                return did_you_mean(name, (const char *const *)names->pdata);
            }
        }
    }
    return g_strdup("");
}

bool take_options(const char *arguments, const char *about, const GOptionEntry *entries, int min, int max,
                  int *argc, char **argv, int *code)
{
    const char *const verb = argv[0];
    gboolean wants_help = FALSE;
    const GOptionEntry help[] = {
        {"help", 'h', 0, G_OPTION_ARG_NONE, &wants_help, "Show this page", NULL},
        {0},
    };
    g_autofree char *name = g_strdup_printf("dromikos %s", verb);
    g_autoptr(GError) error = NULL;
    g_autoptr(GOptionContext) context = g_option_context_new(arguments);
    g_option_context_set_summary(context, about);
    g_option_context_set_help_enabled(context, FALSE);
    g_option_context_add_main_entries(context, entries, NULL);
    g_option_context_add_main_entries(context, help, NULL);
    g_set_prgname(name);
    *code = EXIT_WRONG;
    if (!g_option_context_parse(context, argc, &argv, &error)) {
        g_autofree char *hint = option_hint(entries, argv, *argc);
        complain(verb, "%s%s", error->message, hint);
        return false;
    }
    if (wants_help) {
        g_autofree char *page = g_option_context_get_help(context, TRUE, NULL);
        (void)fputs(page, stdout);
        *code = finish(verb, EXIT_DONE);
        return false;
    }
    const int words = *argc - 1;
    if (words < min || words > max) {
        complain(verb, "%s; call it as: %s %s",
                 words < min ? "something is missing" : "there are too many words", name, arguments);
        return false;
    }
    return true;
}

bool take_either(const char *verb, const char *option, const char *text, const char *yes, const char *no,
                 bool *is_yes)
{
    *is_yes = text != NULL && strcmp(text, yes) == 0;
    if (text == NULL || *is_yes || strcmp(text, no) == 0) {
        return true;
    }
    complain(verb, "--%s is '%s'; it must be %s or %s", option, text, no, yes);
    return false;
}

bool take_format(const char *verb, const char *text, output_format *format)
{
    bool is_jsonl = false;
    const bool is_good = take_either(verb, "format", text, "jsonl", "text", &is_jsonl);
    *format = is_jsonl ? FORMAT_JSONL : FORMAT_TEXT;
    return is_good;
}
