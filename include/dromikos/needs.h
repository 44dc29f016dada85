/* What the outputs of the plan need of the port, in a program that is compiled for one plan alone (DROM_PLAN
 * in drom_config.h, or -DDROM_PLAN=lantern_plan): its header says so. For a port's own table of functions,
 * too. */
#ifndef DROMIKOS_NEEDS_H
#define DROMIKOS_NEEDS_H

#include "outputs.h"

#ifdef DROM_PLAN
/* What bake writes beside the plan's tables. Where drom_config.h doesn't say where it is, -I says its folder.
 */
#ifdef DROM_PLAN_HEADER
#include DROM_PLAN_HEADER
#else
#define DROM_QUOTED(name) #name
#define DROM_FILE(name) DROM_QUOTED(name)
#include DROM_FILE(DROM_PLAN.h)
#endif
#ifndef DROM_PLAN_NEEDS
#error "the header of DROM_PLAN doesn't say what the plan needs: bake the plan again, with this dromikos"
#endif

/** True when the plan's outputs need any of these, which are bits of drom_need. */
#define DROM_NEEDS(any_of) ((DROM_PLAN_NEEDS & (any_of)) != 0)
#else
#define DROM_NEEDS(any_of) true
#endif

/** A function of a port, where it is needed. */
#define DROM_WHERE(any_of, function) (DROM_NEEDS(any_of) ? (function) : NULL)

#endif
