/* The bench on one screen: what it is told, and where things stand on it. */
#ifndef DROMIKOS_LIVE_PAGE_H
#define DROMIKOS_LIVE_PAGE_H

#include "journal.h"
#include "screen.h"

#include <glib.h>

/* A key of a handset, a button or a switch. */
typedef struct live_key {
    char letter; /* that presses it; 0: none does */
    char *name;
    bool is_down;
    bool stays_down; /* until it is pressed again */
    bool is_switch;
} live_key;

/* What can be turned up and down. */
typedef struct live_knob {
    const char *name;
    const char *value;
    bool is_plain; /* it is as in an ideal room */
} live_knob;

typedef struct live_page {
    const char *title;
    uint64_t now_us;
    double speed;
    bool is_paused;
    bool is_late;      /* the computer doesn't keep up */
    const char *state; /* mode, values, timers */
    const char *reception;
    int margin; /* of the newest frame, in %; below 0: there was none yet */
    unsigned lost_edges;
    bool is_recording;
    bool has_script; /* which presses the keys */
    bool is_helping; /* what the keys do stands in the place of all else */
    GArray *outputs; /* of live_output */
    GArray *keys;    /* of live_key */
    const live_knob *knobs;
    unsigned knob_count;
    unsigned knob; /* that the arrows turn */
    const journal *journal;
    unsigned back;         /* so many lines of it from the newest */
    unsigned first_output; /* at the top */
    unsigned first_key;
} live_page;

/* Draws it; what would be out of the screen is left out. */
void live_page_draw(live_page *page);

/* What lies at a place of the screen, as it was drawn last: the number of a key, of a knob; -1: none. */
int live_page_key_at(const live_page *page, int row, int column);
int live_page_knob_at(const live_page *page, int row, int column);

/* How many keys and lines of the journal fit. */
unsigned live_page_keys(const live_page *page);
unsigned live_page_lines(const live_page *page);

#endif
