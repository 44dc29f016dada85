/* How kinds of outputs describe the circuit between their pins and loads. Private to plan/. */
#ifndef DROMIKOS_PLAN_WIRES_H
#define DROMIKOS_PLAN_WIRES_H

#include "plan/kinds/circuit.h"
#include "plan/kinds/kinds.h"

/* A resistor that keeps an input off while its pin floats: weak enough for any pin, strong enough for a gate.
 */
enum { WIRE_PULL_OHMS = 10000 };

/* The output whose circuit is being made. */
struct wiring_up {
    circuit *made;
    const plan *plan;
    const board *board;
    const output_line *line;
    guint output;
};

/* The load of a pin. */
typedef struct switched {
    circuit_symbol symbol;
    const char *value; /* for the parts list */
    double ma;
    double start_ma;  /* starting current; 0: not more than that */
    double led_volts; /* of a LED; else 0 */
    bool has_coil;    /* it needs a diode */
    bool is_low_on;
    bool has_mosfet; /* else a bipolar transistor, if the current allows it */
    const char *terminal;
} switched;

/* Adds a transistor that switches a load of the output's supply by a pin. */
void wire_switched(wiring_up *job, unsigned pin, const switched *load);

/* Adds a LED that a pin drives directly. */
void wire_led(wiring_up *job, unsigned pin, const switched *load);

/* Returns the net of the load's supply: its own, or the board's. */
guint wire_feed(wiring_up *job);

/* Adds a module with these legs, each with its net; ended by a NULL name. */
typedef struct module_leg {
    const char *name;
    guint net;
} module_leg;

guint wire_module(wiring_up *job, circuit_module module, const char *value, const module_leg *legs);

/* Connects a pin to a module's leg, through a resistor if `ohms` isn't 0; with a pull-down if `is_pulled`. */
void wire_to_module(wiring_up *job, unsigned pin, guint module, unsigned leg, const char *terminal,
                    double ohms, bool is_pulled);

/* Adds a net of the output. */
guint wire_net(wiring_up *job, const char *name);

/* Adds a part with two legs, and takes its value over; or a resistor, rated for a current. */
guint wire_part(wiring_up *job, circuit_symbol symbol, double amount, double current, char *value, guint a,
                guint b);

guint wire_resistor(wiring_up *job, double ohms, double ampere, guint a, guint b);

/* Adds the currents of the load. */
void wire_load(wiring_up *job, double ma, double start_ma, double direct_ma);

#endif
