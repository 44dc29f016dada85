/* Devices on pins with exact times: a stepper, a strip, an infrared target. Private to ports/sim. */
#ifndef DROMIKOS_SIM_DEVICES_H
#define DROMIKOS_SIM_DEVICES_H

#include "sim.h"

struct sim_stepper {
    uint8_t pins[4];
    uint8_t levels; /* one bit per pin */
    int phase;      /* direction of the field: 0 to 3; -1: none yet */
    long position;  /* of the rotor */
    long asked;     /* of the field */
    unsigned lost;
    double stepped_at_us;
    double rotor_at_us; /* time of its newest step */
    double speed;       /* steps/s of the rotor */
    int step;           /* direction of the newest step */
    bool is_stalled;
    double max_steps_s;
    double start_steps_s;
    double max_steps_s2;
    sim_bench *bench;
    bool has_home; /* closes a contact there and behind */
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
    uint8_t sent[SIM_STRIP_BYTES]; /* the newest picture, as sent */
    double low_from_us;            /* end of the newest picture; INFINITY: it is being received */
    bool has_news;                 /* a picture that isn't shown yet */
    unsigned bits;                 /* received since it last showed a picture */
    unsigned refreshes;
    unsigned wrong;
    double longest_gap_us;
};

enum { SIM_MAX_RUNS = 200 };

typedef struct sim_appliance sim_appliance;

struct sim_target {
    uint8_t pin;
    bool is_on;
    bool has_ours; /* the burst being received is its LED's; else a handset's */
    double changed_at_us;
    double runs_us[SIM_MAX_RUNS]; /* mark, space, mark … */
    unsigned count;
    char heard[64];
    unsigned frames;
    unsigned unknown;
    void (*light)(void *context, uint64_t at_us, bool is_on); /* NULL: none */
    void *context;
    sim_appliance *appliance; /* NULL: no keys */
};

/* Decodes the received light. */
void sim_appliance_light(sim_appliance *appliance, double now_us, bool is_on);
void sim_appliance_pass(sim_appliance *appliance, double now_us);
/* True if a frame was decoded since the last call; writes which. */
bool sim_appliance_has_heard(sim_appliance *appliance, char *frame, size_t size);
void sim_appliance_free(sim_appliance *unwanted);

/* Takes the new level of a coil's pin. */
void sim_stepper_drive(sim_stepper *stepper, double now_us, uint8_t pin, bool is_high);

/* A picture is about to be received, or has been. */
void sim_strip_begin(sim_strip *strip, const uint8_t *bytes, unsigned count);
void sim_strip_end(sim_strip *strip, double now_us);

/* Takes a bit of the waveform: high, then low, for these times. */
void sim_strip_bit(sim_strip *strip, double high_us, double low_us);

/* Takes pixels whose bits are correct and whose lows end no picture. */
void sim_strip_pixels(sim_strip *strip, const uint8_t *bytes, unsigned count);

/* Returns when it shows what it received; INFINITY: it does already. */
double sim_strip_due(const sim_strip *strip);

/* Shows what it received. */
void sim_strip_show(sim_strip *strip);

/* Takes the carrier of its LED, and of a handset in its sight. */
void sim_target_light(sim_target *target, double now_us, bool is_own, bool is_handset);

/* Returns when the current burst counts as over; INFINITY: there is none. */
double sim_target_due(const sim_target *target);

/* True if a frame of its LED has ended by now; writes which to `heard`. */
bool sim_target_settle(sim_target *target, double now_us);

#endif
