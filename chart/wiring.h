/* The wiring sheet of a plan: the board from above, its wires, parts and supplies, and what to check. */
#ifndef DROMIKOS_CHART_WIRING_H
#define DROMIKOS_CHART_WIRING_H

#include "chart/picture.h"
#include "plan/model/plan.h"

/* Minimum height: more if its parts need it. */
picture *wiring_draw(const plan *loaded, double width, double height, bool is_dark);

#endif
