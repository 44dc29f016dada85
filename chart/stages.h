/* The circuit between a pin and its load, drawn. Private to the wiring sheet. */
#ifndef DROMIKOS_CHART_STAGES_H
#define DROMIKOS_CHART_STAGES_H

#include "chart/symbols.h"

#include "plan/kinds/circuit.h"

/* Its extent above its pin's height, and below. */
typedef struct stage_size {
    double above;
    double below;
} stage_size;

/* Room for the wire's name below its pin's height. */
double stage_label_y(const circuit_stage *stage);

stage_size stage_size_of(const circuit *all, const circuit_stage *stage);

/* A row of stages of one output: `y` are the heights of their pins, `bus_x` the vertical line of the load's
 * supply. Returns the highest and the lowest connection to it; equal if there is none. */
typedef struct stage_bus {
    double x;
    double top;
    double bottom;
} stage_bus;

/* `is_last`: draws the module as well, if there is one: from `first_y`, the height of its first leg. */
void stage_draw(const circuit *all, const circuit_stage *stage, const symbol_pen *pen, double y,
                stage_bus *bus, bool is_last, double first_y);

#endif
