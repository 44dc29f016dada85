/* A table of times and levels, as logic analysers write them. Read line by line, so that any size is
 * possible. */
#include "capture/reader.h"

#include <errno.h>
#include <math.h>
#include <string.h>

enum { MAX_COLUMNS = 64 };

/* Reads the next line that isn't blank or a comment, and separates its cells. 0 at the end of the file, -1 on
 * an error. */
static int next_cells(capture *from, char *cells[MAX_COLUMNS], GError **error)
{
    while (fgets(from->text, sizeof from->text, from->file) != NULL) {
        from->line++;
        if (strchr(from->text, '\n') == NULL && strlen(from->text) + 1 == sizeof from->text) {
            (void)capture_fail(from, error, "a line of over %d characters; this is no capture",
                               CAPTURE_MAX_LINE);
            return -1;
        }
        char *at = g_strstrip(from->text);
        if (*at == '\0' || *at == '#') {
            continue;
        }
        const char delimiters[] = {from->delimiter, '\0'};
        int count = 0;
        for (char *cell = strsep(&at, delimiters); cell != NULL && count < MAX_COLUMNS;
             cell = strsep(&at, delimiters)) {
            char *const bare = g_strstrip(cell);
            const size_t length = strlen(bare);
            const bool is_quoted = length >= 2 && bare[0] == '"' && bare[length - 1] == '"';
            bare[is_quoted ? length - 1 : length] = '\0';
            cells[count++] = bare + is_quoted;
        }
        return count;
    }
    if (ferror(from->file)) {
        (void)capture_fail(from, error, "can't be read: %s", g_strerror(errno));
        return -1;
    }
    return 0;
}

double capture_unit_of(const char *name)
{
    static const struct {
        const char *unit;
        double us;
    } units[] = {{"ns", 1e-3}, {"us", 1}, {"ms", 1e3}, {"s", 1e6}};
    g_autofree char *lower = g_ascii_strdown(name, -1);
    if (lower[0] != 't') {
        return 0;
    }
    if (strcmp(lower, "time") == 0 || strcmp(lower, "t") == 0) {
        return 1e6;
    }
    const size_t start = g_str_has_prefix(lower, "time") ? 4 : 1;
    g_autofree char *unit = g_strdup(lower + start);
    g_strdelimit(unit, "_[]() ", ' ');
    g_strstrip(unit);
    for (size_t i = 0; i < G_N_ELEMENTS(units); i++) {
        if (strcmp(unit, units[i].unit) == 0) {
            return units[i].us;
        }
    }
    return 0;
}

static bool choose_column(capture *from, char *const *cells, int count, const char *signal, GError **error)
{
    g_autoptr(GString) names = g_string_new(NULL);
    int found = 0;
    for (int i = 0; i < count; i++) {
        if (i == from->time_column) {
            continue;
        }
        g_string_append_printf(names, "%s%s", names->len > 0 ? ", " : "", cells[i]);
        if (signal == NULL || strcmp(cells[i], signal) == 0) {
            from->level_column = i;
            found++;
        }
    }
    if (found == 1) {
        return true;
    }
    if (signal == NULL && found > 1) {
        g_set_error(error, CAPTURE_ERROR, CAPTURE_ERROR_CHOICE,
                    "has %d wires (%s); say which one with --signal NAME", found, names->str);
    } else {
        g_set_error(error, CAPTURE_ERROR, CAPTURE_ERROR_CHOICE, "has no wire '%s'; it has: %s",
                    signal != NULL ? signal : "", names->str);
    }
    return false;
}

static capture_read next_level(capture *from, capture_edge *edge, GError **error)
{
    char *cells[MAX_COLUMNS];
    GError *why = NULL;
    int count = next_cells(from, cells, &why);
    for (; count > 0; count = next_cells(from, cells, &why)) {
        char *end = NULL;
        if (from->time_column >= count || from->level_column >= count) {
            (void)capture_fail(from, &why, "this line has %d cells; a time and a level are needed", count);
            break;
        }
        const char *const level = cells[from->level_column];
        const double time = g_ascii_strtod(cells[from->time_column], &end) * from->us_per_unit;
        if (end == cells[from->time_column] || *end != '\0' || !isfinite(time)) {
            (void)capture_fail(from, &why, "'%.40s' is no time", cells[from->time_column]);
            break;
        }
        if (!from->has_time) {
            from->has_time = true;
            from->first_time = time < 0 ? time : 0;
        }
        const double us = time - from->first_time + 0.5;
        if (us > (double)CAPTURE_LAST_US || us < (double)from->now_us) {
            (void)capture_fail(from, &why,
                               us < 0 || us < (double)from->now_us
                                   ? "the time goes back, to %.40s"
                                   : "the time %.40s lies more than 10 years on",
                               cells[from->time_column]);
            break;
        }
        from->now_us = (uint64_t)us;
        if ((level[0] != '0' && level[0] != '1') || level[1] != '\0') {
            (void)capture_fail(from, &why, "the level '%.40s'; it must be 0 or 1", level);
            break;
        }
        if (capture_take_level(from, level[0] == '1', edge)) {
            return CAPTURE_EDGE;
        }
    }
    if (why != NULL) {
        g_propagate_error(error, why);
        return CAPTURE_FAULT;
    }
    *edge = (capture_edge){.at_us = from->now_us, .is_mark = from->is_mark};
    return CAPTURE_END;
}

bool capture_open_csv(capture *from, const char *signal, GError **error)
{
    char *cells[MAX_COLUMNS];
    from->next = next_level;
    from->line--;
    from->time_column = -1;
    /* The separator is the first of these in the head. */
    from->delimiter = '\0';
    const int whole = next_cells(from, cells, error);
    if (whole <= 0) {
        return whole == 0 ? capture_fail(from, error, "there is nothing in it but comments") : false;
    }
    char *const head = cells[0];
    g_autofree char *line = g_strconcat(head, "\n", NULL);
    for (const char *known = ",;\t"; *known != '\0' && from->delimiter == '\0'; known++) {
        if (strchr(head, *known) != NULL) {
            from->delimiter = *known;
        }
    }
    char *at = g_str_has_prefix(head, "\xef\xbb\xbf") ? head + 3 : head;
    const char delimiters[] = {from->delimiter, '\0'};
    int count = 0;
    for (char *cell = strsep(&at, delimiters); cell != NULL && count < MAX_COLUMNS;
         cell = strsep(&at, delimiters)) {
        cells[count] = g_strstrip(g_strdelimit(cell, "\"", ' '));
        const double us = capture_unit_of(cells[count]);
        if (us > 0 && from->time_column < 0) {
            from->time_column = count;
            from->us_per_unit = us;
        }
        count++;
    }
    if ((from->time_column < 0 || count < 2) && capture_is_list(line)) {
        return capture_open_times(from, line, error);
    }
    if (from->time_column < 0 || count < 2) {
        return capture_fail(
            from, error,
            "this is no capture: neither VCD, which begins with '$', nor CSV, whose first line is like "
            "'t_us,receiver', nor runs like ^9000_4500, nor times like '9000 4500 560'");
    }
    return choose_column(from, cells, count, signal, error);
}
