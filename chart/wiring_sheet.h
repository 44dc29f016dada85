/* A wiring sheet that is being drawn: the board, the things at its sides, and their places. Private to
 * wiring.c and rails.c. */
#ifndef DROMIKOS_CHART_WIRING_SHEET_H
#define DROMIKOS_CHART_WIRING_SHEET_H

#include "chart/picture.h"

#include "plan/kinds/circuit.h"

enum {
    BOX_PX = 380,
    BESIDE_PX = 56, /* from a box to the ground rail: its supply, and the board's, are between */
    HOP_PX = 4,
    MAX_RAILS = 2 /* of the board's supply pins */
};

/* A wire, from a pin of the board to a terminal of a thing. */
typedef struct drawn_wire {
    const circuit_stage *stage;
    guint number; /* from 1, as on the sheet */
    int row;      /* of the pin, on its side of the board */
    double from_y;
    double to_y;
    double turn_x; /* where it goes up or down */
} drawn_wire;

/* A thing, or its part on one side. */
typedef struct box {
    GArray *wires; /* of drawn_wire */
    double top;
    double height;
    double mean_row;
    double supply_y; /* of its supply; 0: it isn't here */
    double ground_y;
    bool is_second; /* its other half is on the left, and is fed there */
} box;

typedef struct side {
    bool is_left;
    GPtrArray *boxes;
    double height;
} side;

/* The loads of one of the board's supply pins. */
typedef struct rail {
    const char *pin;
    double y; /* above everything else, from one side to the other */
} rail;

typedef struct wiring_sheet {
    const plan *plan;
    circuit *all;
    picture *canvas;
    double width;
    double height;
    double board_top;
    double board_height;
    double ground_y;
    side sides[2]; /* left, right */
    rail rails[MAX_RAILS];
    guint rail_count;
} wiring_sheet;

/* Points of a vertical line that crosses others, unconnected: by height, each once. */
void wiring_add_hops(GArray *points, double x, GArray *heights, bool goes_down);

/* The supply of a thing: the board's pin of that name, or NULL: its own supply, or its pin. */
const char *wiring_fed_by(const wiring_sheet *in, const box *part);
/* Else its pins do. */
bool wiring_is_fed(const box *part);
bool wiring_has_ground(const box *part);

double wiring_board_edge(const wiring_sheet *in, bool is_left);
double wiring_pin_y(const wiring_sheet *in, int row);

/* The labels down a side of the board; and the row of one there, or -1. */
const char *wiring_printed_on(const wiring_sheet *in, bool is_left);
int wiring_row_of(const char *printed, const char *pin);

/* The board's supply pins in use. Returns where the boxes may begin, below their rails. */
double rails_lay_out(wiring_sheet *in, double top);

/* Draws a thing's supply, from a rail or its own, and its ground. Call it when its box is placed. */
void rails_draw_feeding(const wiring_sheet *in, const side *at, const box *part);

/* Draws the rails, with the board's ends of them. */
void rails_draw(const wiring_sheet *in);

#endif
