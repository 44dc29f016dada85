/* A motor and the bridge before it. Private to ports/sim. */
#ifndef DROMIKOS_SIM_MOTOR_H
#define DROMIKOS_SIM_MOTOR_H

#include "sim.h"

struct sim_motor {
    const sim_bench *bench;
    uint8_t pins[3]; /* forward, back, speed; SIM_NO_PIN: no such pin */
    double duty[3];  /* 0 to 1 */
    double passed_us;
    double driven_from_us; /* start of the current drive in one direction; infinite: not driven */
    double ended_us;       /* end of its newest drive */
    int way;               /* direction of the newest or current drive: 1, -1; 0: none yet */
    bool is_shorted;
    bool is_blocked;
    sim_motion motion;
};

/* from a time */
void sim_motor_init(sim_motor *motor, double now_us);

/* Takes a pin's duty, of 65535; ignores pins of others. */
void sim_motor_drive(sim_motor *motor, double now_us, uint8_t pin, uint16_t duty);

/* Moves until now. */
void sim_motor_pass(sim_motor *motor, double now_us);

#endif
