/* What is wired to hard-timed pins: a stepper, a strip, an infrared target. Private to ports/sim. */
#ifndef DROMIKOS_SIM_DEVICES_H
#define DROMIKOS_SIM_DEVICES_H

#include "sim.h"

struct sim_stepper {
    uint8_t pins[4];
    uint8_t levels; /* a bit a pin */
    int phase;      /* where the field points: 0 to 3; -1: nowhere yet */
    long position;  /* of the rotor */
    long asked;     /* of the field */
    unsigned lost;
    double stepped_at_us;
    double speed; /* steps/s of the rotor */
    double most_steps_s;
    double start_steps_s;
    double most_steps_s2;
};

struct sim_strip {
    uint8_t pin;
    unsigned count;
    double latch_us;
    uint8_t shown[3 * 255];
    uint8_t coming[3 * 255];
    unsigned bits; /* of this refresh */
    unsigned refreshes;
    unsigned wrong;
    double longest_gap_us;
};

enum { SIM_MOST_RUNS = 200 };

struct sim_target {
    uint8_t pin;
    bool is_on;
    double changed_at_us;
    double runs_us[SIM_MOST_RUNS]; /* mark, space, mark … */
    unsigned count;
    char heard[64];
    unsigned frames;
    unsigned unknown;
    void (*light)(void *context, uint64_t at_us, bool is_on); /* NULL: nobody follows */
    void *context;
};

/* A coil's pin has a new level. */
void sim_stepper_drive(sim_stepper *stepper, double now_us, uint8_t pin, bool is_high);

/* A bit of the waveform: high for so long, then low. */
void sim_strip_bit(sim_strip *strip, double high_us, double low_us);

/* Silence after a refresh. */
void sim_strip_latch(sim_strip *strip);

/* The carrier goes on or off. */
void sim_target_light(sim_target *target, double now_us, bool is_on);

/* When the burst that is coming in counts as over; INFINITY: none is. */
double sim_target_due(const sim_target *target);

/* True when a frame was over by now; `heard` then says which. */
bool sim_target_settle(sim_target *target, double now_us);

#endif
