/* Lists of times, as people pass them around: '9000 4500 560', '+9000 -4500', '{9000, 4500, 560}', with a
 * name before them or without. A list is short and is read whole, since its first line doesn't tell whether a
 * comma separates two times or is a decimal comma. */
#include "capture/reader.h"

#include <errno.h>
#include <math.h>
#include <string.h>

enum {
    MAX_BYTES = 4 << 20,
    GAP_US = 1000000,          /* between two lists, so that each is a press of its own */
    LEADING_SILENCE_US = 20000 /* a first time from this on is silence: marks are shorter */
};

/* White space and brackets part times; so does a comma, unless it is a decimal comma. */
#define PARTS " \t\r\n;{}[]()"

typedef struct one_time {
    double value; /* in the file's unit, above 0 */
    char sign;    /* '+', '-', or 0 */
    bool is_first_of_list;
    bool is_first_of_line;
} one_time;

static char *slurp(capture *from, const char *head, GError **error)
{
    GString *const text = g_string_new(head);
    char chunk[CAPTURE_MAX_LINE];
    size_t count = fread(chunk, 1, sizeof chunk, from->file);
    for (; count > 0 && text->len <= MAX_BYTES; count = fread(chunk, 1, sizeof chunk, from->file)) {
        g_string_append_len(text, chunk, (gssize)count);
    }
    const bool is_read = !ferror(from->file);
    if (is_read && text->len <= MAX_BYTES && strlen(text->str) == text->len) {
        return g_string_free(text, FALSE);
    }
    (void)(!is_read ? capture_fail(from, error, "can't be read: %s", g_strerror(errno))
           : text->len > MAX_BYTES
               ? capture_fail(from, error, "a list of times may have up to %d MB", MAX_BYTES >> 20)
               : capture_fail(from, error, "a byte 0; a list of times is text"));
    g_string_free(text, TRUE);
    return NULL;
}

/* Replaces comments by blanks, and the minus sign of typeset text by '-'. */
static void simplify(char *text)
{
    static const char minus[] = "\xe2\x88\x92";
    for (char *at = text; *at != '\0'; at++) {
        if (*at == '#' || (at[0] == '/' && at[1] == '/')) {
            for (; *at != '\0' && *at != '\n'; at++) {
                *at = ' ';
            }
            at -= *at == '\0';
        } else if (g_str_has_prefix(at, minus)) {
            memcpy(at, "  -", strlen("  -"));
        }
    }
}

/* True if commas are decimal: '9000,5 4500,2', or '9,024 4,51' in ms. Each is then the only one of its word,
 * and one or two digits follow it; or more where each word has one, and the number before is short. */
static bool has_decimal_commas(const char *text)
{
    enum { LONGEST_FRACTION = 2, LONGEST_MS = 3 };
    bool is_found = false;
    bool is_long = false;
    bool has_whole = false;
    for (const char *word = text + strspn(text, PARTS "+-"); *word != '\0';) {
        const size_t length = strcspn(word, PARTS "+-");
        const char *const comma = memchr(word, ',', length);
        if (comma != NULL) {
            const size_t whole = (size_t)(comma - word);
            const size_t fraction = length - whole - 1;
            if (strspn(word, "0123456789") != whole || whole == 0 || fraction == 0 ||
                strspn(comma + 1, "0123456789") != fraction ||
                (fraction > LONGEST_FRACTION && whole >= LONGEST_MS)) {
                return false;
            }
            is_found = true;
            is_long |= fraction > LONGEST_FRACTION;
        } else {
            has_whole |= g_ascii_isdigit(*word);
        }
        word += length;
        word += strspn(word, PARTS "+-");
    }
    return is_found && !(is_long && has_whole);
}

/* Skips a name before a list, up to '=', ':' or the list's bracket: 'uint16_t play[68] = {', 'play:'. */
static const char *skip_name(const char *at)
{
    const size_t length = strcspn(at, "={:\n");
    return at[length] == '\0' || at[length] == '\n' ? NULL : at + length + (at[length] != '{');
}

bool capture_is_list(const char *line)
{
    const char *at = line;
    while (at != NULL && (g_ascii_isalpha(*at) || *at == '_')) {
        at = skip_name(at);
        if (at != NULL) {
            at += strspn(at, " \t");
        }
    }
    return at != NULL && *at != '\0' && (g_ascii_isdigit(*at) || strchr("+-{[(", *at) != NULL);
}

/* Reads all times of a text; false, and the error set, at what is none. */
static bool read_times(capture *from, const char *text, GArray *times, GError **error)
{
    one_time next = {.is_first_of_list = true};
    bool is_blank = false;
    for (const char *at = text; *at != '\0';) {
        if (*at == '\n') {
            next.is_first_of_list |= is_blank;
            next.is_first_of_line = true;
            from->line++;
            is_blank = true;
            at++;
        } else if (strchr(PARTS ",", *at) != NULL) {
            next.is_first_of_list |= *at == '{' || *at == '}';
            at++;
        } else if (g_ascii_isalpha(*at) || *at == '_') {
            const char *const list = skip_name(at);
            if (list == NULL) {
                return capture_fail(from, error, "'%.*s' is no time; a list of times is like '9000 4500 560'",
                                    (int)MIN(strcspn(at, PARTS ","), 40), at);
            }
            next.is_first_of_list = true;
            at = list;
        } else {
            const size_t signs = strspn(at, "+-");
            char *end = NULL;
            next.sign = '\0';
            if (signs == 1) {
                next.sign = *at;
            }
            next.value = g_ascii_isdigit(at[signs]) ? g_ascii_strtod(at + signs, &end) : 0;
            if (signs > 1 || end == NULL || strchr(PARTS ",+-", *end) == NULL || !isfinite(next.value)) {
                return capture_fail(from, error, "'%.*s' is no time; a list of times is like '9000 4500 560'",
                                    (int)MIN(strcspn(at, PARTS ","), 40), at);
            }
            if (next.value <= 0) {
                return capture_fail(from, error,
                                    "a time of 0; a table of times and levels begins with a line like "
                                    "'t_us,receiver'");
            }
            g_array_append_val(times, next);
            next.is_first_of_list = false;
            next.is_first_of_line = false;
            is_blank = false;
            at = end;
        }
    }
    return true;
}

