/* The contents of a lane, and how lane_shapes.c draws it. Private to these two. */
#ifndef DROMIKOS_CHART_LANE_SHAPES_H
#define DROMIKOS_CHART_LANE_SHAPES_H

#include "chart/lanes.h"

enum { LANE_LEFT = 168, /* names end here, and the time axis begins */ LANE_RIGHT = 20 };

struct lane {
    lane_shape shape;
    char *what;
    char *name;
    char *note; /* NULL: none */
    GArray *marks;
    guint row;
};

/* A lane with its place, and the end of its labels. */
typedef struct pen {
    const lanes_view *view;
    picture *canvas;
    double top;
    double height;
    double free_from; /* labels may begin here */
    guint labels;
    guint unlabelled;
} pen;

/* True if any of that time is visible. */
bool lanes_have(const lanes_view *view, uint64_t from_us, uint64_t until_us);

/* Draws it, with its name. */
void lane_draw(pen *with, const lane *track);

#endif
