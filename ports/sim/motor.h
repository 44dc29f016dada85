/* A motor and the bridge before it. Private to ports/sim. */
#ifndef DROMIKOS_SIM_MOTOR_H
#define DROMIKOS_SIM_MOTOR_H

#include "sim.h"

struct sim_motor {
    const sim_bench *bench;
    uint8_t pins[3]; /* forward, back, speed; SIM_NO_PIN: there is none */
    double duty[3];  /* of 1 */
    double passed_us;
    double driven_from_us; /* since when it has been driven the same way; infinite: it isn't */
    double ended_us;       /* its newest drive */
    int way;               /* of that, or the present one: 1, -1; 0: there was none */
    bool is_shorted;
    bool is_blocked;
    sim_motion motion;
};

/* From a time on. */
void sim_motor_init(sim_motor *motor, double now_us);

/* One of its pins, perhaps, has another duty of 65535. */
void sim_motor_drive(sim_motor *motor, double now_us, uint8_t pin, uint16_t duty);

/* It moves on until now. */
void sim_motor_pass(sim_motor *motor, double now_us);

#endif
