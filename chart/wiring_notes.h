/* The text of a wiring sheet above and below its drawing. Private to wiring.c and wiring_notes.c. */
#ifndef DROMIKOS_CHART_WIRING_NOTES_H
#define DROMIKOS_CHART_WIRING_NOTES_H

#include "chart/picture.h"

#include "plan/kinds/circuit.h"
#include "plan/vet/vet.h"

enum { MARGIN = 20, ROW_PX = 18 /* of text */, INSET_PX = 8 /* of the texts in a box */ };

typedef struct wiring_notes {
    picture *sheet;
    const plan *plan;
    const circuit *all;
    const vet_result *vet;
    double width;
} wiring_notes;

/* Supplies and warnings, before the wiring. Returns its end. */
double wiring_notes_supplies(const wiring_notes *notes, double y);

/* The parts, a row per thing, and below them what to check. Returns its end. */
double wiring_notes_parts(const wiring_notes *notes, double y);

#endif
