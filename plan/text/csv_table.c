/* Rows of a CSV file, each cell with its place. */
#include "plan/text/csv_table.h"

#include <csv.h>
#include <errno.h>
#include <stdio.h>
#include <string.h>

enum { MAX_BYTES = 1 << 20 };

/* A table that is being read. */
typedef struct reading {
    const csv_kind *kind;
    void *context;
    report *faults;
    GArray *row;                    /* of cell */
    int column_at[CSV_MAX_COLUMNS]; /* cell of a row that holds the column; -1: none */
    int line;
    int column;
    place cell_starts;
    bool is_in_cell;
    bool has_head;
    bool lacks_column; /* so that nothing in it is read */
} reading;

static void free_cell(gpointer data)
{
    g_free(((cell *)data)->text);
}

static bool is_optional(const csv_kind *kind, int column)
{
    int count = 0;
    while (kind->columns[count] != NULL) {
        count++;
    }
    return column >= count - kind->optional;
}

static void take_head(reading *table)
{
    for (int column = 0; table->kind->columns[column] != NULL; column++) {
        const char *const wanted = table->kind->columns[column];
        table->column_at[column] = -1;
        for (guint i = 0; i < table->row->len; i++) {
            const cell *const name = &g_array_index(table->row, cell, i);
            if (g_ascii_strcasecmp(name->text, wanted) != 0) {
                continue;
            }
            if (table->column_at[column] >= 0) {
                report_error(table->faults, name->where, "the column '%s' stands here twice", name->text);
            }
            table->column_at[column] = (int)i;
        }
        if (table->column_at[column] < 0 && !is_optional(table->kind, column)) {
            report_error(table->faults, g_array_index(table->row, cell, 0).where,
                         "the column '%s' is missing; the first line must be: %s", wanted, table->kind->head);
            table->lacks_column = true;
        }
    }
}

/* Arranges the cells of a row in the order of the kind's columns; false if one is missing. */
static bool find_cells(const reading *table, const cell *cells[CSV_MAX_COLUMNS])
{
    for (int column = 0; table->kind->columns[column] != NULL; column++) {
        static char nothing[] = "";
        static const cell none = {.text = nothing};
        const int at = table->column_at[column];
        if (is_optional(table->kind, column) && (at < 0 || (guint)at >= table->row->len)) {
            cells[column] = &none;
            continue;
        }
        if (at < 0) {
            return false;
        }
        if ((guint)at >= table->row->len) {
            report_error(table->faults, g_array_index(table->row, cell, 0).where,
                         "this line ends before the '%s'; it must be: %s", table->kind->columns[column],
                         table->kind->head);
            return false;
        }
        cells[column] = &g_array_index(table->row, cell, at);
    }
    return true;
}

static bool is_blank(const GArray *row)
{
    for (guint i = 0; i < row->len; i++) {
        if (g_array_index(row, cell, i).text[0] != '\0') {
            return false;
        }
    }
    return true;
}

static void on_cell(void *text, size_t length, void *context)
{
    reading *const table = context;
    const bool is_empty = !table->is_in_cell;
    cell added = {
        .text = g_strstrip(g_strndup(text, length)),
        .where = is_empty ? (place){.line = table->line, .column = table->column} : table->cell_starts,
    };
    added.where.length = MAX((int)strlen(added.text), 1);
    g_array_append_val(table->row, added);
    table->is_in_cell = false;
}

static void on_row(int terminator, void *context)
{
    (void)terminator;
    reading *const table = context;
    const cell *cells[CSV_MAX_COLUMNS];
    if (is_blank(table->row)) {
        /* spreadsheets write such lines */
    } else if (!table->has_head) {
        table->has_head = true;
        take_head(table);
    } else if (find_cells(table, cells)) {
        table->kind->take_row(table->context, cells);
    }
    g_array_set_size(table->row, 0);
}

/* Spreadsheets write semicolons if the comma is the decimal point; some write tabs. */
static char delimiter_of(const char *text, gsize length)
{
    const char *const line_end = memchr(text, '\n', length);
    const gsize head = line_end != NULL ? (gsize)(line_end - text) : length;
    static const char known[] = {',', ';', '\t'};
    for (gsize i = 0; i < G_N_ELEMENTS(known); i++) {
        if (memchr(text, known[i], head) != NULL) {
            return known[i];
        }
    }
    return known[0];
}

/* "sep=;": some spreadsheets state the separator in a first line. Returns its length; 0: no such line. */
static gsize separator_line(const char *text, gsize length, char *delimiter)
{
    static const char begin[] = "sep=";
    const gsize word = strlen(begin);
    if (length <= word || g_ascii_strncasecmp(text, begin, word) != 0) {
        return 0;
    }
    const char *const line_end = memchr(text, '\n', length);
    *delimiter = text[word];
    return line_end != NULL ? (gsize)(line_end - text) + 1 : length;
}

