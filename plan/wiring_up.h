/* How kinds of outputs say what is wired between their pins and their loads. Private to plan/. */
#ifndef DROMIKOS_PLAN_WIRING_UP_H
#define DROMIKOS_PLAN_WIRING_UP_H

#include "circuit.h"
#include "kinds.h"

/* An output whose circuit is made. */
struct wiring_up {
    circuit *made;
    const plan *plan;
    const board *board;
    const output_line *line;
    guint output;
};

/* What a pin is to switch. */
typedef struct switched {
    circuit_symbol symbol;
    const char *value; /* for the parts list */
    double ma;
    double start_ma;  /* 0: not more than that */
    double led_volts; /* of a LED; else 0 */
    bool has_coil;    /* so that it needs a diode */
    bool is_low_on;
    bool has_mosfet; /* else a bipolar transistor, where the current lets it */
    const char *terminal;
} switched;

/* A pin that a transistor switches a load with, of the output's supply. */
void wire_switched(wiring_up *job, unsigned pin, const switched *load);

/* A pin that carries a LED by itself. */
void wire_led(wiring_up *job, unsigned pin, const switched *load);

/* The net that feeds the load: its own supply, or what the board passes on. */
guint wire_feed(wiring_up *job);

/* A module with these legs, each of which goes to a net; a NULL name ends them. */
typedef struct module_leg {
    const char *name;
    guint net;
} module_leg;

guint wire_module(wiring_up *job, circuit_module module, const char *value, const module_leg *legs);

/* A pin that goes to a module's leg, through a resistor where `ohms` isn't 0; with one that pulls it down
 * where `is_pulled`. */
void wire_to_module(wiring_up *job, unsigned pin, guint module, unsigned leg, const char *terminal,
                    double ohms, bool is_pulled);

/* A net of the output's own. */
guint wire_net(wiring_up *job, const char *name);

guint wire_part(wiring_up *job, circuit_symbol symbol, double amount, double current, char *value, guint a,
                guint b);

/* What it takes. */
void wire_load(wiring_up *job, double ma, double start_ma, double direct_ma);

#endif
