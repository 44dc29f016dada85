/* A terminal that is drawn on, and left as it was: the only file here that knows how. One at a time. */
#ifndef DROMIKOS_LIVE_SCREEN_H
#define DROMIKOS_LIVE_SCREEN_H

#include "picture.h"

/* How a text is written: in a colour of the pictures, and with more than a colour. */
typedef struct screen_style {
    picture_ink ink;
    bool is_bold;
    bool is_inverted;
} screen_style;

typedef enum screen_doing {
    SCREEN_NOTHING, /* there is no more */
    SCREEN_TYPED,   /* `letter` */
    SCREEN_LEFT,
    SCREEN_RIGHT,
    SCREEN_UP,
    SCREEN_DOWN,
    SCREEN_PAGE_UP,
    SCREEN_PAGE_DOWN,
    SCREEN_HOME,
    SCREEN_END,
    SCREEN_MOUSE_DOWN, /* at row and column */
    SCREEN_MOUSE_UP,
    SCREEN_LEAVE, /* Escape, F10, a signal, or the terminal has gone */
    SCREEN_OTHER
} screen_doing;

typedef struct screen_event {
    screen_doing doing;
    uint32_t letter; /* Unicode */
    int row;
    int column;
} screen_event;

/* Takes the terminal over; false, and why, where that can't be: to be freed. */
bool screen_open(bool is_light, char **why);

/* Gives it back. */
void screen_close(void);

int screen_rows(void);
int screen_columns(void);

/* Waits for so long, or until there is an event. */
void screen_wait(int ms);
screen_event screen_next(void);

/* Draws anew, from an empty screen, and shows it. */
void screen_begin(void);
void screen_show(void);

/* Writes a text; what is wider than `width` loses its end to "…". */
void screen_put(int row, int column, int width, screen_style style, const char *text);

/* A bar, filled from one share of its width to another, on a base line. */
void screen_bar(int row, int column, int width, double from, double until, picture_ink ink);

/* A mark at a share of the width, on a base line. */
void screen_place(int row, int column, int width, double at, picture_ink ink);

/* Lights, each 0xrrggbb: two in a cell where they fit so, else several as one. So many cells were needed. */
int screen_pixels(int row, int column, int width, const uint32_t *rgb, unsigned count);

/* So many cells a text takes. */
int screen_width_of(const char *text);

#endif
