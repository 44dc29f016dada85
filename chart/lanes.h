/* Lanes of what happened, one under the other, over one time. */
#ifndef DROMIKOS_CHART_LANES_H
#define DROMIKOS_CHART_LANES_H

#include "picture.h"

typedef enum lane_shape {
    LANE_BOXES,  /* each mark lasts for its own time, with its text in it or beside it */
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
    bool is_alert;     /* what needs the maker */
    bool is_waiting;   /* for what its text says: hatched */
    bool is_end;       /* of what it can do: a bar stands there */
    uint32_t *colours; /* taken over; NULL: none */
    unsigned colour_count;
} lane_mark;

typedef struct lane lane;
typedef struct lanes lanes;

lanes *lanes_new(void);
void lanes_free(lanes *unwanted);

/* Stands under a lane's name, the parts of a strip for one. Taken over; NULL: nothing does. */
void lane_note(lane *track, char *note);

/* A lane at the bottom. `what` is its class in SVG. */
lane *lanes_add(lanes *set, lane_shape shape, const char *what, const char *name);

/* The lane with that name; NULL: there is none. */
lane *lanes_find(const lanes *in, const char *name);

/* By their times. */
void lane_mark_add(lane *track, lane_mark mark);

/* The newest mark; NULL: there is none. */
lane_mark *lane_newest(const lane *track);

/* A thin line from a lane down to another one: what came of it. */
void lanes_thread(lanes *in, uint64_t at_us, const lane *from, const lane *target);

/* How they are drawn. */
typedef struct lanes_view {
    const char *heading; /* the answer */
    const char *below;   /* one line more */
    uint64_t from_us;
    uint64_t until_us;
    double width;   /* px */
    double height;  /* at least: more where the lanes need it, */
    bool is_fitted; /* and less where they don't need it */
    bool is_dark;
} lanes_view;

/* Where a moment is, in px from the left. */
double lanes_x(const lanes_view *view, uint64_t at_us);

picture *lanes_draw(const lanes *set, const lanes_view *view);

#endif
