/* The terminal's screen, by libvterm. */
#define _GNU_SOURCE
#include "shown.h"

#include <errno.h>
#include <poll.h>
#include <pty.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <sys/wait.h>
#include <unistd.h>
#include <utmp.h>

enum { LOOK_MS = 20, PATIENCE_MS = 60000 };

void shown_start(shown *at, int rows, int columns, char *const *environment, char *const *words)
{
    const struct winsize size = {.ws_row = (unsigned short)rows, .ws_col = (unsigned short)columns};
    *at = (shown){.rows = rows, .columns = columns, .bytes = g_string_new(NULL)};
    at->terminal = vterm_new(rows, columns);
    vterm_set_utf8(at->terminal, 1);
    VTermScreen *const screen = vterm_obtain_screen(at->terminal);
    vterm_screen_enable_altscreen(screen, 1);
    vterm_screen_reset(screen, 1);
    int program_end = -1;
    if (openpty(&at->line, &program_end, NULL, NULL, &size) != 0) {
        abort();
    }
    (void)tcgetattr(program_end, &at->before);
    at->pid = fork();
    if (at->pid == 0) {
        (void)close(at->line);
        (void)login_tty(program_end);
        for (; *environment != NULL; environment++) {
            (void)putenv(*environment);
        }
        (void)execv(words[0], words);
        _exit(127);
    }
    (void)close(program_end);
}

/* Takes what the program has written, a piece at a time, so that a slow test sees each screen; false when the
 * program has ended. */
static bool take(shown *at, int ms)
{
    char bytes[512];
    struct pollfd waits = {.fd = at->line, .events = POLLIN};
    if (poll(&waits, 1, ms) <= 0) {
        return true;
    }
    const ssize_t count = read(at->line, bytes, sizeof bytes);
    if (count <= 0) {
        return count < 0 && errno == EINTR;
    }
    (void)vterm_input_write(at->terminal, bytes, (size_t)count);
    (void)g_string_append_len(at->bytes, bytes, count);
    (void)tcgetattr(at->line, &at->after);
    return true;
}

void shown_type(shown *at, const char *keys)
{
    const ssize_t written = write(at->line, keys, strlen(keys));
    (void)written;
}

void shown_resize(shown *at, int rows, int columns)
{
    const struct winsize size = {.ws_row = (unsigned short)rows, .ws_col = (unsigned short)columns};
    at->rows = rows;
    at->columns = columns;
    vterm_set_size(at->terminal, rows, columns);
    (void)ioctl(at->line, TIOCSWINSZ, &size);
}

static VTermScreenCell cell_at(shown *at, int row, int column)
{
    VTermScreenCell cell;
    (void)vterm_screen_get_cell(vterm_obtain_screen(at->terminal), (VTermPos){row, column}, &cell);
    return cell;
}

static uint32_t rgb_of(shown *at, VTermColor colour)
{
    vterm_screen_convert_color_to_rgb(vterm_obtain_screen(at->terminal), &colour);
    return (uint32_t)colour.rgb.red << 16 | (uint32_t)colour.rgb.green << 8 | colour.rgb.blue;
}

uint32_t shown_colour(shown *at, int row, int column)
{
    return rgb_of(at, cell_at(at, row, column).fg);
}

uint32_t shown_ground(shown *at, int row, int column)
{
    return rgb_of(at, cell_at(at, row, column).bg);
}

char *shown_row(shown *at, int row)
{
    GString *const text = g_string_new(NULL);
    for (int column = 0; column < at->columns; column++) {
        const VTermScreenCell cell = cell_at(at, row, column);
        for (int i = 0; i < VTERM_MAX_CHARS_PER_CELL && cell.chars[i] != 0; i++) {
            if (cell.chars[i] != UINT32_MAX) { /* the second half of a wide one */
                g_string_append_unichar(text, cell.chars[i]);
            }
        }
        if (cell.chars[0] == 0) {
            g_string_append_c(text, ' ');
        }
    }
    return g_strchomp(g_string_free(text, FALSE));
}

char *shown_all(shown *at)
{
    GString *const text = g_string_new(NULL);
    for (int row = 0; row < at->rows; row++) {
        g_autofree char *line = shown_row(at, row);
        g_string_append_printf(text, "%s\n", line);
    }
    return g_string_free(text, FALSE);
}

int shown_wait(shown *at, const char *text)
{
    bool goes_on = true;
    for (unsigned ms = 0; goes_on && ms < PATIENCE_MS; ms += LOOK_MS) {
        goes_on = take(at, LOOK_MS);
        for (int row = 0; row < at->rows; row++) {
            g_autofree char *line = shown_row(at, row);
            if (strstr(line, text) != NULL) {
                return row;
            }
        }
    }
    return -1;
}

bool shown_wait_bytes(shown *at, const char *bytes)
{
    bool goes_on = true;
    for (unsigned ms = 0; goes_on && ms < PATIENCE_MS && strstr(at->bytes->str, bytes) == NULL;
         ms += LOOK_MS) {
        goes_on = take(at, LOOK_MS);
    }
    return strstr(at->bytes->str, bytes) != NULL;
}

int shown_end(shown *at)
{
    int status = 0;
    pid_t ended = 0;
    for (unsigned ms = 0; ended == 0 && ms < PATIENCE_MS; ms += LOOK_MS) {
        if (!take(at, LOOK_MS)) {
            (void)usleep(LOOK_MS * 1000);
        }
        ended = waitpid(at->pid, &status, WNOHANG);
    }
    if (ended == 0) { /* the program hangs */
        (void)kill(at->pid, SIGKILL);
        (void)waitpid(at->pid, &status, 0);
    }
    (void)tcgetattr(at->line, &at->after);
    struct pollfd waits = {.fd = at->line, .events = POLLIN};
    while (poll(&waits, 1, 0) > 0 && take(at, 0)) { /* its newest output */
    }
    return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
}

void shown_free(shown *at)
{
    (void)close(at->line);
    vterm_free(at->terminal);
    g_string_free(at->bytes, TRUE);
}
