/* What a receiver makes of a handset that is far, or aside, or has flat batteries. */
#include "sim.h"

#include <glib.h>
#include <math.h>

static const double DEGREE = 3.14159265358979323846 / 180;

/* The light of it, against the least that the receiver takes. */
static double reserve_of(const sim_place *place)
{
    enum { REACH_M = 12 };
    const double far = REACH_M / MAX(place->metres, 0.05);
    const double ahead = MAX(cos(place->degrees * DEGREE), 0);
    return far * far * ahead * ahead * place->battery * place->battery;
}

sim_room sim_room_of(const sim_place *place)
{
    static const double SLOW = 0.04;     /* its clock, on batteries that are all but flat */
    static const double STEEP = 6;       /* from where most marks come to where few do */
    static const double HALF = -0.5;     /* half of them, in powers of two of the least light */
    static const double MIN_LOSS = 1e-4; /* less is none */
    const double power = log2(MAX(reserve_of(place), 1e-3));
    const double loss = 1 / (1 + exp(STEEP * (power - HALF)));
    return (sim_room){
        .clock_error = SLOW * (1 - place->battery),
        .stretch_us = CLAMP(25 * power - 100, -150, 60),
        .jitter_us = 10 + 50 * pow(2, -power / 2),
        .loss = loss > MIN_LOSS ? loss : 0,
    };
}
