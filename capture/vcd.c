/* Reads VCD as a stream of words, so that any size is possible; and writes VCD. */
#include "capture/reader.h"

#include <errno.h>
#include <string.h>

enum { MAX_WIRES = 256 };

static void free_wire(gpointer data)
{
    wire *const unwanted = data;
    g_free(unwanted->name);
    g_free(unwanted->path);
    g_free(unwanted->id);
    g_free(unwanted);
}

static void close_vcd(capture *from)
{
    g_ptr_array_unref(from->wires);
    g_ptr_array_unref(from->scopes);
}

/* Reads the next word, up to white space. False at the end of the file, and on an error. */
static bool next_word(capture *from, GError **error)
{
    size_t length = 0;
    int byte = getc_unlocked(from->file);
    while (byte == ' ' || byte == '\n' || byte == '\r' || byte == '\t') {
        from->line += byte == '\n';
        byte = getc_unlocked(from->file);
    }
    while (byte > ' ' && byte < 0x7f && length < CAPTURE_MAX_WORD) {
        from->word[length++] = (char)byte;
        byte = getc_unlocked(from->file);
    }
    from->word[length] = '\0';
    if (byte == EOF) {
        if (ferror(from->file)) {
            return capture_fail(from, error, "can't be read: %s", g_strerror(errno));
        }
        return length > 0;
    }
    if (length == CAPTURE_MAX_WORD) {
        return capture_fail(from, error, "a word of over %d characters; this is no VCD", CAPTURE_MAX_WORD);
    }
    if (byte != ' ' && byte != '\n' && byte != '\r' && byte != '\t') {
        return capture_fail(from, error, "the byte 0x%02x; this is no VCD, which is text", (unsigned)byte);
    }
    (void)ungetc(byte, from->file);
    return true;
}

/* Skips the words up to $end, and joins the first of them in `joined` (may be NULL). Comments may be long and
 * in any script, so they aren't separated into words. */
static bool skip_to_end(capture *from, GString *joined, GError **error)
{
    static const char end[] = "$end";
    enum { MAX_JOINED = 200 };
    size_t matched = 0;
    int byte = getc_unlocked(from->file);
    for (; byte != EOF; byte = getc_unlocked(from->file)) {
        from->line += byte == '\n';
        matched = byte == end[matched] ? matched + 1 : byte == '$' ? 1 : 0;
        if (matched == 4) {
            return true;
        }
        if (joined != NULL && byte != '$' && matched == 0 && joined->len < MAX_JOINED &&
            !g_ascii_isspace(byte)) {
            g_string_append_c(joined, (char)byte);
        }
    }
    return capture_fail(from, error, "the file ends before an $end; is it cut short?");
}

static bool take_timescale(capture *from, GError **error)
{
    static const struct {
        const char *unit;
        uint64_t fs;
    } units[] = {
        {"s", UINT64_C(1000000000000000)},
        {"ms", UINT64_C(1000000000000)},
        {"us", 1000000000},
        {"ns", 1000000},
        {"ps", 1000},
        {"fs", 1},
    };
    g_autoptr(GString) text = g_string_new(NULL);
    if (!skip_to_end(from, text, error)) {
        return false;
    }
    const size_t digits = strspn(text->str, "0123456789");
    for (size_t i = 0; i < G_N_ELEMENTS(units); i++) {
        const bool is_number = digits >= 1 && digits <= 3 && strncmp(text->str, "100", digits) == 0;
        if (is_number && strcmp(text->str + digits, units[i].unit) == 0) {
            from->scale_fs = units[i].fs * g_ascii_strtoull(text->str, NULL, 10);
            return true;
        }
    }
    return capture_fail(from, error,
                        "the timescale '%s'; it must be 1, 10 or 100 and then s, ms, us, ns, ps or fs",
                        text->str);
}

/* Reads a word of a declaration; $end or the end of the file is an error. */
static bool need_word(capture *from, const char *what, GError **error)
{
    if (!next_word(from, error)) {
        return *error != NULL ? false
                              : capture_fail(from, error, "the file ends before %s; is it cut short?", what);
    }
    return strcmp(from->word, "$end") != 0 || capture_fail(from, error, "$end where %s should be", what);
}