/* True if each line is a list: each has an odd number of times, so begins and ends with a mark, and all begin
 * alike. */
static bool has_list_on_each_line(const GArray *times)
{
    enum { FEWEST = 5 };
    const double first = times->len > 0 ? g_array_index(times, one_time, 0).value : 0;
    guint on_line = 0;
    guint lines = 1;
    for (guint i = 0; i < times->len; i++) {
        const one_time *const one = &g_array_index(times, one_time, i);
        if (i > 0 && one->is_first_of_line) {
            if (on_line % 2 == 0 || on_line < FEWEST || fabs(one->value - first) > first / 4) {
                return false;
            }
            on_line = 0;
            lines++;
        }
        on_line++;
    }
    return lines > 1 && on_line % 2 == 1 && on_line >= FEWEST;
}

static void add_run(GArray *runs, bool is_mark, uint64_t us)
{
    if (runs->len > 0 && g_array_index(runs, capture_run, runs->len - 1).is_mark == is_mark) {
        g_array_index(runs, capture_run, runs->len - 1).us += us;
    } else {
        g_array_append_val(runs, ((capture_run){.us = us, .is_mark = is_mark}));
    }
}

/* Turns times into runs. Without signs, marks and spaces take turns; with signs, no sign is a plus. */
static void make_runs(const GArray *times, double us_per_unit, bool has_signs, GArray *runs)
{
    const bool is_by_line = !has_signs && has_list_on_each_line(times);
    bool is_mark = true;
    for (guint i = 0; i < times->len; i++) {
        const one_time *const one = &g_array_index(times, one_time, i);
        const uint64_t us = (uint64_t)MAX(one->value * us_per_unit + 0.5, 1);
        const bool was_mark = is_mark;
        is_mark = has_signs ? one->sign != '-' : !is_mark;
        const bool is_next =
            i > 0 && one->is_first_of_line && (is_by_line || (has_signs && is_mark && was_mark));
        if (one->is_first_of_list || is_next) {
            add_run(runs, false, GAP_US);
            is_mark = has_signs ? is_mark : us < LEADING_SILENCE_US;
        }
        add_run(runs, is_mark, us);
    }
    add_run(runs, false, GAP_US);
}

static capture_read next_time(capture *from, capture_edge *edge, GError **error)
{
    (void)error;
    const bool is_end = from->next_run >= from->runs->len;
    *edge = (capture_edge){.at_us = from->now_us};
    if (is_end) {
        return CAPTURE_END;
    }
    const capture_run *const run = &g_array_index(from->runs, capture_run, from->next_run);
    edge->is_mark = run->is_mark;
    from->now_us += run->us;
    return from->next_run++ == 0 ? CAPTURE_TIME : CAPTURE_EDGE; /* the first is silence */
}

static void close_times(capture *from)
{
    g_array_unref(from->runs);
}

bool capture_open_times(capture *from, const char *head, GError **error)
{
    enum { LONGEST_IN_MS = 200 };
    g_autofree char *text = slurp(from, head, error);
    if (text == NULL) {
        return false;
    }
    simplify(text);
    if (has_decimal_commas(text)) {
        g_strdelimit(text, ",", '.');
    }
    g_autoptr(GArray) times = g_array_new(FALSE, FALSE, sizeof(one_time));
    if (!read_times(from, text, times, error)) {
        return false;
    }
    if (times->len == 0) {
        g_set_error(error, CAPTURE_ERROR, CAPTURE_ERROR_FILE,
                    "there are no times here; a list of times is like '9000 4500 560'");
        return false;
    }
    bool has_signs = false;
    bool has_fractions = false;
    double longest = 0;
    double total = 0;
    for (guint i = 0; i < times->len; i++) {
        const one_time *const one = &g_array_index(times, one_time, i);
        has_signs |= one->sign != '\0';
        has_fractions |= one->value != floor(one->value);
        longest = MAX(longest, one->value);
        total += one->value;
    }
    const double us_per_unit = has_fractions && longest < LONGEST_IN_MS ? 1000 : 1;
    if (total * us_per_unit + (double)times->len * GAP_US > (double)CAPTURE_LAST_US) {
        return capture_fail(from, error, "the times add up to more than 10 years");
    }
    from->runs = g_array_new(FALSE, FALSE, sizeof(capture_run));
    from->next = next_time;
    from->close = close_times;
    make_runs(times, us_per_unit, has_signs, from->runs);
    return true;
}
