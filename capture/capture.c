/* Detects the format of a capture; and what its readers share. */
#include "capture/reader.h"

GQuark capture_error_quark(void)
{
    return g_quark_from_static_string("dromikos-capture-error");
}

bool capture_fail(const capture *from, GError **error, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_autofree char *text = g_strdup_vprintf(format, arguments);
    va_end(arguments);
    g_set_error(error, CAPTURE_ERROR, CAPTURE_ERROR_FILE, "line %" G_GUINT64_FORMAT ": %s", from->line, text);
    return false;
}

bool capture_take_level(capture *from, bool is_high, capture_edge *edge)
{
    const bool is_mark = is_high == from->is_idle_low;
    const bool is_change = is_mark != from->is_mark;
    from->is_mark = is_mark;
    *edge = (capture_edge){.at_us = from->now_us, .is_mark = is_mark};
    return is_change;
}

static capture *capture_new(FILE *file)
{
    capture *const from = g_new0(capture, 1);
    from->file = file;
    from->line = 1;
    return from;
}

/* White space before the first word belongs to no format. */
static int first_byte(capture *from)
{
    int byte = getc(from->file);
    while (byte == ' ' || byte == '\n' || byte == '\r' || byte == '\t') {
        from->line += byte == '\n';
        byte = getc(from->file);
    }
    if (byte != EOF) {
        (void)ungetc(byte, from->file);
    }
    return byte;
}

bool capture_begins(const char *head)
{
    static const char byte_order_mark[] = "\xef\xbb\xbf";
    const char *at = g_str_has_prefix(head, byte_order_mark) ? head + strlen(byte_order_mark) : head;
    at += strspn(at, " \t\r\n");
    while (*at == '#') { /* a comment, possibly of a plan */
        at += strcspn(at, "\n");
        at += strspn(at, " \t\r\n");
    }
    if (*at == '\0' || strchr("$^_?", *at) != NULL || capture_is_list(at)) {
        return *at != '\0';
    }
    at += *at == '"';
    g_autofree char *name = g_strndup(at, strcspn(at, ",;\t\"\r\n"));
    return capture_unit_of(g_strstrip(name)) > 0;
}

capture *capture_open(FILE *file, const char *signal, bool is_idle_low, GError **error)
{
    capture *const from = capture_new(file);
    const int byte = first_byte(from);
    GError *why = NULL;
    bool is_good = true;
    from->is_idle_low = is_idle_low;
    if (byte == '^' || byte == '_' || byte == '?') {
        capture_free(from);
        return capture_open_runs(file);
    }
    if (byte == '#' || byte == '"' || byte == 0xef || g_ascii_isalpha(byte)) {
        is_good = capture_open_csv(from, signal, &why);
    } else if (byte != EOF && capture_is_list((const char[]){(char)byte, '\0'})) {
        is_good = capture_open_times(from, "", &why);
    } else {
        is_good = capture_open_vcd(from, signal, &why);
    }
    if (!is_good) {
        g_propagate_error(error, why);
        capture_free(from);
        return NULL;
    }
    return from;
}

void capture_free(capture *unwanted)
{
    if (unwanted != NULL && unwanted->close != NULL) {
        unwanted->close(unwanted);
    }
    g_free(unwanted);
}

unsigned capture_garbage(const capture *from)
{
    return from->garbage;
}

bool capture_has_runs(const capture *from)
{
    return from->has_runs;
}

void capture_lose(capture *from)
{
    from->has_lost = true;
    from->is_torn = true;
}

capture_read capture_next(capture *from, capture_edge *edge, GError **error)
{
    return from->next(from, edge, error);
}

/* Reads a run: '^' or '_' and its length. False if there is none. */
static bool read_run(capture *from, uint64_t *us)
{
    enum { MAX_DIGITS = 10 };
    int digits = 0;
    int byte = getc(from->file);
    *us = 0;
    for (; g_ascii_isdigit(byte) && digits < MAX_DIGITS; digits++) {
        *us = *us * 10 + (uint64_t)(byte - '0');
        byte = getc(from->file);
    }
    if (byte != EOF) {
        (void)ungetc(byte, from->file);
    }
    return digits > 0 && !g_ascii_isdigit(byte);
}

/* A line with anything but runs and white space is skipped, and its edges are lost. At a wrong speed there
 * may be no line ends at all. */
static void skip_line(capture *from)
{
    enum { MAX_READ = 200 };
    int byte = getc(from->file);
    for (int i = 0; i < MAX_READ && byte != EOF && byte != '\n'; i++) {
        byte = getc(from->file);
    }
    from->line++;
    from->garbage++;
    from->has_lost = true;
}

/* A run with the level of the one before continues it: silence is printed in parts. */
static capture_read next_run(capture *from, capture_edge *edge, GError **error)
{
    enum { LONG_US = 20000 };
    if (from->has_more_time) { /* a long silence: on a live line its length so far is reported */
        from->has_more_time = false;
        *edge = (capture_edge){.at_us = from->now_us};
        return CAPTURE_TIME;
    }
    int byte = getc(from->file);
    uint64_t us = 0;
    for (; byte != EOF; byte = getc(from->file)) {
        if (byte == '\n' || byte == '\r' || byte == ' ') {
            from->line += byte == '\n';
        } else if (byte == '?' || (from->is_torn && g_ascii_isdigit(byte))) {
            from->has_lost = true;
        } else if ((byte == '^' || byte == '_') && read_run(from, &us)) {
            const bool is_mark = byte == '^';
            const bool is_change = is_mark != from->is_mark || from->has_lost;
            *edge = (capture_edge){.at_us = from->now_us, .is_mark = is_mark, .after_loss = from->has_lost};
            from->now_us += us;
            from->is_mark = is_mark;
            from->has_runs = true;
            from->is_torn = false;
            if (from->now_us > CAPTURE_LAST_US) {
                (void)capture_fail(from, error, "the runs add up to more than 10 years");
                return CAPTURE_FAULT;
            }
            if (!is_change) {
                edge->at_us = from->now_us;
            }
            from->has_more_time = is_change && !is_mark && us >= LONG_US;
            from->has_lost = false;
            return is_change ? CAPTURE_EDGE : CAPTURE_TIME;
        } else {
            skip_line(from);
            *edge = (capture_edge){.at_us = from->now_us};
            return CAPTURE_TIME; /* the time passes */
        }
    }
    *edge = (capture_edge){.at_us = from->now_us, .is_mark = false};
    return CAPTURE_END;
}

capture *capture_open_runs(FILE *file)
{
    capture *const from = capture_new(file);
    from->next = next_run;
    return from;
}
