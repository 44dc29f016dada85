/* What is seen of a plan's life from outside. Private to tests/life: life.c lets it live, never.c knows what
 * must not happen. */
#ifndef DROMIKOS_TESTS_SEEN_H
#define DROMIKOS_TESTS_SEEN_H

#include "life.h"

#include "kinds.h"

enum { MAX_OUTPUTS = 32, MS = 1000 };

/* One output, as it is seen from outside. */
typedef struct seen_output {
    sim_stepper *stepper;
    sim_motor *motor;
    sim_strip *strip;
    sim_target *target;
    uint64_t changed_us;
    bool is_on;
    bool has_changed;
    bool is_only_held; /* nothing drives it but what is undone when a key is let go */
    bool is_lit;
    uint64_t lit_us;
    long position;
    uint32_t picture; /* a hash */
    uint64_t pictured_us;
    bool is_picture_new; /* and not reported yet */
    bool is_moving;      /* pictures follow each other too fast to be reported */
} seen_output;

/* What an output did. */
typedef struct done_row {
    uint64_t at_us;
    guint number;
    unsigned output;
    char text[40];
} done_row;

typedef struct check_run {
    const plan *plan;
    const life *lived;
    sim_bench *bench;
    drom_engine engine;
    seen_output outputs[MAX_OUTPUTS];
    unsigned presses;
    unsigned releases;
    uint64_t stopped_us; /* 0: it runs */
    bool is_stopping;    /* safety comes before the minimum times */
    char *violation;
    GArray *reported; /* of done_row; NULL: none are wanted */
} check_run;

static inline const output_line *line_of(const check_run *in, unsigned output)
{
    return &g_array_index(in->plan->source->outputs, output_line, output);
}

static inline const drom_output_kind *kind_of(const check_run *in, unsigned output)
{
    return plan_output(in->plan, output)->kind;
}

static inline unsigned pixels_of(const check_run *in, unsigned output)
{
    return ((const drom_strip_settings *)plan_output(in->plan, output)->settings)->count;
}

static inline const drom_relay_settings *relay_of(const check_run *in, unsigned output)
{
    return plan_output(in->plan, output)->settings;
}

/* Keeps the first thing that must not be. */
void violate(check_run *in, const char *format, ...) G_GNUC_PRINTF(2, 3);

/* After a stop; long after the last key was let go; now; and at the end. */
void check_rest(check_run *in);
void check_let_go(check_run *in);
void look_at_interlocks(check_run *in);
void look_at_ends(check_run *in);
void check_current(check_run *in, unsigned strip);
void check_devices(check_run *in);

#endif
