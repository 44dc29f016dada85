/* Where the rooms find their tables and their machine. Private to src/.
 *
 * A program that has one plan and one port may name them in drom_config.h. The compiler, which optimises when
 * linking, then sees through every table: what the plan doesn't use isn't in the program, and calls of the
 * port are plain calls. */
#ifndef DROMIKOS_BOUND_H
#define DROMIKOS_BOUND_H

#include "../include/dromikos/plan.h"

#ifdef DROM_PLAN
extern const drom_plan DROM_FLASH DROM_PLAN;
/* Where nothing else can have its name, whatever that is. */
static inline const drom_plan DROM_FLASH *drom_bound_plan(void)
{
    return &DROM_PLAN;
}
#define DROM_BOUND(member, part) (&drom_bound_plan()->part)
#else
#define DROM_BOUND(member, part) (member)
#endif

#ifdef DROM_PORT
extern const drom_port DROM_FLASH DROM_PORT;
static inline const drom_port DROM_FLASH *drom_bound_port(void)
{
    return &DROM_PORT;
}
#endif

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
