/* Pseudo-random numbers, the same from the same seed. Private to ports/sim. */
#ifndef DROMIKOS_SIM_RANDOM_H
#define DROMIKOS_SIM_RANDOM_H

#include <stdint.h>

typedef struct sim_random {
    uint64_t state;
} sim_random;

/* Returns the next 64 bits (SplitMix64, public domain, by S. Vigna). */
static inline uint64_t sim_random_next(sim_random *random)
{
    uint64_t z = (random->state += UINT64_C(0x9e3779b97f4a7c15));
    z = (z ^ (z >> 30)) * UINT64_C(0xbf58476d1ce4e5b9);
    z = (z ^ (z >> 27)) * UINT64_C(0x94d049bb133111eb);
    return z ^ (z >> 31);
}

/* Uniform from low to high. */
static inline double sim_random_between(sim_random *random, double low, double high)
{
    return low + (high - low) * (double)(sim_random_next(random) >> 11) * 0x1p-53;
}

#endif
