/* A wiring sheet on its way: the board, what stands at its sides, and where. Private to wiring.c and rails.c.
 */
#ifndef DROMIKOS_CHART_WIRING_SHEET_H
#define DROMIKOS_CHART_WIRING_SHEET_H

#include "picture.h"

#include "circuit.h"

enum {
    BOX_PX = 380,
    BESIDE_PX = 56, /* from a box to the ground rail: its supply, and those of the board, are between */
    HOP_PX = 4,
    MAX_RAILS = 2 /* of the board's pins that feed */
};

/* One wire, from a pin of the board to a terminal of a thing. */
typedef struct drawn_wire {
    const circuit_stage *stage;
    guint number; /* from 1, as they are written on the sheet */
    int row;      /* of the pin, on its side of the board */
    double from_y;
    double to_y;
    double turn_x; /* where it goes up or down */
} drawn_wire;

/* A thing, or what of it is on one side. */
typedef struct box {
    GArray *wires; /* of drawn_wire */
    double top;
    double height;
    double mean_row;
    double supply_y; /* of what feeds it; 0: that isn't here */
    double ground_y;
    bool is_second; /* the other half of it is on the left, and is fed there */
} box;

typedef struct side {
    bool is_left;
    GPtrArray *boxes;
    double height;
} side;

/* What one of the board's pins feeds. */
typedef struct rail {
    const char *pin;
    double y; /* above all else, from one side to the other */
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

/* Points of a line that goes down or up through others, which are not joined: by their heights, each once. */
void wiring_add_hops(GArray *points, double x, GArray *heights, bool goes_down);

/* What feeds a thing: the board's pin of that name, or NULL: a supply of its own, or its pin. */
const char *wiring_fed_by(const wiring_sheet *in, const box *part);
/* Else its pins do. */
bool wiring_is_fed(const box *part);
bool wiring_has_ground(const box *part);

double wiring_board_edge(const wiring_sheet *in, bool is_left);
double wiring_pin_y(const wiring_sheet *in, int row);

/* The names that are printed down a side of the board; and the row of one there, or -1. */
const char *wiring_printed_on(const wiring_sheet *in, bool is_left);
int wiring_row_of(const char *printed, const char *pin);

/* Which of the board's pins feed something. Where the boxes may begin, below their rails. */
double rails_lay_out(wiring_sheet *in, double top);

/* How a thing is fed: from a rail, or a supply of its own; and its ground. Call it once its box is placed. */
void rails_draw_feeding(const wiring_sheet *in, const side *at, const box *part);

/* The rails, with the board's own ends of them. */
void rails_draw(const wiring_sheet *in);

#endif
