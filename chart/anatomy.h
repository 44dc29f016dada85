/* Of which parts a frame consists: leader, bits with their fields, stop. Found by sending the same code with
 * one bit turned over, and looking what differs: so each protocol that can be sent has it, a maker's own too.
 */
#ifndef DROMIKOS_CHART_ANATOMY_H
#define DROMIKOS_CHART_ANATOMY_H

#include "dromikos/encode.h"

#include <glib.h>

typedef enum frame_field { FIELD_ADDRESS, FIELD_COMMAND, FIELD_TOGGLE, FIELD_CHECK } frame_field;

/* A bit, or two that are sent as one, in µs from the frame's first mark as it should be. */
typedef struct frame_cell {
    double from_us;
    double until_us;
    unsigned value;
    unsigned bits; /* 1 or 2 */
    frame_field field;
    int field_bit;    /* which bit of the field; -1: of none */
    bool is_inverted; /* it is a copy, turned over */
    bool is_copy;
    int run;         /* whose length says which bit it is; -1: its length doesn't */
    double run_us;   /* as it should be, */
    double other_us; /* and where it would be another bit */
} frame_cell;

typedef struct anatomy {
    GArray *runs;  /* of double: marks and spaces in turn, as they should be */
    GArray *cells; /* of frame_cell, by their times */
} anatomy;

anatomy anatomy_of(const drom_waveform *waveform, const drom_code *code, bool toggle);
void anatomy_clear(anatomy *unwanted);

#endif
