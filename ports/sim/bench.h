/* The parts of the bench. Private to ports/sim: line.c fills the line, processor.c advances time, bench.c
 * wires devices. */
#ifndef DROMIKOS_SIM_BENCH_H
#define DROMIKOS_SIM_BENCH_H

#include "devices.h"
#include "motor.h"
#include "parts.h"
#include "relay.h"

#include <glib.h>

/* A contact's change, or one of its bounces. */
typedef struct sim_touch {
    double at_us;
    double from_us; /* when the contact was moved */
    uint8_t pin;
    bool is_closed;
} sim_touch;

/* A time in which own code masks interrupts. */
typedef struct sim_mask {
    double at_us;
    double for_us;
} sim_mask;

/* A mark or a space that hardware has measured. */
typedef struct sim_interval {
    double from_us;
    double end_us;
    bool is_mark;
} sim_interval;

enum { SIM_MAX_TOGGLED = 31 };

struct sim_bench {
    drom_port port;
    drom_port_pwm pwm;
    drom_port_pixels pixels;
    drom_port_intervals intervals;
    sim_parts parts;
    drom_engine *engine;
    sim_observer observer;
    sim_random random;
    sim_processor processor;
    sim_load load;
    GArray *edges;       /* of sim_edge, in order where is_sorted */
    GArray *measured;    /* of sim_interval: those up to now */
    guint given;         /* to the engine */
    double spoken_us;    /* end of the newest mark of a handset */
    double line_from_us; /* the newest change of the line */
    GArray *masks;       /* of sim_mask: when other code masks interrupts */
    GArray *touches;     /* of sim_touch, in order of time */
    guint next_touch;
    GPtrArray *relays;
    GPtrArray *steppers;
    GPtrArray *motors;
    GPtrArray *strips;
    GPtrArray *targets;
    double now_us;
    double busy_until_us; /* a handler runs */
    double masked_until_us;
    double edge_at_us;  /* if has_edge */
    double alarm_at_us; /* if is_armed */
    double world_us;    /* if is_world_known: when something, except strips, next happens by itself */
    double strips_us;   /* if are_strips_known: when a strip next shows its pixels */
    guint next_edge;
    guint next_mask;
    int marks;               /* handsets that are sending */
    unsigned polls_in_a_row; /* consecutive polls that left more to do */
    drom_us clock_start;
    uint16_t duty[256];
    bool is_high[256];
    bool is_output[256];
    bool is_closed[256];              /* a contact between an input and ground */
    uint8_t toggled[SIM_MAX_TOGGLED]; /* pins that timed edges have inverted, one bit each */
    unsigned toggled_count;
    bool is_sorted;
    bool is_world_known;
    bool are_strips_known;
    bool plays_every_bit;
    bool toggle;    /* of the next press */
    bool is_masked; /* for pixels */
    bool is_mark;   /* the level of the line */
    bool has_edge;  /* the capture's flag */
    bool edge_is_mark;
    bool is_armed; /* the alarm */
    bool is_carrier_on;
    bool is_hearing_itself;
    bool is_handset_in_sight; /* of the targets */
    uint8_t carrier_pin;
    uint8_t carrier_khz;
};

/* Sets a pin's level, and informs devices and the observer. */
void sim_bench_set_pin(sim_bench *bench, uint8_t pin, bool is_high);

/* Sets a pin's duty, likewise. */
void sim_bench_set_duty(sim_bench *bench, uint8_t pin, uint16_t duty);

/* Advances time, or, with `until_edge`, until the capture has stored an edge. False if it ended at an edge.
 */
bool sim_bench_pass(sim_bench *bench, double until_us, bool until_edge);

/* A call of the port takes main some time, with interrupts enabled. */
sim_bench *sim_bench_called(void *context);

/* Runs one waiting handler; then masks interrupts for a time. */
void sim_bench_let_one_in(sim_bench *bench, double for_us);

/* The port's call. */
void sim_bench_send_pixels(void *context, uint8_t pin, const uint8_t *bytes, uint16_t count);

/* Switches the sender's carrier on or off. */
void sim_bench_set_carrier(sim_bench *bench, bool is_on);

/* All pixels sent by hardware are out. */
void sim_bench_end_apart(sim_bench *bench, uint8_t pin, const uint8_t *bytes, uint16_t count);

/* Returns when something next happens by itself; infinite: never. */
double sim_bench_next_event(sim_bench *bench);

/* Returns when the next contact changes; and changes it. */
double sim_contacts_due(const sim_bench *bench);
void sim_contacts_change(sim_bench *bench);

#endif
