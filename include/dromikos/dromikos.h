/* The library: all that a program needs, except the outputs' kinds (outputs/KIND.h).
 *
 * In C++, tables are left out: they are C. A C++ program declares its plan as extern "C" const drom_plan
 * NAME; and gives orders with drom_engine_order(). */
#ifndef DROMIKOS_DROMIKOS_H
#define DROMIKOS_DROMIKOS_H

#include "engine.h"

#ifndef __cplusplus
#include "encode.h"
#include "output.h"
#include "plan.h"
#include "protocols.h"
#endif

#endif
