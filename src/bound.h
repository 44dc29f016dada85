/* Access to the plan, the port and the configuration. Private to src/.
 *
 * drom_config.h may bind a program to one plan and one port. With link-time optimisation the compiler then
 * knows every table: code that the plan doesn't use isn't linked, and calls of the port are direct. */
#ifndef DROMIKOS_BOUND_H
#define DROMIKOS_BOUND_H

#include "../include/dromikos/plan.h"

/* The declarations are within functions, so that no parameter of the core shadows the name of a plan or port.
 */
#ifdef DROM_PLAN
static inline const drom_plan DROM_FLASH *drom_bound_plan(void)
{
    extern const drom_plan DROM_FLASH DROM_PLAN;
    return &DROM_PLAN;
}
#define DROM_BOUND(member, part) (&drom_bound_plan()->part)
#else
#define DROM_BOUND(member, part) (member)
#endif

#ifdef DROM_PORT
static inline const drom_port DROM_FLASH *drom_bound_port(void)
{
    extern const drom_port DROM_FLASH DROM_PORT;
    return &DROM_PORT;
}
#endif

/* Returns the features that are on: bits of DROM_USES(). */
static inline uint32_t drom_features_on(void)
{
    return UINT32_C(0)
#define DROM_FEATURE(name, small, what) | (DROM_WITH_##name ? DROM_USES(name) : 0)
#define DROM_OPTION(name, small, what)
#include "../include/dromikos/features.def.h"
        ;
}

static inline const drom_receive_plan DROM_FLASH *drom_receiver_plan(const drom_receiver *receiver)
{
    (void)receiver;
    return DROM_BOUND(receiver->plan, receive);
}

static inline const drom_keys_plan DROM_FLASH *drom_keys_plan_of(const drom_keys *keys)
{
    (void)keys;
    return DROM_BOUND(keys->plan, keys);
}

static inline const drom_rules_plan DROM_FLASH *drom_rules_plan_of(const drom_rules *rules)
{
    (void)rules;
    return DROM_BOUND(rules->plan, rules);
}

static inline const drom_outputs_plan DROM_FLASH *drom_rules_outputs(const drom_rules *rules)
{
    (void)rules;
    return DROM_BOUND(rules->outputs, outputs);
}

static inline const drom_port DROM_FLASH *drom_port_of(const drom_timing *timing)
{
#ifdef DROM_PORT
    (void)timing;
    return drom_bound_port();
#else
    return timing->port;
#endif
}

#endif