static bool take_var(capture *from, GError **error)
{
    if (!need_word(from, "the type of a wire", error) || !need_word(from, "the width of a wire", error)) {
        return false;
    }
    wire *const added = g_new0(wire, 1);
    g_ptr_array_add(from->wires, added);
    added->width = (int)g_ascii_strtoull(from->word, NULL, 10);
    if (!need_word(from, "the id of a wire", error)) {
        return false;
    }
    added->id = g_strdup(from->word);
    if (!need_word(from, "the name of a wire", error)) {
        return false;
    }
    added->name = g_strdup(from->word);
    g_ptr_array_add(from->scopes, NULL);
    g_autofree char *scope = g_strjoinv(".", (char **)from->scopes->pdata);
    g_ptr_array_remove_index(from->scopes, from->scopes->len - 1);
    added->path = scope[0] != '\0' ? g_strdup_printf("%s.%s", scope, added->name) : g_strdup(added->name);
    if (from->wires->len > MAX_WIRES) {
        return capture_fail(from, error, "more than %d wires", MAX_WIRES);
    }
    return skip_to_end(from, NULL, error);
}

static bool take_scope(capture *from, GError **error)
{
    if (!need_word(from, "the type of a scope", error) || !need_word(from, "the name of a scope", error)) {
        return false;
    }
    g_ptr_array_add(from->scopes, g_strdup(from->word));
    return from->scopes->len <= MAX_WIRES ? skip_to_end(from, NULL, error)
                                          : capture_fail(from, error, "too many scopes");
}

static bool take_upscope(capture *from, GError **error)
{
    if (from->scopes->len == 0) {
        return capture_fail(from, error, "$upscope outside of any scope");
    }
    g_ptr_array_remove_index(from->scopes, from->scopes->len - 1);
    return skip_to_end(from, NULL, error);
}

static bool read_head(capture *from, GError **error)
{
    while (next_word(from, error)) {
        bool is_good = true;
        if (strcmp(from->word, "$enddefinitions") == 0) {
            return skip_to_end(from, NULL, error);
        }
        if (strcmp(from->word, "$timescale") == 0) {
            is_good = take_timescale(from, error);
        } else if (strcmp(from->word, "$var") == 0) {
            is_good = take_var(from, error);
        } else if (strcmp(from->word, "$scope") == 0) {
            is_good = take_scope(from, error);
        } else if (strcmp(from->word, "$upscope") == 0) {
            is_good = take_upscope(from, error);
        } else if (from->word[0] == '$') {
            is_good = skip_to_end(from, NULL, error);
        } else {
            return capture_fail(from, error, "'%.40s' before $enddefinitions; a VCD begins with declarations",
                                from->word);
        }
        if (!is_good) {
            return false;
        }
    }
    if (*error != NULL) {
        return false;
    }
    return capture_fail(from, error,
                        from->wires->len == 0 && from->scale_fs == 0
                            ? "the file is empty, or no VCD: it has no $enddefinitions"
                            : "the file ends before $enddefinitions; is it cut short?");
}

static char *list_wires(const capture *from)
{
    enum { MAX_SHOWN = 8 };
    g_autoptr(GString) list = g_string_new(NULL);
    for (guint i = 0; i < from->wires->len && i < MAX_SHOWN; i++) {
        const wire *const listed = g_ptr_array_index(from->wires, i);
        g_string_append_printf(list, "%s%s", i > 0 ? ", " : "", listed->path);
    }
    if (from->wires->len > MAX_SHOWN) {
        g_string_append_printf(list, " and %u more", from->wires->len - MAX_SHOWN);
    }
    return g_strdup(list->str);
}

/* Selects the wire to read. */
static bool choose_wire(capture *from, const char *signal, GError **error)
{
    const wire *chosen = NULL;
    for (guint i = 0; i < from->wires->len; i++) {
        const wire *const candidate = g_ptr_array_index(from->wires, i);
        const bool is_named =
            signal == NULL || strcmp(candidate->name, signal) == 0 || strcmp(candidate->path, signal) == 0;
        if (is_named && chosen != NULL && strcmp(chosen->id, candidate->id) != 0) {
            g_autofree char *list = list_wires(from);
            g_set_error(error, CAPTURE_ERROR, CAPTURE_ERROR_CHOICE,
                        "has %u wires (%s); say which one with --signal NAME", from->wires->len, list);
            return false;
        }
        chosen = is_named ? candidate : chosen;
    }
    if (chosen == NULL && from->wires->len == 0) {
        return capture_fail(from, error, "no wire is declared");
    }
    if (chosen == NULL) {
        g_autofree char *list = list_wires(from);
        g_set_error(error, CAPTURE_ERROR, CAPTURE_ERROR_CHOICE, "has no wire '%s'; it has: %s", signal, list);
        return false;
    }
    if (chosen->width != 1) {
        return capture_fail(from, error, "the wire %s is %d bits wide; it must be one bit", chosen->path,
                            chosen->width);
    }
    g_strlcpy(from->id, chosen->id, sizeof from->id);
    return true;
}

