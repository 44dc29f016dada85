/* One line at the bottom of a terminal, removed before anything else is written there. */
#include "cli/io/progress.h"

#include <glib.h>
#include <signal.h>
#include <stdio.h>
#include <unistd.h>

static bool is_shown;
static gint64 begun_at_us; /* when the newest share was first requested */
static volatile sig_atomic_t is_stopped;
static gint64 shown_at_us; /* or, at first, when it was requested */

bool progress_is_due(void)
{
    enum { EVERY_US = 250000, FIRST_US = 1000000 };
    const gint64 now_us = g_get_monotonic_time();
    const bool is_dumb = g_strcmp0(g_getenv("TERM"), "dumb") == 0;
    if (is_dumb || !isatty(STDERR_FILENO)) {
        return false;
    }
    if (shown_at_us == 0) { /* work of less than a second needs none */
        shown_at_us = now_us + FIRST_US - EVERY_US;
    }
    return now_us - shown_at_us >= EVERY_US;
}

void progress_show(const char *text)
{
    (void)fflush(stdout);
    (void)fprintf(stderr, "\r%s\x1b[K", text);
    is_shown = true;
    shown_at_us = g_get_monotonic_time();
}

void progress_hide(void)
{
    if (is_shown) {
        (void)fputs("\r\x1b[K", stderr);
        is_shown = false;
    }
}

void progress_share(const char *what, double done)
{
    enum { SURE = 2 }; /* in % */
    const gint64 now_us = g_get_monotonic_time();
    begun_at_us = begun_at_us == 0 ? now_us : begun_at_us;
    if (!progress_is_due()) {
        return;
    }
    const double passed_s = (double)(now_us - begun_at_us) / 1e6;
    const int percent = (int)(100 * done);
    g_autofree char *left =
        percent >= SURE ? g_strdup_printf(", %.0f s to go", passed_s * (1 - done) / done) : g_strdup("");
    g_autofree char *text = g_strdup_printf("%s: %d %%%s", what, percent, left);
    progress_show(text);
}

static void stop(int signal)
{
    (void)signal;
    is_stopped = 1;
}

void progress_may_stop(void)
{
    const struct sigaction action = {.sa_handler = stop, .sa_flags = (int)SA_RESETHAND};
    (void)sigaction(SIGINT, &action, NULL);
}

bool progress_is_stopped(void)
{
    return is_stopped != 0;
}
