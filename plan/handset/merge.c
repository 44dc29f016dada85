/* Copies the text cell by cell, except for the cells that change. */
#include "plan/handset/merge.h"

#include <string.h>

enum column { KEY, PROTOCOL, ADDRESS, COMMAND, COLUMNS };

enum { MAX_CELLS = 64 };

static const char *const names[COLUMNS] = {"key", "protocol", "address", "command"};

/* A row of a table, in the text. */
typedef struct row {
    const char *starts[MAX_CELLS];
    const char *ends[MAX_CELLS]; /* without the separator */
    int count;
    const char *next; /* after its line end */
} row;

static row read_row(const char *at, char delimiter)
{
    row read = {.count = 0};
    bool is_quoted = false;
    read.starts[0] = at;
    for (;; at++) {
        is_quoted ^= *at == '"';
        const bool is_end = *at == '\0' || (!is_quoted && *at == '\n');
        if (is_end || (!is_quoted && *at == delimiter && read.count + 1 < MAX_CELLS)) {
            const bool has_return = is_end && at > read.starts[read.count] && at[-1] == '\r';
            read.ends[read.count++] = has_return ? at - 1 : at;
            if (is_end) {
                break;
            }
            read.starts[read.count] = at + 1;
        }
    }
    read.next = *at == '\n' ? at + 1 : at;
    return read;
}

/* Returns a cell without its quotes and blanks. To be freed. */
static char *cell_text(const row *entry, int index)
{
    char *const text =
        g_strstrip(g_strndup(entry->starts[index], (gsize)(entry->ends[index] - entry->starts[index])));
    const size_t length = strlen(text);
    if (length >= 2 && text[0] == '"' && text[length - 1] == '"') {
        text[length - 1] = '\0';
        memmove(text, text + 1, length - 1);
    }
    return text;
}

static char *value_text(const sheet_key *key, int column)
{
    switch ((enum column)column) {
    case KEY:
        return g_strdup(key->name);
    case PROTOCOL:
        return g_strdup(key->protocol->id);
    case ADDRESS:
        return g_strdup_printf("0x%02x", key->code.address);
    case COMMAND:
    case COLUMNS:
        break;
    }
    return g_strdup_printf("0x%02x", key->code.command);
}

/* Returns the column that a cell of the head names; -1: another. */
static int column_of(const row *head, int index)
{
    g_autofree char *name = index < head->count ? cell_text(head, index) : g_strdup("");
    int found = -1;
    for (int column = 0; column < COLUMNS; column++) {
        const char *const bare = g_str_has_prefix(name, "\xef\xbb\xbf") ? name + 3 : name;
        found = g_ascii_strcasecmp(bare, names[column]) == 0 ? column : found;
    }
    return found;
}

static const sheet_key *key_of_row(const row *head, const row *entry, const GArray *keys, bool *is_placed)
{
    for (int i = 0; i < entry->count; i++) {
        if (column_of(head, i) != KEY) {
            continue;
        }
        g_autofree char *name = cell_text(entry, i);
        for (guint j = 0; j < keys->len; j++) {
            const sheet_key *const key = &g_array_index(keys, sheet_key, j);
            if (strcmp(key->name, name) == 0 && !is_placed[j]) {
                is_placed[j] = true;
                return key;
            }
        }
    }
    return NULL;
}

/* A new row has as many cells as the head. */
static void append_key(GString *merged, const row *head, char delimiter, const sheet_key *key,
                       const char *line_end)
{
    for (int i = 0; i < head->count; i++) {
        const int column = column_of(head, i);
        g_autofree char *value = column >= 0 ? value_text(key, column) : g_strdup("");
        g_string_append(merged, value);
        if (i + 1 < head->count) {
            g_string_append_c(merged, delimiter);
        }
    }
    g_string_append(merged, line_end);
}

static void append_row(GString *merged, const row *head, const row *entry, const sheet_key *key)
{
    const char *at = entry->starts[0];
    for (int i = 0; i < entry->count && key != NULL; i++) {
        const int column = column_of(head, i);
        if (column > KEY) {
            g_autofree char *value = value_text(key, column);
            g_string_append_len(merged, at, entry->starts[i] - at);
            g_string_append(merged, value);
            at = entry->ends[i];
        }
    }
    g_string_append_len(merged, at, entry->next - at);
}

char *sheet_merge(const char *text, const GArray *keys)
{
    static const char usual_head[] = "key,protocol,address,command,note\n";
    const char *const old = text != NULL && *text != '\0' ? text : usual_head;
    const char *const line = strchr(old, '\n');
    const gsize length = line != NULL ? (gsize)(line - old) : strlen(old);
    const char delimiter = memchr(old, ',', length) == NULL && memchr(old, ';', length) != NULL ? ';' : ',';
    const char *const line_end = line != NULL && line > old && line[-1] == '\r' ? "\r\n" : "\n";
    GString *const merged = g_string_new(NULL);
    bool *const is_placed = g_new0(bool, keys->len + 1);
    const row head = read_row(old, delimiter);
    g_string_append_len(merged, old, head.next - old);
    for (const char *at = head.next; *at != '\0';) {
        const row next = read_row(at, delimiter);
        append_row(merged, &head, &next, key_of_row(&head, &next, keys, is_placed));
        at = next.next;
    }
    if (merged->len > 0 && merged->str[merged->len - 1] != '\n') {
        g_string_append(merged, line_end);
    }
    for (guint i = 0; i < keys->len; i++) {
        if (!is_placed[i]) {
            append_key(merged, &head, delimiter, &g_array_index(keys, sheet_key, i), line_end);
        }
    }
    g_free(is_placed);
    return g_string_free(merged, FALSE);
}
