/* Lanes of events, one below the other, over a common time axis. */
#ifndef DROMIKOS_CHART_LANES_H
#define DROMIKOS_CHART_LANES_H

#include "chart/picture.h"

typedef enum lane_shape {
    LANE_BOXES,  /* each mark has its own duration, with its text in it or beside it */
    LANE_WORDS,  /* each mark is a state up to the next one, with its text */
    LANE_LEVELS, /* on (1) as a filled bar, off as a base line */
    LANE_LEVEL,  /* 0 to 1 */
    LANE_SIGNED, /* -1 to 1, around a zero line */
    LANE_PLACE,  /* any numbers */
    LANE_COLOURS /* pixels, the first at the top */
} lane_shape;

typedef struct lane_mark {
    uint64_t at_us;
    uint64_t until_us; /* of a box */
    double value;
    char *text; /* taken over; NULL: none */
    picture_ink ink;
    bool is_alert;     /* a warning */
    bool is_waiting;   /* waiting, as its text says: hatched */
    bool is_end;       /* at a limit: drawn with a bar */
    uint32_t *colours; /* taken over; NULL: none */
    unsigned colour_count;
} lane_mark;

typedef struct lane lane;
typedef struct lanes lanes;

lanes *lanes_new(void);
void lanes_free(lanes *unwanted);

/* A text below a lane's name, such as the parts of a strip. Taken over; NULL: none. */
void lane_note(lane *track, char *note);

/* Adds a lane at the bottom. `what` is its class in SVG. */
lane *lanes_add(lanes *set, lane_shape shape, const char *what, const char *name);

/* Returns the lane with that name; NULL: none. */
lane *lanes_find(const lanes *in, const char *name);

/* By their times. */
void lane_mark_add(lane *track, lane_mark mark);

/* Returns the newest mark; NULL: none. */
lane_mark *lane_newest(const lane *track);

/* A thin line from a lane down to another one: an effect. */
void lanes_thread(lanes *in, uint64_t at_us, const lane *from, const lane *target);

/* How they are drawn. */
typedef struct lanes_view {
    const char *heading; /* the result */
    const char *below;   /* an additional line */
    uint64_t from_us;
    uint64_t until_us;
    double width;   /* px */
    double height;  /* at least: more if the lanes need it */
    bool is_fitted; /* and less if they don't */
    bool is_dark;
} lanes_view;

/* Returns the position of a time, in px from the left. */
double lanes_x(const lanes_view *view, uint64_t at_us);

picture *lanes_draw(const lanes *set, const lanes_view *view);

#endif
