/* What is wired to which pin of the board, and through what. */
#ifndef DROMIKOS_PLAN_WIRES_H
#define DROMIKOS_PLAN_WIRES_H

#include "plan.h"

typedef struct plan_wire {
    const char *pin;      /* as the board has it */
    char *owner;          /* "curtain", "side.ring", "receiver" */
    const char *kind;     /* of its owner, for people: of an output its kind's name, or "button" and so on */
    const char *terminal; /* of the owner: "forward" */
    const char *between;  /* what lies between the pin and the load, for people */
    const char *parts;    /* with their values and polarity; NULL: none */
    const char *way_out;  /* where vet finds that the load is more than a pin gives: these parts are that;
                             NULL: none */
    const char *supply;   /* what feeds it; NULL: the pin does */
    const char *fed_by;   /* the pin of the board that does; NULL: a supply of its own, or the pin */
    bool may_be_mains;    /* what it switches */
    bool has_no_ground;   /* it lies between what feeds it and the pin */
    double load_ma;       /* that it takes at most */
} plan_wire;

/* The receiver's, the outputs' as the plan has them, buttons', switches': an array of plan_wire, to be
 * unreferenced. */
GArray *plan_wires(const plan *loaded);

#endif
