/* A dozen colours have names; others are numbers. */
#include "plan/language/colours.h"

#include <string.h>

static const struct {
    const char *name;
    uint32_t colour;
} colours[] = {
    {"black", 0x000000},  {"white", 0xffffff},  {"red", 0xff0000},   {"green", 0x00ff00},
    {"blue", 0x0000ff},   {"yellow", 0xffc000}, {"amber", 0xff7000}, {"orange", 0xff4000},
    {"purple", 0x8000ff}, {"pink", 0xff4080},   {"cyan", 0x00ffff},  {"warm", 0xffa040},
};

bool colour_find(const char *text, uint32_t *colour)
{
    *colour = 0;
    if (g_str_has_prefix(text, "0x")) {
        *colour = (uint32_t)MIN(g_ascii_strtoull(text, NULL, 16), UINT32_MAX);
        return strlen(text) == strlen("0xrrggbb");
    }
    for (size_t i = 0; i < G_N_ELEMENTS(colours); i++) {
        if (strcmp(colours[i].name, text) == 0) {
            *colour = colours[i].colour;
            return true;
        }
    }
    return false;
}

bool colour_of(report *faults, const word *name, uint32_t *colour)
{
    if (colour_find(name->text, colour)) {
        return true;
    }
    const char *names[G_N_ELEMENTS(colours) + 1] = {NULL};
    for (size_t i = 0; i < G_N_ELEMENTS(colours); i++) {
        names[i] = colours[i].name;
    }
    g_autofree char *known = g_strjoinv(", ", (char **)names);
    g_autofree char *hint = did_you_mean(name->text, names);
    report_error(faults, name->where, "there is no colour '%s'; known are %s, and 0xrrggbb%s", name->text,
                 known, hint);
    return false;
}

char *colour_text(uint32_t colour)
{
    for (size_t i = 0; i < G_N_ELEMENTS(colours); i++) {
        if (colours[i].colour == colour) {
            return g_strdup(colours[i].name);
        }
    }
    return g_strdup_printf("0x%06x", colour);
}
