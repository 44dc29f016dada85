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
    double rotor_at_us; /* it made its newest step */
    double speed;       /* steps/s of the rotor */
    int step;           /* the newest one's direction */
    bool is_stalled;
    double max_steps_s;
    double start_steps_s;
    double max_steps_s2;
    sim_bench *bench;
    bool has_home; /* it closes a contact there and farther back */
    uint8_t home_pin;
    long home;
};

enum { SIM_STRIP_BYTES = 3 * 1000 };

struct sim_strip {
    uint8_t pin;
    unsigned count;
    double latch_us;
    uint8_t shown[SIM_STRIP_BYTES];
    uint8_t coming[SIM_STRIP_BYTES];
    uint8_t sent[SIM_STRIP_BYTES]; /* the newest picture, as the engine has it */
    double low_from_us;            /* since the picture was out; INFINITY: it is coming in */
    bool has_news;                 /* a picture that it doesn't show yet */
    unsigned bits;                 /* that have come since it last showed what came */
    unsigned refreshes;
    unsigned wrong;
    double longest_gap_us;
};

enum { SIM_MAX_RUNS = 200 };

typedef struct sim_appliance sim_appliance;

struct sim_target {
    uint8_t pin;
    bool is_on;
    bool has_ours; /* the burst that is coming in, of its LED; else all of it is a handset's */
    double changed_at_us;
    double runs_us[SIM_MAX_RUNS]; /* mark, space, mark … */
    unsigned count;
    char heard[64];
    unsigned frames;
    unsigned unknown;
    void (*light)(void *context, uint64_t at_us, bool is_on); /* NULL: none */
    void *context;
    sim_appliance *appliance; /* NULL: it knows no keys */
};

/* What it makes of the light. */
void sim_appliance_light(sim_appliance *appliance, double now_us, bool is_on);
void sim_appliance_pass(sim_appliance *appliance, double now_us);
/* True when it understood a frame since it was last asked; which one, is then said. */
bool sim_appliance_has_heard(sim_appliance *appliance, char *frame, size_t size);
void sim_appliance_free(sim_appliance *unwanted);

/* A coil's pin has a new level. */
void sim_stepper_drive(sim_stepper *stepper, double now_us, uint8_t pin, bool is_high);

/* A picture is about to come in, or has come in. */
void sim_strip_begin(sim_strip *strip, const uint8_t *bytes, unsigned count);
void sim_strip_end(sim_strip *strip, double now_us);

/* A bit of the waveform: high for so long, then low. */
void sim_strip_bit(sim_strip *strip, double high_us, double low_us);

/* So many pixels whose bits are as they should be, with lows after them that end no picture. */
void sim_strip_pixels(sim_strip *strip, const uint8_t *bytes, unsigned count);

/* When it shows what has come; INFINITY: it does already. */
double sim_strip_due(const sim_strip *strip);

/* It does. */
void sim_strip_show(sim_strip *strip);

/* Its LED sends a carrier or doesn't, and a handset that it sees, too. */
void sim_target_light(sim_target *target, double now_us, bool is_own, bool is_handset);

/* When the burst that is coming in counts as over; INFINITY: none is. */
double sim_target_due(const sim_target *target);

/* True when a frame of its LED was over by now; `heard` then says which. */
bool sim_target_settle(sim_target *target, double now_us);

#endif