static bool take_time(capture *from, GError **error)
{
    static const uint64_t fs_per_us = UINT64_C(1000000000);
    guint64 ticks = 0;
    if (!g_ascii_string_to_unsigned(from->word + 1, 10, 0, G_MAXUINT64, &ticks, NULL)) {
        return capture_fail(from, error, "'%.40s' is no time; it must be '#' and a whole number", from->word);
    }
    if (ticks < from->ticks) {
        return capture_fail(
            from, error, "the time goes back from %" G_GUINT64_FORMAT " to %" G_GUINT64_FORMAT "%s",
            from->ticks, ticks, feof(from->file) ? ", where the file ends; is it cut short?" : "");
    }
    from->ticks = ticks;
    if (from->scale_fs >= fs_per_us) {
        const uint64_t us_per_tick = from->scale_fs / fs_per_us;
        if (ticks > CAPTURE_LAST_US / us_per_tick) {
            return capture_fail(from, error, "the time %" G_GUINT64_FORMAT " lies more than 10 years on",
                                ticks);
        }
        from->now_us = ticks * us_per_tick;
        return true;
    }
    const uint64_t ticks_per_us = fs_per_us / from->scale_fs;
    from->now_us = ticks / ticks_per_us + (ticks % ticks_per_us >= (ticks_per_us + 1) / 2);
    return from->now_us <= CAPTURE_LAST_US ||
           capture_fail(from, error, "the time %" G_GUINT64_FORMAT " lies more than 10 years on", ticks);
}

/* Takes a value of the line. True if it changes. */
static bool take_value(capture *from, char value, capture_edge *edge)
{
    const bool is_known = value == '0' || value == '1'; /* else it is unknown, or not driven */
    return is_known && capture_take_level(from, value == '1', edge);
}

/* A vector or a real: value and id are two words. A one-bit wire may be written this way as well. */
static bool take_vector(capture *from, capture_edge *edge, bool *is_change, GError **error)
{
    const bool is_real = from->word[0] == 'r' || from->word[0] == 'R';
    const char last = from->word[strlen(from->word) - 1];
    if (!next_word(from, error)) {
        return *error != NULL ? false
                              : capture_fail(from, error, "the file ends within a value; it is cut short");
    }
    *is_change = !is_real && strcmp(from->word, from->id) == 0 && take_value(from, last, edge);
    return true;
}

static capture_read next_change(capture *from, capture_edge *edge, GError **error)
{
    GError *why = NULL;
    while (next_word(from, &why)) {
        bool is_change = false;
        bool is_good = true;
        switch (from->word[0]) {
        case '#':
            is_good = take_time(from, &why);
            break;
        case '0':
        case '1':
        case 'x':
        case 'X':
        case 'z':
        case 'Z':
            if (from->word[1] == '\0') {
                is_good = capture_fail(from, &why, "'%s' without the id of a wire", from->word);
            } else if (strcmp(from->word + 1, from->id) == 0) {
                is_change = take_value(from, from->word[0], edge);
            }
            break;
        case 'b':
        case 'B':
        case 'r':
        case 'R':
            is_good = take_vector(from, edge, &is_change, &why);
            break;
        case '$':
            if (strcmp(from->word, "$comment") == 0) {
                is_good = skip_to_end(from, NULL, &why);
            }
            break;
        default:
            is_good = capture_fail(from, &why, "'%.40s' is neither a time nor a value", from->word);
        }
        if (!is_good) {
            break;
        }
        if (is_change) {
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

bool capture_open_vcd(capture *from, const char *signal, GError **error)
{
    from->next = next_change;
    from->close = close_vcd;
    from->wires = g_ptr_array_new_with_free_func(free_wire);
    from->scopes = g_ptr_array_new_with_free_func(g_free);
    if (!read_head(from, error) || !choose_wire(from, signal, error)) {
        return false;
    }
    return from->scale_fs != 0 || capture_fail(from, error, "no $timescale is given");
}