/* libcsv doesn't report where a cell stands, so it gets one byte at a time. */
static void parse(reading *table, const char *text, gsize length)
{
    struct csv_parser parser;
    char delimiter = delimiter_of(text, length);
    const gsize first = separator_line(text, length, &delimiter);
    table->line += first > 0;
    (void)csv_init(&parser, CSV_STRICT | CSV_STRICT_FINI);
    csv_set_delim(&parser, (unsigned char)delimiter);
    for (gsize i = first; i < length; i++) {
        const bool is_separator =
            (unsigned char)text[i] == csv_get_delim(&parser) || text[i] == '\n' || text[i] == '\r';
        table->column++;
        if (!table->is_in_cell && !is_separator && text[i] != ' ' && text[i] != '\t') {
            table->cell_starts = (place){.line = table->line, .column = table->column};
            table->is_in_cell = true;
        }
        if (csv_parse(&parser, &text[i], 1, on_cell, on_row, table) != 1) {
            report_error(table->faults, (place){table->line, table->column, 1, 0},
                         "a quote inside a cell; put the whole cell in quotes, and each quote in it twice");
            break;
        }
        if (text[i] == '\n') {
            table->line++;
            table->column = 0;
        }
    }
    if (csv_fini(&parser, on_cell, on_row, table) != 0) {
        report_error(table->faults, table->cell_starts, "this quote is never closed");
    }
    csv_free(&parser);
}

bool csv_table_read(const char *path, const csv_kind *kind, report *faults, void *context)
{
    gsize length = 0;
    g_autofree char *text = read_text_file(path, &length, faults);
    if (text == NULL) {
        return false;
    }
    if (!g_utf8_validate(text, (gssize)length, NULL)) {
        report_error(faults, (place){0}, "is no text in UTF-8; save it as CSV in UTF-8");
        return false;
    }
    reading table = {.kind = kind, .context = context, .faults = faults, .line = 1};
    table.row = g_array_new(FALSE, FALSE, sizeof(cell));
    g_array_set_clear_func(table.row, free_cell);
    parse(&table, text, length);
    g_array_unref(table.row);
    if (!table.has_head) {
        report_error(faults, (place){0}, "is empty; the first line must be: %s", kind->head);
    }
    return !table.lacks_column;
}

bool cell_number(const cell *from, const char *what, uint32_t max, report *faults, uint32_t *value)
{
    const bool is_hex = g_ascii_strncasecmp(from->text, "0x", 2) == 0;
    const char *const digits = is_hex ? from->text + 2 : from->text;
    guint64 number = 0;
    g_autoptr(GError) error = NULL;
    if (g_ascii_string_to_unsigned(digits, is_hex ? 16 : 10, 0, max, &number, &error)) {
        *value = (uint32_t)number;
        return true;
    }
    const bool is_range = g_error_matches(error, G_NUMBER_PARSER_ERROR, G_NUMBER_PARSER_ERROR_OUT_OF_BOUNDS);
    report_error(faults, from->where,
                 is_range ? "the %s %s is out of range; it must be 0 to %u (0x%x)"
                          : "the %s '%s' is no whole number; it must be 0 to %u (0x%x)",
                 what, from->text, max, max);
    return false;
}

char *read_text_file(const char *path, gsize *length, report *faults)
{
    FILE *const file = strcmp(path, "-") == 0 ? stdin : fopen(path, "rb");
    char *text = NULL;
    g_autofree char *why = NULL;
    if (file == NULL) {
        why = g_strdup_printf("can't be read: %s", g_strerror(errno));
    } else {
        text = g_malloc(MAX_BYTES + 2);
        errno = 0;
        *length = fread(text, 1, MAX_BYTES + 1, file);
        text[*length] = '\0';
        if (ferror(file)) {
            why = g_strdup_printf("can't be read: %s", g_strerror(errno));
        } else if (*length > MAX_BYTES) {
            why = g_strdup("is larger than 1 MiB; is it the right file?");
        } else if (memchr(text, '\0', *length) != NULL) {
            why = g_strdup("is no text; is it the right file?");
        }
        if (file != stdin) {
            (void)fclose(file);
        }
    }
    if (why != NULL) {
        report_file(faults, path, NULL);
        report_unreadable(faults, why);
        g_free(text);
        return NULL;
    }
    if (*length >= 3 && memcmp(text, "\xef\xbb\xbf", 3) == 0) {
        *length -= 3;
        memmove(text, text + 3, *length + 1);
    }
    report_file(faults, path, text);
    return text;
}

char *csv_quoted(const char *text)
{
    const size_t size = csv_write(NULL, 0, text, strlen(text));
    char *const quoted = g_malloc(size + 1);
    (void)csv_write(quoted, size, text, strlen(text));
    quoted[size] = '\0';
    return quoted;
}
