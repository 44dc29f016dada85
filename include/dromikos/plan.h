/* A plan: const tables, and the memory that they need. One plan runs on one engine at a time. */
#ifndef DROMIKOS_PLAN_H
#define DROMIKOS_PLAN_H

#include "contacts.h"
#include "kept.h"
#include "rules.h"

/** What rests where the program hangs: for longer than `ms` without a poll. The port's USB leaves the bus
 * then, too. */
typedef struct drom_guard_plan {
    DROM_TABLE(drom_rest_pin) pins; /**< how each is at rest */
    uint16_t ms;                    /**< DROM_GUARD_MIN_MS to DROM_GUARD_MAX_MS; 0: nothing is guarded */
} drom_guard_plan;

typedef struct drom_plan {
    drom_receive_plan receive;
    drom_keys_plan keys;
    drom_contacts_plan contacts;
    drom_events_plan events;
    drom_rules_plan rules;
    drom_outputs_plan outputs;
    drom_guard_plan guard;
    drom_kept_plan kept;
} drom_plan;

/** What a plan makes use of that can be switched off, in bits of DROM_USES_TIMED_EDGES and so on. A plan
 * whose tables are sound. Main only. */
uint32_t drom_plan_uses(const drom_plan DROM_FLASH *plan);

#if DROM_WITH_CHECKS
/** Checks a plan, row by row, for a machine with these facts. DROM_OK, or DROM_BAD_PLAN with the first fault
 * in `fault` (which may be null). Main only. */
drom_status drom_plan_check(const drom_plan DROM_FLASH *plan, const drom_port_facts *facts,
                            drom_fault *fault);
#endif

#endif
