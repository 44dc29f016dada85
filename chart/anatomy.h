/* The parts of a frame: leader, bits with their fields, stop. Found by sending the same code with one bit
 * inverted, and comparing: so each protocol that can be sent has them, a declared one as well. */
#ifndef DROMIKOS_CHART_ANATOMY_H
#define DROMIKOS_CHART_ANATOMY_H

#include "dromikos/encode.h"

#include <glib.h>

typedef enum frame_field { FIELD_ADDRESS, FIELD_COMMAND, FIELD_TOGGLE, FIELD_CHECK } frame_field;

/* A bit, or two that are sent as one, in µs from the nominal start of the frame. */
typedef struct frame_cell {
    double from_us;
    double until_us;
    unsigned value;
    unsigned bits; /* 1 or 2 */
    frame_field field;
    int field_bit;    /* bit of the field; -1: none */
    bool is_inverted; /* an inverted copy */
    bool is_copy;
    int run;         /* the interval whose length decides the bit; -1: none */
    double run_us;   /* its nominal length */
    double other_us; /* and the length at which it would be another bit */
} frame_cell;

typedef struct anatomy {
    GArray *runs;  /* of double: nominal marks and spaces, alternating */
    GArray *cells; /* of frame_cell, in order of time */
} anatomy;

anatomy anatomy_of(const drom_waveform *waveform, const drom_code *code, bool toggle);
void anatomy_clear(anatomy *unwanted);

#endif
