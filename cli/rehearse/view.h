/* The parts of a timeline. Private to timeline.c, which writes gestures, rules and orders, outcomes.c and
 * cells.c. */
#ifndef DROMIKOS_CLI_VIEW_H
#define DROMIKOS_CLI_VIEW_H

#include "cli/rehearse/timeline.h"

enum cell_of { HEARD, GESTURE, RULE, OUTPUT, CELLS };

typedef struct output_story {
    void *device; /* its device; NULL: none known */
    uint64_t driven_at_us;
    uint64_t on_since_us;
    uint64_t on_us; /* in all */
    unsigned bounces;
    bool is_known; /* it has been driven, and so has a state */
    bool is_on;
    timeline *view;
    unsigned asked;     /* presses */
    bool is_passing_on; /* it has an order to send, and hasn't begun */
    bool was_moving;
    bool is_placed;
    int32_t position;   /* its last position */
    timeline_row drawn; /* the newest row for drawing */
    bool is_drawn;      /* and there is one */
} output_story;

typedef struct heard_press {
    uint64_t at_us;
    unsigned handset;
    unsigned key;
} heard_press;

struct timeline {
    const plan *plan;
    sim_bench *bench;
    output_format format;
    drom_observer observer;
    GString *cells[CELLS];
    uint64_t row_at_us;
    bool has_row;
    row_writer rows;
    output_story *outputs; /* one per output of the plan */
    GArray *movers;        /* of unsigned: outputs that can move */
    int asked;             /* the output of an action, which hasn't changed yet; -1: none */
    unsigned presses;
    unsigned met;
    unsigned missed;
    char *first_missed; /* "at 2.567 s (line 7 of the script)" */
    void **devices;     /* one per output */
    uint64_t drawn_us;  /* when the outputs were last read */
    uint64_t *timers;   /* of the plan: as last written, the end of each; 0: not running */
    GArray *kept;       /* the rows, instead of writing them; NULL: they are written */
    bool shows_contacts;
    bool has_chip; /* and its total load */
    chip_stretch chip;
    chip_stretch chip_shown; /* as last written */
    bool may_repeat;         /* the row that is being written has an output */
    const GArray *script;    /* of script_press; NULL: no key is pressed */
    guint finger;            /* the next press */
    int widths[CELLS];       /* of the columns, in letters */
    heard_press newest;      /* at_us is 0 before the first */
    GArray *heard;           /* of heard_press: those that were not asked for yet */
};

/* Sets the widths of the columns, before the first row. */
void view_find_widths(timeline *view);

/* Returns the cell to write into: of the row that is being written if it is free there, else of a new one.
 * The second one is for a row that is only counted if it repeats. */
GString *view_cell(timeline *view, enum cell_of column);
GString *view_cell_again(timeline *view, enum cell_of column);

/* Adds the reason to an action that changed nothing at once. */
void view_settle_asked(timeline *view);

/* Writes the row. */
void view_end_row(timeline *view);

/* Keeps a row, or writes it as JSON; takes its texts over. view_put_now() sets its time first. */
void view_put(const timeline *view, timeline_row happened);
void view_put_now(const timeline *view, timeline_row happened);

/* Wires an output to the bench; and looks on at all of them. */
void outcomes_wire(timeline *view, unsigned output);
void outcomes_observe(timeline *view);

/* An output has been ordered something. */
void outcomes_ordered(timeline *view, const drom_action *action);

/* One that can move has begun to, or stands, or does as before. */
void outcomes_moved(timeline *view, unsigned output);

/* How each output is to be drawn from now on, where that is new; each 5 ms, and before a longer wait. */
void outcomes_draw(timeline *view, drom_us wait_us);

/* What it has done in all. */
void outcomes_sum_up(const timeline *view, unsigned output, uint64_t now_us);

#endif
