/* The circuit between the pins of a board and the loads, as parts with legs and nets that join them: for the
 * wiring sheet, vet's currents, and a SPICE netlist. */
#ifndef DROMIKOS_PLAN_CIRCUIT_H
#define DROMIKOS_PLAN_CIRCUIT_H

#include "plan/model/plan.h"

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
    char *note;               /* a note for the parts list; NULL: none */
    guint output;             /* row of its output; CIRCUIT_NO_OUTPUT: none */
    double amount;            /* Ω, F; of a LED its V, of a load its Ω */
    double current;           /* A: the current of a load or a LED; the rating of a diode or transistor */
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
    bool is_boards;  /* name of the board's pin that is this supply */
    unsigned max_ma; /* of the load's own supply; 0: it uses the board's */
} circuit_net;

/* How a pin drives its load. */
typedef enum circuit_form {
    FORM_LED,       /* resistor and LED to ground */
    FORM_LED_LOW,   /* from the pins' supply through resistor and LED to the pin */
    FORM_LOW_SIDE,  /* a transistor between load and ground */
    FORM_HIGH_SIDE, /* a PNP transistor between supply and load */
    FORM_INVERTED,  /* low is on: one transistor switches the other off */
    FORM_MODULE,    /* a leg of a board or a device */
    FORM_CONTACT,   /* to ground */
    FORM_RECEIVER
} circuit_form;

/* The parts of a form. */
typedef enum circuit_place {
    PLACE_SERIES, /* at the pin */
    PLACE_PULL,   /* keeps the switch off while the pin floats */
    PLACE_SWITCH,
    PLACE_BEFORE, /* the transistor that switches it off, with the same parts */
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

/* A pin and its circuit. */
typedef struct circuit_stage {
    circuit_form form;
    const char *pin;
    char *owner;          /* "curtain", "side.ring", "receiver" */
    const char *kind;     /* of its owner, for people */
    const char *terminal; /* of the owner: "forward" */
    guint output;         /* its row; CIRCUIT_NO_OUTPUT: none */
    guint pin_net;
    guint feed;                  /* the net of the load's supply */
    guint leg;                   /* of the module */
    guint parts[CIRCUIT_PLACES]; /* row + 1; 0: none */
    double source_ma;            /* largest current out of the pin */
    double sink_ma;              /* and into the pin */
} circuit_stage;

/* The current of a load. */
typedef struct circuit_load {
    guint output;
    guint feed;
    double ma;
    double start_ma;  /* for a moment, when it starts */
    double direct_ma; /* that a pin would carry if it drove the load */
} circuit_load;

typedef struct circuit {
    GArray *nets;
    GArray *parts;
    GArray *stages;
    GArray *loads;
    guint ground;
    guint supply; /* the board's pin with USB's 5 V */
    guint logic;  /* and the pin with the voltage of its pins, possibly the same */
} circuit;

circuit *circuit_new(void);
void circuit_free(circuit *unwanted);

/* Adds a net, and takes its name over; returns its row. Adds a part, names it, and takes its texts over;
 * returns its row + 1. */
guint circuit_add_net(circuit *made, char *name, circuit_role role, double volts);
guint circuit_add_part(circuit *made, const circuit_part *part);

/* NULL: no such part. */
const circuit_part *circuit_part_at(const circuit *all, const circuit_stage *stage, circuit_place at);
const circuit_net *circuit_net_at(const circuit *all, guint net);

/* Returns "1 kΩ", "33 Ω". To be freed. */
char *circuit_ohms_text(double ohms);

#endif
