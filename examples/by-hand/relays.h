/* The plan of relays.c, for C and C++. */
#ifndef RELAYS_H
#define RELAYS_H

#include "dromikos/dromikos.h"

#ifdef __cplusplus
extern "C" {
#endif

/** Rows of its outputs, for drom_engine_order(). */
enum { BELL, LANTERN };

extern const drom_plan DROM_FLASH relays_plan;

#ifdef __cplusplus
}
#endif

#endif
