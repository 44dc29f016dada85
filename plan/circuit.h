/* What lies between each pin of a board and its load, as parts with legs, and the nets that join them. The
 * wiring sheet is drawn from it, vet takes its currents from it, and it can be written as a SPICE netlist. */
#ifndef DROMIKOS_PLAN_CIRCUIT_H
#define DROMIKOS_PLAN_CIRCUIT_H

#include "plan.h"

typedef enum circuit_symbol {
    SYMBOL_RESISTOR,
    SYMBOL_CAPACITOR, /* + and - */
    SYMBOL_DIODE,     /* anode and cathode */
    SYMBOL_LED,       /* likewise */
    SYMBOL_NPN,       /* base, collector, emitter */
    SYMBOL_PNP,
    SYMBOL_NMOS, /* gate, drain, source */
    SYMBOL_COIL,
    SYMBOL_MOTOR,
    SYMBOL_LAMP,
    SYMBOL_CONTACT,
    SYMBOL_MODULE /* a board or a device with named legs */
} circuit_symbol;

typedef enum circuit_module {
    MODULE_NONE,
    MODULE_RELAY_BOARD,
    MODULE_BRIDGE,
    MODULE_SERVO,
    MODULE_STRIP,
    MODULE_RECEIVER,
    MODULE_BUFFER, /* TTL inputs: high is 2 V or more */
} circuit_module;

enum { CIRCUIT_LEGS = 8 };

typedef struct circuit_part {
    circuit_symbol symbol;
    circuit_module module;
    char *id;                 /* "R1" */
    char *value;              /* "1 kΩ", "NPN, 40 V 0.5 A" */
    char *note;               /* what else the parts list says of it; NULL: nothing */
    guint output;             /* the row of its output; CIRCUIT_NO_OUTPUT: it belongs to none */
    double amount;            /* Ω, F; of a LED its V, of a load its Ω */
    double current;           /* A: what a load or a LED takes, what a diode or transistor is chosen for */
    guint legs[CIRCUIT_LEGS]; /* nets */
    const char *names[CIRCUIT_LEGS]; /* of a module's legs */
    unsigned leg_count;
} circuit_part;

#define CIRCUIT_NO_OUTPUT G_MAXUINT

typedef enum circuit_role { NET_SIGNAL, NET_SUPPLY, NET_GROUND } circuit_role;

typedef struct circuit_net {
    char *name; /* "pin 7", "+12 V of gate" */
    circuit_role role;
    double volts;    /* of a supply */
    bool is_boards;  /* a supply that a pin of the board is, of this name */
    unsigned max_ma; /* of a supply of the load's own; 0: it is the board's */
} circuit_net;

/* How a pin comes to its load. */
typedef enum circuit_form {
    FORM_LED,       /* resistor and LED, to ground */
    FORM_LED_LOW,   /* from the pins' own supply, through both, to the pin */
    FORM_LOW_SIDE,  /* a transistor between load and ground */
    FORM_HIGH_SIDE, /* a PNP transistor between supply and load */
    FORM_INVERTED,  /* low is on: one transistor turns the other off */
    FORM_MODULE,    /* a leg of a board or a device */
    FORM_CONTACT,   /* to ground */
    FORM_RECEIVER
} circuit_form;

/* The parts of a form. */
typedef enum circuit_place {
    PLACE_SERIES, /* at the pin */
    PLACE_PULL,   /* holds the switch off while the pin floats */
    PLACE_SWITCH,
    PLACE_BEFORE, /* the transistor that turns it off, with the same of its own */
    PLACE_BEFORE_SERIES,
    PLACE_BEFORE_PULL,
    PLACE_LOAD,
    PLACE_LIMIT, /* of a LED */
    PLACE_DIODE,
    PLACE_MODULE,
    PLACE_BUFFER,
    PLACE_CAPACITOR,
    CIRCUIT_PLACES
} circuit_place;

/* A pin, and what comes of it. */
typedef struct circuit_stage {
    circuit_form form;
    const char *pin;
    char *owner;          /* "curtain", "side.ring", "receiver" */
    const char *kind;     /* of its owner, for people */
    const char *terminal; /* of the owner: "forward" */
    guint output;         /* its row; CIRCUIT_NO_OUTPUT: it is no output's */
    guint pin_net;
    guint feed;                  /* the net that feeds the load */
    guint leg;                   /* of the module */
    guint parts[CIRCUIT_PLACES]; /* rows and 1; 0: none */
    double source_ma;            /* what the pin gives at most, */
    double sink_ma;              /* and takes */
} circuit_stage;

/* What a load takes. */
typedef struct circuit_load {
    guint output;
    guint feed;
    double ma;
    double start_ma;  /* for a moment, as it starts */
    double direct_ma; /* that a pin would have to carry, were it the driver */
} circuit_load;

typedef struct circuit {
    GArray *nets;
    GArray *parts;
    GArray *stages;
    GArray *loads;
    guint ground;
    guint supply; /* the board's pin that passes on USB's 5 V */
    guint logic;  /* and the one with the voltage of its pins, which may be the same */
} circuit;

circuit *circuit_of(const plan *loaded);
void circuit_free(circuit *unwanted);

/* NULL: the stage has none there. */
const circuit_part *circuit_part_at(const circuit *all, const circuit_stage *stage, circuit_place at);
const circuit_net *circuit_net_at(const circuit *all, guint net);

/* What lies between its pin and its load, for people. To be freed. */
char *circuit_between_text(const circuit *all, const circuit_stage *stage);

/* The name of a net in it. To be freed. */
char *circuit_netlist_name(const circuit *all, guint net);

/* For ngspice and its like: pins are sources, each of them low, high or an edge as `levels` says: 'l', 'h',
 * 'e', one a stage; NULL: all of them pulse. To be freed. */
char *circuit_netlist(const plan *loaded, const circuit *all, const char *levels);

/* "1 kΩ", "33 Ω". To be freed. */
char *circuit_ohms_text(double ohms);

#endif
