/* The current state of the outputs, from a rehearsal's rows. */
#ifndef DROMIKOS_LIVE_OUTPUTS_H
#define DROMIKOS_LIVE_OUTPUTS_H

#include "chart/row.h"
#include "plan/language/kind.h"
#include "plan/model/plan.h"

typedef struct live_output {
    const char *name;
    drawing drawn_as;
    char *text; /* its state in words; NULL: not known yet */
    double value;
    double low; /* the range of its positions so far */
    double high;
    uint32_t *colours; /* each 0xrrggbb */
    unsigned colour_count;
    bool is_lit; /* a sender's LED */
} live_output;

/* Creates an array of live_output, one per output that is drawn, to be unreferenced. */
GArray *live_outputs_new(const plan *loaded);

/* Takes a row about an output. */
void live_outputs_take(GArray *outputs, const timeline_row *taken);

/* Draws an output in a line of the screen: name, state, and bar. */
void live_output_put(const live_output *output, int row, int column, int width, int name_width);

#endif
