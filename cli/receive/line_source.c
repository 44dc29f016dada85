/* Captures and standard input are read directly. A terminal device is a serial line, on which a firmware
 * prints runs. */
#include "cli/receive/line_source.h"

#include "cli/io/here.h"
#include "cli/io/io.h"

#include "cli/io/progress.h"

#include <errno.h>
#include <poll.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <termios.h>
#include <unistd.h>

static const struct {
    int baud;
    speed_t speed;
} speeds[] = {
    {9600, B9600}, {19200, B19200}, {38400, B38400}, {57600, B57600}, {115200, B115200}, {230400, B230400},
};

static speed_t speed_of(int baud)
{
    for (size_t i = 0; i < G_N_ELEMENTS(speeds); i++) {
        if (speeds[i].baud == baud) {
            return speeds[i].speed;
        }
    }
    return B0;
}

bool line_takes_baud(const char *verb, int baud)
{
    if (speed_of(baud) != B0) {
        return true;
    }
    complain(verb, "--baud is %d; it must be 9600, 19200, 38400, 57600, 115200 or 230400", baud);
    return false;
}

static bool set_serial(int fd, int baud)
{
    struct termios line;
    if (tcgetattr(fd, &line) != 0) {
        return false;
    }
    cfmakeraw(&line);
    line.c_cflag |= CLOCAL | CREAD;
    (void)cfsetspeed(&line, speed_of(baud));
    return tcsetattr(fd, TCSANOW, &line) == 0;
}

/* Two programs on one line would each get half of the data. */
static bool hold_line(const line_source *line)
{
    if (flock(fileno(line->file), LOCK_EX | LOCK_NB) == 0 || errno != EWOULDBLOCK) {
        return true;
    }
    explain_line(line->verb, line->path, EWOULDBLOCK);
    return false;
}

/* A chip that receives nothing still prints silence. */
static void wait_for_life(const line_source *line)
{
    enum { PATIENCE_MS = 3000 };
    struct pollfd waits = {.fd = fileno(line->file), .events = POLLIN};
    if (poll(&waits, 1, PATIENCE_MS) == 0) {
        complain(line->verb,
                 "%s: nothing comes from this line, at %d baud. Is the ear on the chip ('dromikos ear' "
                 "writes it), and "
                 "this the line of its board? Waiting",
                 line->path, line->baud);
    }
}

static int open_serial(line_source *line)
{
    if (!hold_line(line)) {
        return EXIT_FILE;
    }
    if (!set_serial(fileno(line->file), line->baud)) {
        complain(line->verb, "%s: the serial line can't be set up: %s", line->path, g_strerror(errno));
        return EXIT_FILE;
    }
    (void)setvbuf(stdout, NULL, _IOLBF, 0);
    (void)setvbuf(line->file, NULL, _IONBF, 0); /* so that nothing is left when the line is closed */
    line->is_serial = true;
    line->from = capture_open_runs(line->file);
    wait_for_life(line);
    return EXIT_DONE;
}

int line_open(line_source *opened, const char *verb, const char *path, const char *signal, bool is_idle_low,
              int baud)
{
    g_autoptr(GError) error = NULL;
    struct stat about;
    const bool is_line = stat(path, &about) == 0 && S_ISCHR(about.st_mode);
    *opened = (line_source){.verb = verb, .path = path, .baud = baud};
    opened->file = is_line ? fopen(path, "rb") : open_input(verb, path);
    if (opened->file == NULL) {
        if (is_line) {
            explain_line(verb, path, errno);
        }
        return EXIT_FILE;
    }
    opened->bytes = fstat(fileno(opened->file), &about) == 0 && S_ISREG(about.st_mode) ? about.st_size : 0;
    progress_may_stop();
    if (isatty(fileno(opened->file))) {
        return open_serial(opened);
    }
    opened->from = capture_open(opened->file, signal, is_idle_low, &error);
    if (opened->from == NULL) {
        complain(verb, "%s: %s", path, error->message);
        return error->code == CAPTURE_ERROR_CHOICE ? EXIT_WRONG : EXIT_FILE;
    }
    return EXIT_DONE;
}

void line_close(line_source *closed)
{
    progress_hide();
    capture_free(closed->from);
    close_input(closed->file);
}

capture_read line_next(line_source *from, capture_edge *edge, GError **error)
{
    enum { LOOK = 4096 };
    const capture_read read = capture_next(from->from, edge, error);
    if (progress_is_stopped()) {
        g_clear_error(error);
        return CAPTURE_END;
    }
    if (from->bytes > 0 && ++from->edges % LOOK == 0) {
        progress_share(from->path, (double)ftell(from->file) / (double)from->bytes);
    }
    return read;
}

void line_check(line_source *at)
{
    enum { ENOUGH = 5 };
    if (at->is_serial && !at->has_warned && capture_garbage(at->from) >= ENOUGH &&
        !capture_has_runs(at->from)) {
        at->has_warned = true;
        complain(at->verb,
                 "%s: what comes from this line is no runs. Is %d baud its speed (--baud), and the ear on "
                 "the chip "
                 "('dromikos ear' writes it)?",
                 at->path, at->baud);
    }
}

void line_discard(line_source *source)
{
    if (source->is_serial) {
        (void)tcflush(fileno(source->file), TCIFLUSH);
        capture_lose(source->from);
    }
}
