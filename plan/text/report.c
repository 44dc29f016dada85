/* Faults are kept until the end, so that all of a file are shown together, in the order of its lines. */
#include "plan/text/report.h"

#include "plan/text/plain.h"

#include <stdlib.h>
#include <string.h>

enum { MAX_PER_FILE = 20, MAX_SHOWN_LINE = 160 };

typedef struct fault {
    place where;
    guint order;
    char *message;
    bool is_warning;
} fault;

typedef struct read_file {
    char *name;
    char **lines; /* NULL if the text isn't known */
    GArray *faults;
} read_file;

struct report {
    GPtrArray *files;
    guint current;
    unsigned errors;
    bool has_unreadable;
};

static void free_fault(gpointer data)
{
    g_free(((fault *)data)->message);
}

static void free_file(gpointer data)
{
    read_file *const file = data;
    g_free(file->name);
    g_strfreev(file->lines);
    g_array_free(file->faults, TRUE);
    g_free(file);
}

report *report_new(void)
{
    report *const faults = g_new0(report, 1);
    faults->files = g_ptr_array_new_with_free_func(free_file);
    return faults;
}

void report_free(report *faults)
{
    if (faults != NULL) {
        g_ptr_array_free(faults->files, TRUE);
        g_free(faults);
    }
}

void report_file(report *faults, const char *name, const char *text)
{
    read_file *const file = g_new0(read_file, 1);
    file->name = g_strdup(name);
    file->lines = text != NULL ? g_strsplit(text, "\n", -1) : NULL;
    file->faults = g_array_new(FALSE, FALSE, sizeof(fault));
    g_array_set_clear_func(file->faults, free_fault);
    g_ptr_array_add(faults->files, file);
    faults->current = faults->files->len - 1;
}

int report_named(const report *faults)
{
    return (int)faults->current + 1;
}

void report_return(report *faults, int file)
{
    faults->current = (guint)file - 1;
}

/* True if the newest fault is the same: a statement that stands for several rules reports it for each. */
static bool is_said(const read_file *file, const fault *given)
{
    const fault *const newest =
        file->faults->len > 0 ? &g_array_index(file->faults, fault, file->faults->len - 1) : NULL;
    return newest != NULL && newest->where.line == given->where.line &&
           newest->where.column == given->where.column && strcmp(newest->message, given->message) == 0;
}

static void add_fault(report *faults, place where, bool is_warning, const char *format, va_list arguments)
{
    const guint which = where.file > 0 ? (guint)where.file - 1 : faults->current;
    read_file *const file = g_ptr_array_index(faults->files, which);
    const fault new_fault = {
        .where = where,
        .order = file->faults->len,
        .message = g_strdup_vprintf(format, arguments),
        .is_warning = is_warning,
    };
    faults->errors += !is_warning;
    if (is_said(file, &new_fault)) {
        g_free(new_fault.message);
    } else {
        g_array_append_val(file->faults, new_fault);
    }
}

void report_error(report *faults, place where, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    add_fault(faults, where, false, format, arguments);
    va_end(arguments);
}

void report_warning(report *faults, place where, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    add_fault(faults, where, true, format, arguments);
    va_end(arguments);
}

unsigned report_errors(const report *faults)
{
    return faults->errors;
}

void report_unreadable(report *faults, const char *why)
{
    faults->has_unreadable = true;
    report_error(faults, (place){0}, "%s", why);
}

bool report_has_unreadable(const report *faults)
{
    return faults->has_unreadable;
}

void report_append(report *faults, report *other)
{
    faults->errors += other->errors;
    faults->has_unreadable |= other->has_unreadable;
    g_ptr_array_extend_and_steal(faults->files, g_steal_pointer(&other->files));
    g_free(other);
}

static gint by_place(gconstpointer left, gconstpointer right)
{
    const fault *const a = left;
    const fault *const b = right;
    if (a->where.line != b->where.line) {
        return a->where.line < b->where.line ? -1 : 1;
    }
    if (a->where.column != b->where.column) {
        return a->where.column < b->where.column ? -1 : 1;
    }
    return (a->order > b->order) - (a->order < b->order);
}

