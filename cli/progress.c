/* One line at the bottom of a terminal, which goes away before anything else is written there. */
#include "progress.h"

#include <glib.h>
#include <stdio.h>
#include <unistd.h>

static bool is_shown;
static gint64 shown_at_us; /* or, at first, when it was asked for */

bool progress_is_due(void)
{
    enum { EVERY_US = 250000, FIRST_US = 1000000 };
    const gint64 now_us = g_get_monotonic_time();
    if (!isatty(STDERR_FILENO)) {
        return false;
    }
    if (shown_at_us == 0) { /* what is over in a second needs none */
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
