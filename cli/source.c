/* Captures and standard input are read as they are. A terminal device is a serial line, on which a firmware
 * prints runs. */
#include "source.h"

#include "cli.h"

#include <errno.h>
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

bool source_has_baud(int baud)
{
    return speed_of(baud) != B0;
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

int source_open(line_source *opened, const char *verb, const char *path, const char *signal, bool is_idle_low,
                int baud)
{
    g_autoptr(GError) error = NULL;
    opened->file = open_input(verb, path);
    if (opened->file == NULL) {
        return EXIT_FILE;
    }
    const int fd = fileno(opened->file);
    if (isatty(fd)) {
        if (!set_serial(fd, baud)) {
            complain(verb, "%s: the serial line can't be set up: %s", path, g_strerror(errno));
            return EXIT_FILE;
        }
        (void)setvbuf(stdout, NULL, _IOLBF, 0);
        opened->from = capture_open_runs(opened->file);
        return EXIT_DONE;
    }
    opened->from = capture_open(opened->file, signal, is_idle_low, &error);
    if (opened->from == NULL) {
        complain(verb, "%s: %s", path, error->message);
        return error->code == CAPTURE_ERROR_CHOICE ? EXIT_WRONG : EXIT_FILE;
    }
    return EXIT_DONE;
}

void source_close(line_source *closed)
{
    capture_free(closed->from);
    close_input(closed->file);
}
