/* Pseudo-terminals, as the system gives them. */
#define _GNU_SOURCE
#include "terminal.h"

#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

bool terminal_open(terminal_line *line)
{
    struct termios plain;
    line->near = posix_openpt(O_RDWR | O_NOCTTY);
    if (line->near < 0 || grantpt(line->near) != 0 || unlockpt(line->near) != 0 ||
        ptsname_r(line->near, line->path, sizeof line->path) != 0) {
        return false;
    }
    line->far = open(line->path, O_RDWR | O_NOCTTY);
    if (line->far < 0 || tcgetattr(line->far, &plain) != 0) {
        return false;
    }
    plain.c_lflag &= (tcflag_t)~ECHO;
    return tcsetattr(line->far, TCSANOW, &plain) == 0;
}

bool terminal_send(const terminal_line *line, const char *bytes, size_t count)
{
    size_t sent = 0;
    ssize_t some = 1;
    while (sent < count && some > 0) {
        some = write(line->near, bytes + sent, count - sent);
        sent += some > 0 ? (size_t)some : 0;
    }
    return sent == count;
}

void terminal_close(terminal_line *line)
{
    enum { LOOK_US = 200000, LOOKS = 50 };
    int unread = 1;
    for (unsigned looks = 0; unread > 0 && looks < LOOKS; looks++) {
        (void)usleep(LOOK_US); /* some bytes may still be on their way */
        unread = 0;
        (void)ioctl(line->far, FIONREAD, &unread);
    }
    (void)close(line->far);
    (void)close(line->near);
}

void terminal_start(terminal_program *started, const char *out, char *const *words)
{
    int said[2];
    *started = (terminal_program){.pid = -1};
    if (pipe(said) != 0 || !terminal_open(&started->keys)) {
        abort();
    }
    started->shown = said[0];
    started->pid = fork();
    if (started->pid == 0) {
        const int file = open(out, O_WRONLY | O_CREAT | O_TRUNC, 0666);
        (void)dup2(started->keys.far, STDIN_FILENO);
        (void)dup2(file, STDOUT_FILENO);
        (void)dup2(said[1], STDERR_FILENO);
        for (int i = 3; i < 100; i++) {
            (void)close(i);
        }
        (void)execv(words[0], words);
        _exit(127);
    }
    (void)close(said[1]);
}

bool terminal_has_said(terminal_program *from, const char *words)
{
    struct pollfd waits = {.fd = from->shown, .events = POLLIN};
    const size_t length = strlen(from->words);
    if (poll(&waits, 1, 0) > 0 && length < sizeof from->words - 1) {
        const ssize_t count = read(from->shown, from->words + length, sizeof from->words - 1 - length);
        from->words[length + (size_t)(count > 0 ? count : 0)] = '\0';
    }
    const char *const found = strstr(from->words + from->at, words);
    if (found != NULL) {
        from->at = (size_t)(found - from->words) + strlen(words);
    }
    return found != NULL;
}

bool terminal_wait(terminal_program *from, const char *words)
{
    for (unsigned ms = 0; ms < 60000; ms += 5) {
        if (terminal_has_said(from, words)) {
            return true;
        }
        (void)usleep(5000);
    }
    return false;
}

void terminal_type(const terminal_program *at, const char *line)
{
    (void)terminal_send(&at->keys, line, strlen(line));
    (void)terminal_send(&at->keys, "\n", 1);
}

int terminal_end(terminal_program *ended, bool is_killed)
{
    int status = 0;
    if (is_killed) {
        (void)kill(ended->pid, SIGTERM);
    }
    (void)waitpid(ended->pid, &status, 0);
    (void)close(ended->keys.near);
    (void)close(ended->keys.far);
    (void)close(ended->shown);
    return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}
