/* What the outputs show just now, read from a rehearsal's rows. */
#ifndef DROMIKOS_LIVE_OUTPUTS_H
#define DROMIKOS_LIVE_OUTPUTS_H

#include "kinds.h"

#include <jansson.h>

typedef struct live_output {
    const char *name;
    drawing drawn_as;
    char *text; /* its state in words; NULL: it has not been said */
    double value;
    double low; /* where it has been, of what has a place */
    double high;
    uint32_t *colours; /* each 0xrrggbb */
    unsigned colour_count;
    bool is_lit; /* a sender's LED */
} live_output;

/* An array of live_output, one for each of the plan's that is drawn, to be unreferenced. */
GArray *live_outputs_new(const plan *loaded);

/* Takes what a row says of one. */
void live_outputs_take(GArray *outputs, const json_t *row);

/* Draws one in a line of the screen: its name, its state, and how it is drawn. */
void live_output_put(const live_output *output, int row, int column, int width, int name_width);

#endif
