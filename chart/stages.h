/* The circuit between a pin and its load, drawn. Private to the wiring sheet. */
#ifndef DROMIKOS_CHART_STAGES_H
#define DROMIKOS_CHART_STAGES_H

#include "symbols.h"

#include "circuit.h"

/* So much it goes above its pin's height, and below. */
typedef struct stage_size {
    double above;
    double below;
} stage_size;

/* How far below its pin's height there is room for the wire's name. */
double stage_label_y(const circuit_stage *stage);

stage_size stage_size_of(const circuit *all, const circuit_stage *stage);

/* A row of stages, of one output: `y` are the heights of their pins, `bus_x` where what feeds the load goes
 * up and down. Gives the highest and the lowest point at which it is joined to that; the same where it isn't.
 */
typedef struct stage_bus {
    double x;
    double top;
    double bottom;
} stage_bus;

/* `is_last`: the module, where there is one, is drawn with it: from `first_y`, the height of its first leg.
 */
void stage_draw(const circuit *all, const circuit_stage *stage, const symbol_pen *pen, double y,
                stage_bus *bus, bool is_last, double first_y);

#endif
