/* Observations of a run from outside. Private to tests/random: run.c runs the plan, watch.c reads pins and
 * devices, violations.c checks them. */
#ifndef DROMIKOS_TESTS_WATCH_H
#define DROMIKOS_TESTS_WATCH_H

#include "run.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/outputs/strip.h"

#include "plan/model/build.h"

enum { MAX_OUTPUTS = 32, PINS = 256, MS = 1000 };

/* One output, from outside. */
typedef struct seen_output {
    sim_stepper *stepper;
    sim_motor *motor;
    sim_strip *strip;
    sim_target *target;
    uint64_t changed_us;
    bool is_on;
    bool is_output; /* a relay: the output of its pin by now */
    bool has_changed;
    bool is_only_held; /* all that drives it is undone when a key is released */
    bool is_lit;
    uint64_t lit_us;
    bool is_driven; /* of an interlock */
    bool was_driven;
    uint64_t rested_us; /* the time at which it was no longer driven */
    uint64_t rose_us;   /* of a servo: its newest pulse; 0: none yet */
    uint64_t sent_us;   /* a strip: the time at which it showed its whole picture */
    long position;
    long born_at; /* of a stepper: the place that the engine calls 0 */
    uint8_t home_pin;
    bool was_homing;
    long past; /* its switch, in steps, when it began to home */
    unsigned born_lost;
    uint32_t picture; /* a hash */
    uint64_t pictured_us;
    bool is_picture_new; /* and not reported yet */
    bool is_moving;      /* pictures follow each other too fast to be reported */
} seen_output;

/* A change of an output. */
typedef struct done_row {
    uint64_t at_us;
    guint number;
    unsigned output;
    char text[40];
} done_row;

/* The kept values from a time on. */
enum { MAX_KEPT = 8 };
typedef struct kept_row {
    uint64_t from_us;
    int16_t numbers[MAX_KEPT];
} kept_row;

typedef struct check_run {
    const plan *plan;
    const bench_run *run;
    sim_bench *bench;
    GRand *dice; /* of own code */
    drom_engine engine;
    drom_observer observer;
    seen_output outputs[MAX_OUTPUTS];
    unsigned homes[PINS];  /* steppers that close the contact on this pin; with one or more, no touch does */
    unsigned hand_presses; /* of the first handset */
    unsigned presses;
    unsigned releases;
    uint64_t pressed_us; /* a key or button is down until then */
    uint64_t posted;     /* and taken by the engine's ring */
    uint64_t came;       /* as events */
    uint64_t born_us;    /* time of the engine's start */
    uint64_t stopped_us; /* 0: it runs */
    double hung_us;      /* the longest time for which the program has hung */
    bool is_stopping;    /* safety precedes the minimum times */
    bool was_cut;        /* coils and rotor of a stepper needn't agree any more */
    GArray *kept;        /* of kept_row */
    char *violation;
    GArray *reported; /* of done_row; NULL: none are wanted */
} check_run;

static inline const output_line *line_of(const check_run *in, unsigned output)
{
    return &g_array_index(in->plan->source->outputs, output_line, output);
}

static inline const char *name_of(const check_run *in, unsigned output)
{
    return line_of(in, output)->name.text;
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

/* The largest delay by own code: within a poll and between two. */
double late_us(const check_run *in);

/* Wires the plan's outputs to the bench, and watches them. */
void watch(check_run *in);

/* Forgets the observations, after a start of the engine. */
void watch_anew(check_run *in);

/* After each poll. */
void look_at_outputs(check_run *in);

/* True if a load is driven, by the levels of its pins. */
bool is_driven_at_pins(const check_run *in, unsigned output);
/* The direction of a motor: 1, -1, 0. */
int motor_drive(const check_run *in, unsigned output);

/* Keeps the first violation. */
void violate(check_run *in, const char *format, ...) G_GNUC_PRINTF(2, 3);

/* After a stop; long after the last release; at each change; after each poll; and at the end. */
void check_rest(check_run *in);
void check_let_go(check_run *in);
void check_interlocks(check_run *in);
void check_pulse(check_run *in, unsigned servo, bool is_high);
void check_current(check_run *in, unsigned strip);
void look_at_all(check_run *in);
void check_devices(check_run *in);
void check_posts(check_run *in);
void check_kept(check_run *in, bool was_stopped);

#endif
