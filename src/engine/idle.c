/* Between polls: refreshing a strip, or sleeping. */
#include "../compiler.h"

#include "engine_shared.h"

#include "../../include/dromikos/internal/receive.h"
#include "../../include/dromikos/internal/rules.h"

/* While a frame is received there is always more to do. After PATIENT_US without a refresh, a strip may be
 * refreshed nevertheless, with each third poll: if no frame can be complete before the end. After OVERDUE_US:
 * if no frame is complete except for the silence after it. After LATE_US: in any case, so that it never
 * stands still for long. */
enum { PATIENT_US = 4000, OVERDUE_US = 7000, LATE_US = 14000, STARVED_US = 30000 };

/* True if blocking for `us` cannot lose a frame. */
static bool is_allowed(const drom_engine *engine, drom_wait us)
{
    const drom_timing *const timing = &engine->timing;
    const bool is_at_rest = timing->air.is_quiet || timing->air.is_muted;
    const drom_us until = drom_input_heard_until(drom_engine_port(engine), timing->now);
    const drom_wait soonest = is_at_rest ? 0 : drom_receiver_soonest(&engine->input.receiver, until);
    return drom_air_allows_refresh(timing, us, soonest);
}

/* Refreshes a strip, if one needs it and nothing would be late. */
static bool refresh(drom_engine *engine, drom_us rested_us)
{
    drom_timing *const timing = &engine->timing;
    const drom_port DROM_FLASH *const port = drom_engine_port(engine);
    uint8_t row;
    const drom_us now = drom_engine_read_clock(engine);
    const drom_wait us = drom_outputs_want(&drom_engine_plan(engine)->outputs, timing, &row);
    if (row == DROM_NONE) {
        engine->rested_at = now; /* no strip needs it */
        return false;
    }
    const bool is_overdue = rested_us > OVERDUE_US && port->pixels->can_slice;
    const drom_wait needed_us = !is_overdue ? us : rested_us > LATE_US ? 0 : 1;
    if (us == 0 || (engine->state != DROM_STOPPING && !is_allowed(engine, needed_us))) {
        return false;
    }
    drom_outputs_refresh(&drom_engine_plan(engine)->outputs, timing, row);
    engine->rested_at = now;
    if (!port->pixels->can_slice) {
        drom_input_was_masked(&engine->input, now, drom_engine_read_clock(engine) - now);
    }
    return true;
}

/* True if a strip is refreshed although there is more to do: edges wait in the ring. */
static bool is_starved(const drom_engine *engine, drom_us rested_us)
{
    return engine->turn == 0 && rested_us > PATIENT_US && !engine->input.has_frame &&
           (drom_rules_are_done(&engine->rules) || rested_us > STARVED_US) &&
           drom_ring_can_wait(&engine->input.ring);
}

void drom_engine_idle(drom_engine *engine, drom_wait wait)
{
    if (engine->timing.port == NULL) {
        return;
    }
    const drom_port DROM_FLASH *const port = drom_engine_port(engine);
    const drom_us rested_us = engine->timing.now - engine->rested_at;
    const bool is_ordered = drom_deadline_wait(&engine->next, engine->timing.now) == 0;
    const bool is_idle =
        wait > 0 && (engine->state == DROM_STOPPING || (!is_ordered && !drom_engine_is_behind(engine)));
    const bool can_refresh = DROM_WITH_PIXELS && port->pixels != NULL && engine->state != DROM_STOPPED &&
                             engine->state != DROM_FAULT;
    if (can_refresh && (is_idle || is_starved(engine, rested_us)) && refresh(engine, rested_us)) {
        return;
    }
    if (is_idle && port->clock->sleep != NULL) {
        port->clock->sleep(port->context, wait);
    }
}
