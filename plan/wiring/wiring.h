/* The circuit of a whole plan, and how it is written. */
#ifndef DROMIKOS_PLAN_WIRING_H
#define DROMIKOS_PLAN_WIRING_H

#include "plan/kinds/circuit.h"

/* Returns the circuit at the board's pins: the receiver, each output, buttons and switches. */
circuit *circuit_of(const plan *loaded);

/* Returns a description of the parts between a pin and its load. To be freed. */
char *circuit_between_text(const circuit *all, const circuit_stage *stage);

/* Returns the name of a net in that. To be freed. */
char *circuit_netlist_name(const circuit *all, guint net);

/* Writes a netlist for ngspice. Pins are sources; `levels` has a character per stage: 'l' low, 'h' high, 'e'
 * an edge; NULL: all pulse. To be freed. */
char *circuit_netlist(const plan *loaded, const circuit *all, const char *levels);

#endif
