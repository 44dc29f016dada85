/* The bench on one screen: its contents, and their places. */
#ifndef DROMIKOS_LIVE_PAGE_H
#define DROMIKOS_LIVE_PAGE_H

#include "live/journal.h"
#include "live/screen.h"

#include <glib.h>

/* A key of a handset, a button or a switch. */
typedef struct live_key {
    char letter; /* its letter; 0: none */
    char *name;
    bool is_down;
    bool stays_down; /* until it is pressed again */
    bool is_switch;
} live_key;

/* A condition that can be changed. */
typedef struct live_condition {
    const char *name;
    const char *value;
    bool is_plain; /* ideal */
} live_condition;

typedef struct live_page {
    const char *title;
    uint64_t now_us;
    double speed;
    bool is_paused;
    bool is_late;      /* the computer is too slow */
    const char *state; /* mode, values, timers */
    const char *reception;
    int margin; /* of the newest frame, in %; negative: none yet */
    unsigned lost_edges;
    bool is_recording;
    bool has_script; /* which presses the keys */
    bool is_helping; /* help is shown instead of the page */
    GArray *outputs; /* of live_output */
    GArray *keys;    /* of live_key */
    const live_condition *conditions;
    unsigned condition_count;
    unsigned condition; /* selected by the arrows */
    const journal *journal;
    unsigned back;         /* number of lines scrolled back from the newest */
    unsigned first_output; /* at the top */
    unsigned first_key;
} live_page;

/* Draws it; what doesn't fit is left out. */
void live_page_draw(live_page *page);

/* Returns the key or condition at a place of the screen; -1: none. */
int live_page_key_at(const live_page *page, int row, int column);
int live_page_condition_at(const live_page *page, int row, int column);

/* Returns how many keys, and lines of the journal, fit. */
unsigned live_page_keys(const live_page *page);
unsigned live_page_lines(const live_page *page);

#endif