/* Writes the line with a caret under the place; tabs are kept, so that the caret is at the right column. */
static void print_line(const char *line, place where, FILE *out)
{
    g_autofree char *cut = g_strndup(line, MAX_SHOWN_LINE);
    g_autofree char *shown = plain_text(g_strchomp(cut));
    (void)fprintf(out, "%5d | %s\n      | ", where.line, shown);
    gssize bytes = 0;
    const char *at = cut;
    for (int column = 1; column < where.column && *at != '\0'; column += (int)bytes, at += bytes) {
        (void)fputc(plain_sign(at, &bytes) == '\t' ? '\t' : ' ', out);
    }
    (void)fputc('^', out);
    for (int i = 1; i < where.length && i < MAX_SHOWN_LINE; i++) {
        (void)fputc('~', out);
    }
    (void)fputc('\n', out);
}

static void print_fault(const read_file *file, const fault *shown, FILE *out)
{
    const char *const kind = shown->is_warning ? "warning: " : "";
    g_autofree char *name = plain_text(file->name);
    g_autofree char *message = plain_text(shown->message);
    if (shown->where.line == 0) {
        (void)fprintf(out, "%s: %s%s\n", name, kind, message);
        return;
    }
    (void)fprintf(out, "%s:%d:%d: %s%s\n", name, shown->where.line, shown->where.column, kind, message);
    if (file->lines != NULL && (guint)shown->where.line <= g_strv_length(file->lines)) {
        print_line(file->lines[shown->where.line - 1], shown->where, out);
    }
}

/* In the order of the lines; if not all are shown, errors precede warnings. */
static void print_file(read_file *file, FILE *out)
{
    guint errors = 0;
    guint shown[2] = {0}; /* errors and warnings */
    g_array_sort(file->faults, by_place);
    for (guint i = 0; i < file->faults->len; i++) {
        errors += !g_array_index(file->faults, fault, i).is_warning;
    }
    const guint max[2] = {MAX_PER_FILE, MAX_PER_FILE - MIN(errors, MAX_PER_FILE)};
    for (guint i = 0; i < file->faults->len; i++) {
        const fault *const next = &g_array_index(file->faults, fault, i);
        if (shown[next->is_warning] < max[next->is_warning]) {
            print_fault(file, next, out);
            shown[next->is_warning]++;
        }
    }
    if (file->faults->len > shown[0] + shown[1]) {
        g_autofree char *name = plain_text(file->name);
        (void)fprintf(out, "%s: and %u more like these\n", name, file->faults->len - shown[0] - shown[1]);
    }
}

void report_print(const report *faults, FILE *out)
{
    for (guint i = 0; i < faults->files->len; i++) {
        print_file(g_ptr_array_index(faults->files, i), out);
    }
}

/* Returns how many letters must be inserted, deleted, changed or swapped with the next to turn one word into
 * the other. Words longer than the table count as very different. */
static size_t distance(const char *a, const char *b)
{
    enum { MAX_LETTERS = 40 };
    const size_t rows = strlen(a);
    const size_t columns = strlen(b);
    size_t cost[MAX_LETTERS + 1][MAX_LETTERS + 1];
    if (rows > MAX_LETTERS || columns > MAX_LETTERS) {
        return MAX_LETTERS;
    }
    for (size_t i = 0; i <= rows; i++) {
        for (size_t j = 0; j <= columns; j++) {
            if (i == 0 || j == 0) {
                cost[i][j] = i + j;
                continue;
            }
            const bool is_same = g_ascii_tolower(a[i - 1]) == g_ascii_tolower(b[j - 1]);
            cost[i][j] = MIN(cost[i - 1][j - 1] + !is_same, MIN(cost[i - 1][j], cost[i][j - 1]) + 1);
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1]) {
                cost[i][j] = MIN(cost[i][j], cost[i - 2][j - 2] + 1);
            }
        }
    }
    return cost[rows][columns];
}

const char *nearest_word(const char *word, const char *const *candidates)
{
    const char *nearest = NULL;
    size_t min = strlen(word) / 3 + 2; /* a third of its letters, plus one */
    for (; *candidates != NULL; candidates++) {
        const size_t apart = distance(word, *candidates);
        if (apart < min && apart < strlen(*candidates)) {
            min = apart;
            nearest = *candidates;
        }
    }
    return nearest;
}

char *did_you_mean(const char *word, const char *const *candidates)
{
    const char *const nearest = nearest_word(word, candidates);
    return nearest != NULL ? g_strdup_printf("; did you mean '%s'?", nearest) : g_strdup("");
}
