/* Standard output, its errors, and how things are written on it. */
#include "cli/io/io.h"

#include "cli/io/progress.h"
#include "plan/text/plain.h"

#include <errno.h>
#include <string.h>
#include <unistd.h>

FILE *open_input(const char *verb, const char *path)
{
    FILE *const file = strcmp(path, "-") == 0 ? stdin : fopen(path, "rb");
    if (file == NULL) {
        complain(verb, "%s: can't be read: %s", path, g_strerror(errno));
    }
    return file;
}

void close_input(FILE *file)
{
    if (file != NULL && file != stdin) {
        (void)fclose(file);
    }
}

bool output_is_good(void)
{
    return ferror(stdout) == 0;
}

int finish(const char *verb, int code)
{
    static int failure; /* of the write that failed, possibly an earlier one */
    errno = 0;
    if (fflush(stdout) == 0 && output_is_good()) {
        return code;
    }
    failure = errno != 0 ? errno : EPIPE;
    if (failure == EPIPE) {
        return EXIT_FILE; /* the reader has ended, and needs no message */
    }
    (void)fprintf(stderr, "dromikos %s: standard output can't be written: %s\n", verb, g_strerror(failure));
    return EXIT_FILE;
}

static void put_plain(FILE *out, const char *format, va_list arguments)
{
    g_autofree char *text = g_strdup_vprintf(format, arguments);
    g_autofree char *plain = plain_text(text);
    (void)fputs(plain, out);
}

void put_text(const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    put_plain(stdout, format, arguments);
    va_end(arguments);
}

void put_note(const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    put_plain(stderr, format, arguments);
    va_end(arguments);
}

void put_toned(tone how, const char *text)
{
    static const char *const starts[] = {"", "\x1b[1m", "\x1b[2m"};
    const char *const no_color = g_getenv("NO_COLOR");
    const bool is_plain =
        (no_color != NULL && no_color[0] != '\0') || g_strcmp0(g_getenv("TERM"), "dumb") == 0;
    if (how == TONE_PLAIN || is_plain || !isatty(STDOUT_FILENO)) {
        put_text("%s", text);
    } else {
        (void)fputs(starts[how], stdout);
        put_text("%s", text);
        (void)fputs("\x1b[0m", stdout);
    }
}

/* "12.345 s", right-aligned in 11 columns, or longer. */
static void put_time(uint64_t at_us)
{
    g_autofree char *text =
        g_strdup_printf("%5" G_GUINT64_FORMAT ".%03u s  ", at_us / 1000000, (unsigned)(at_us / 1000 % 1000));
    put_toned(TONE_FAINT, text);
}

static void put_more(row_writer *rows)
{
    if (rows->more == 0) {
        return;
    }
    const unsigned each_ms = (unsigned)((rows->more_until_us - rows->last_us) / 1000 / rows->more);
    put_time(rows->more_until_us);
    if (rows->repeating->len == 1) {
        (void)printf("... %u more like this, one each %u ms\n", rows->more, each_ms);
    } else {
        (void)printf("... %u more like the last %u\n", rows->more, rows->repeating->len);
    }
    rows->more = 0;
}

void put_row(row_writer *rows, uint64_t at_us, const char *text, tone how, bool may_repeat)
{
    if (rows->repeating == NULL) {
        rows->repeating = g_ptr_array_new_with_free_func(g_free);
    }
    if (may_repeat && g_ptr_array_find_with_equal_func(rows->repeating, text, g_str_equal, NULL)) {
        rows->more++;
        rows->more_until_us = at_us;
        return;
    }
    progress_hide();
    put_more(rows);
    put_time(at_us);
    rows->last_us = at_us;
    put_toned(how, text);
    (void)putchar('\n');
    if (may_repeat) {
        g_ptr_array_add(rows->repeating, g_strdup(text));
    } else {
        g_ptr_array_set_size(rows->repeating, 0);
    }
}

void end_rows(row_writer *rows)
{
    progress_hide();
    put_more(rows);
    g_clear_pointer(&rows->repeating, g_ptr_array_unref);
}

char *code_text(const drom_protocol *protocol, const drom_code *code)
{
    return g_strdup_printf("%s  %u (0x%02x)  %u (0x%02x)", protocol->id, code->address, code->address,
                           code->command, code->command);
}

/* JSON leaves some control characters, which a terminal would obey. */
void put_json(json_t *object)
{
    enum { DELETE = 0x7f, LAST_CONTROL = 0x9f };
    g_autofree char *line = json_dumps(object, JSON_COMPACT | JSON_REAL_PRECISION(9));
    GString *const shown = g_string_new(NULL);
    for (const char *at = line; at != NULL && *at != '\0'; at = g_utf8_next_char(at)) {
        const gunichar sign = g_utf8_get_char(at);
        if (sign >= DELETE && sign <= LAST_CONTROL) {
            g_string_append_printf(shown, "\\u%04x", sign);
        } else {
            g_string_append_unichar(shown, sign);
        }
    }
    progress_hide();
    (void)fprintf(stdout, "%s\n", shown->str);
    g_string_free(shown, TRUE);
    json_decref(object);
}
