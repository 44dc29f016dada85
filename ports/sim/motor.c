/* The speed follows the drive as a charge follows a voltage; the current is what is between the two. With no
 * side on the shaft runs out, slowly; with both wires at one end it brakes. */
#include "motor.h"

#include <math.h>

enum { FORWARD, BACK, SPEED };

#define TO_SPEED_S 0.15
#define RUN_OUT_S 0.6
#define STALL_MA 2000
#define IDLE_MA 100

/* What the bridge puts on the winding, of 1; where it puts nothing on it, `is_open`. */
static double drive_of(const sim_motor *motor, bool *is_open)
{
    const bool has_direction = motor->pins[SPEED] != SIM_NO_PIN;
    const bool is_single = motor->pins[BACK] == SIM_NO_PIN;
    const double forward = motor->duty[FORWARD];
    const double back = motor->duty[BACK];
    const double speed = motor->duty[SPEED];
    if (is_single) {
        *is_open = speed <= 0;
        return speed;
    }
    if (!has_direction) {
        *is_open = forward <= 0 && back <= 0;
        return forward - back;
    }
    *is_open = speed <= 0;
    return (forward - back) * speed;
}

void sim_motor_init(sim_motor *motor, double now_us)
{
    motor->passed_us = now_us;
    motor->driven_from_us = INFINITY;
    motor->ended_us = -INFINITY;
    motor->motion.nearest_us = INFINITY;
}

void sim_motor_pass(sim_motor *motor, double now_us)
{
    bool is_open;
    sim_motion *const motion = &motor->motion;
    const double s = (now_us - motor->passed_us) / 1e6;
    const double drive = drive_of(motor, &is_open);
    const double end = is_open ? 0 : drive;
    const double tau_s = is_open ? RUN_OUT_S : TO_SPEED_S;
    const double before = motion->speed;
    motor->passed_us = now_us;
    if (motor->is_blocked) {
        motion->speed = 0;
        motion->stalled_us += drive != 0 ? s * 1e6 : 0;
    } else {
        motion->speed = end + (before - end) * exp(-s / tau_s);
        motion->way_s += end * s + (before - end) * tau_s * (1 - exp(-s / tau_s));
    }
    motion->ma = is_open ? 0 : fabs(drive - motion->speed) * STALL_MA + fabs(drive) * IDLE_MA;
    motion->max_ma = fmax(motion->max_ma, motion->ma);
    if (drive != 0) {
        motion->longest_us = fmax(motion->longest_us, now_us - motor->driven_from_us);
    }
}

void sim_motor_drive(sim_motor *motor, double now_us, uint8_t pin, uint16_t duty)
{
    bool is_open;
    sim_motor_pass(motor, now_us);
    for (unsigned i = 0; i < 3; i++) {
        if (motor->pins[i] == pin) {
            motor->duty[i] = duty / (double)UINT16_MAX;
        }
    }
    const bool is_shorted =
        motor->pins[BACK] != SIM_NO_PIN && motor->duty[FORWARD] > 0 && motor->duty[BACK] > 0;
    const double drive = drive_of(motor, &is_open);
    const int way = drive > 0 ? 1 : drive < 0 ? -1 : 0;
    const bool was_driven = !isinf(motor->driven_from_us);
    motor->motion.shorts += is_shorted && !motor->is_shorted;
    motor->is_shorted = is_shorted;
    if (was_driven && way != motor->way) {
        motor->ended_us = now_us;
        motor->driven_from_us = INFINITY;
    }
    if (way != 0 && isinf(motor->driven_from_us)) {
        if (motor->way == -way) {
            motor->motion.nearest_us = fmin(motor->motion.nearest_us, now_us - motor->ended_us);
        }
        motor->driven_from_us = now_us;
        motor->way = way;
    }
    sim_motor_pass(motor, now_us);
}
