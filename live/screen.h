/* A terminal that is drawn on, and restored: the only file here that uses ncurses. One at a time. */
#ifndef DROMIKOS_LIVE_SCREEN_H
#define DROMIKOS_LIVE_SCREEN_H

#include "chart/picture.h"

/* The style of a text: a colour of the pictures, and an attribute. */
typedef struct screen_style {
    picture_ink ink;
    bool is_bold;
    bool is_inverted;
} screen_style;

typedef enum screen_doing {
    SCREEN_NOTHING, /* no event */
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

/* Takes the terminal over; false, with the reason, to be freed, if that isn't possible. */
bool screen_open(bool is_light, char **why);

/* Restores it. */
void screen_close(void);

int screen_rows(void);
int screen_columns(void);

/* Waits for this time, or until there is an event. */
void screen_wait(int ms);
screen_event screen_next(void);

/* Draws from an empty screen; and shows it. */
void screen_begin(void);
void screen_show(void);

/* Writes a text; the end of one wider than `width` is replaced by "…". */
void screen_put(int row, int column, int width, screen_style style, const char *text);

/* A bar, from one share of its width to another, on a base line. */
void screen_bar(int row, int column, int width, double from, double until, picture_ink ink);

/* A mark at a share of the width, on a base line. */
void screen_place(int row, int column, int width, double at, picture_ink ink);

/* Lights, each 0xrrggbb: two per cell if they fit, else several as one. Returns the number of cells. */
int screen_pixels(int row, int column, int width, const uint32_t *rgb, unsigned count);

/* Returns the width of a text in cells. */
int screen_width_of(const char *text);

#endif
