/* Checks a plan's tables, once, at init, so that nothing has to be checked while it runs. */
#include "../compiler.h"

#include "check.h"

#if DROM_WITH_CHECKS

/* True if one of the first `count` protocols has this number. */
static bool is_among(const drom_receive_plan DROM_FLASH *plan, uint8_t count, uint8_t number)
{
    for (uint8_t i = 0; i < count; i++) {
        if (plan->protocols.rows[i]->number == number) {
            return true;
        }
    }
    return false;
}

static bool check_receive(const drom_receive_plan DROM_FLASH *plan, drom_fault *fault)
{
    if (plan->protocols.count > 0 && (plan->protocols.rows == NULL || plan->decoders == NULL)) {
        return drom_blame(fault, DROM_PART_PROTOCOLS, 0, 0, DROM_REASON_NULL);
    }
    for (uint8_t i = 0; i < plan->protocols.count; i++) {
        const drom_protocol_ref protocol = plan->protocols.rows[i];
        if (protocol == NULL || protocol->step == NULL || protocol->unpack == NULL ||
            protocol->timing == NULL) {
            return drom_blame(fault, DROM_PART_PROTOCOLS, i, 0, DROM_REASON_NULL);
        }
        if (protocol->number == DROM_NO_PROTOCOL || protocol->number == DROM_UNKNOWN ||
            is_among(plan, i, protocol->number)) {
            return drom_blame(fault, DROM_PART_PROTOCOLS, i, 0, DROM_REASON_NUMBER);
        }
        if (protocol->accepts != NULL && !protocol->accepts(protocol->timing)) {
            return drom_blame(fault, DROM_PART_PROTOCOLS, i, 0, DROM_REASON_TIMING);
        }
        if (protocol->period_us == 0 && protocol->gap_us == 0) {
            return drom_blame(fault, DROM_PART_PROTOCOLS, i, 0, DROM_REASON_PERIOD);
        }
    }
    return true;
}

/* Sort key of a code: command, address, protocol. */
static uint64_t order_of(drom_code code)
{
    return (uint64_t)code.command << 40 | (uint64_t)code.address << 8 | code.protocol;
}

/* True if the index of a handset's codes is complete and sorted. */
static bool is_listed(const drom_handset *handset)
{
    if (handset->by_code.count == 0) {
        return true;
    }
    if (handset->by_code.rows == NULL || handset->by_code.count != handset->codes.count) {
        return false;
    }
    for (uint8_t i = 0; i < handset->by_code.count; i++) {
        const uint8_t key = handset->by_code.rows[i];
        if (key >= handset->codes.count) {
            return false;
        }
        if (i > 0) {
            const uint8_t key_before = handset->by_code.rows[i - 1];
            if (order_of(handset->codes.rows[key_before]) > order_of(handset->codes.rows[key]) ||
                key == key_before) {
                return false;
            }
        }
    }
    return true;
}

static bool check_keys(const drom_plan DROM_FLASH *plan, drom_fault *fault)
{
    const drom_keys_plan DROM_FLASH *const keys = &plan->keys;
    const drom_receive_plan receive =
        plan->receive; /* a copy: avr-gcc 5.4 fails on null tests of flash pointers */
    if (keys->handsets.count > 0 && (keys->handsets.rows == NULL || keys->holds == NULL ||
                                     (keys->repeat_after_ms != 0 && keys->ticks == NULL))) {
        return drom_blame(fault, DROM_PART_HANDSETS, 0, 0, DROM_REASON_NULL);
    }
    for (uint8_t i = 0; i < keys->handsets.count; i++) {
        const drom_handset handset = keys->handsets.rows[i];
        if (handset.codes.count > 0 && handset.codes.rows == NULL) {
            return drom_blame(fault, DROM_PART_HANDSETS, i, 0, DROM_REASON_NULL);
        }
        if (!is_listed(&handset)) {
            return drom_blame(fault, DROM_PART_HANDSETS, i, 0, DROM_REASON_ORDER);
        }
        for (uint8_t key = 0; key < handset.codes.count; key++) {
            const uint8_t number = handset.codes.rows[key].protocol;
            if (number == DROM_NO_PROTOCOL) {
                continue; /* of a button */
            }
            if (number == DROM_UNKNOWN ? receive.unknown.memory == NULL
                                       : !is_among(&plan->receive, receive.protocols.count, number)) {
                return drom_blame(fault, DROM_PART_HANDSETS, i, key, DROM_REASON_UNKNOWN_PROTOCOL);
            }
        }
    }
    if (keys->hold_ms.count > 0 && keys->hold_ms.rows == NULL) {
        return drom_blame(fault, DROM_PART_HOLD_MS, 0, 0, DROM_REASON_NULL);
    }
    for (uint8_t i = 0; i < keys->hold_ms.count; i++) {
        if (keys->hold_ms.rows[i] <= (i > 0 ? keys->hold_ms.rows[i - 1] : 0)) {
            return drom_blame(fault, DROM_PART_HOLD_MS, i, 0, DROM_REASON_ORDER);
        }
    }
    return true;
}

static drom_reason check_contact(const drom_plan DROM_FLASH *plan, drom_contact contact, uint8_t pins)
{
    if (contact.pin >= pins) {
        return DROM_REASON_PIN;
    }
    if (contact.handset == DROM_NONE) {
        return contact.row < plan->rules.switches.count ? DROM_REASON_NONE : DROM_REASON_NO_SWITCH;
    }
    if (contact.handset >= plan->keys.handsets.count) {
        return DROM_REASON_NO_HANDSET;
    }
    return contact.row < plan->keys.handsets.rows[contact.handset].codes.count ? DROM_REASON_NONE
                                                                               : DROM_REASON_NO_KEY;
}

static bool check_contacts(const drom_plan DROM_FLASH *plan, uint8_t pins, drom_fault *fault)
{
    const drom_contacts_plan contacts = plan->contacts;
    if (contacts.contacts.count > 0 &&
        (contacts.contacts.rows == NULL || contacts.touches == NULL || contacts.next == NULL)) {
        return drom_blame(fault, DROM_PART_CONTACTS, 0, 0, DROM_REASON_NULL);
    }
    for (uint8_t i = 0; i < contacts.contacts.count; i++) {
        const drom_reason reason =
            i < DROM_MAX_CONTACTS ? check_contact(plan, contacts.contacts.rows[i], pins) : DROM_REASON_LIMITS;
        if (reason != DROM_REASON_NONE) {
            return drom_blame(fault, DROM_PART_CONTACTS, i, 0, reason);
        }
    }
    return true;
}

static bool check_doubles(const drom_keys_plan DROM_FLASH *keys, drom_fault *fault)
{
    if (keys->doubles.count > 0 && keys->doubles.rows == NULL) {
        return drom_blame(fault, DROM_PART_DOUBLES, 0, 0, DROM_REASON_NULL);
    }
    for (uint8_t i = 0; i < keys->doubles.count; i++) {
        const drom_key_ref key = keys->doubles.rows[i];
        if (key.handset >= keys->handsets.count) {
            return drom_blame(fault, DROM_PART_DOUBLES, i, 0, DROM_REASON_NO_HANDSET);
        }
        if (key.key >= keys->handsets.rows[key.handset].codes.count) {
            return drom_blame(fault, DROM_PART_DOUBLES, i, 0, DROM_REASON_NO_KEY);
        }
    }
    if (keys->doubles.count > 0 && keys->taps == NULL) {
        return drom_blame(fault, DROM_PART_DOUBLES, 0, 0, DROM_REASON_NULL);
    }
    return true;
}

static bool check_outputs(const drom_outputs_plan DROM_FLASH *plan, const drom_port_facts *facts,
                          drom_fault *fault)
{
    if (plan->outputs.count > 0 && plan->outputs.rows == NULL) {
        return drom_blame(fault, DROM_PART_OUTPUTS, 0, 0, DROM_REASON_NULL);
    }
    if (plan->outputs.count > DROM_ANY_OUTPUT) {
        return drom_blame(fault, DROM_PART_OUTPUTS, DROM_ANY_OUTPUT, 0, DROM_REASON_NO_OUTPUT);
    }
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output output = plan->outputs.rows[i];
        if (output.kind == NULL || output.settings == NULL || output.state == NULL) {
            return drom_blame(fault, DROM_PART_OUTPUTS, i, 0, DROM_REASON_NULL);
        }
        const drom_output_kind kind = *output.kind;
        uint8_t item = 0;
        const drom_reason reason = kind.check_settings != NULL
                                       ? kind.check_settings(output.settings, facts, &item)
                                       : DROM_REASON_NONE;
        if (reason != DROM_REASON_NONE) {
            return drom_blame(fault, DROM_PART_OUTPUTS, i, item, reason);
        }
    }
    return true;
}

/* True if an output is already in an interlock, up to this one. */
static bool is_interlocked(const drom_outputs_plan DROM_FLASH *plan, uint8_t last, uint8_t place, uint8_t row)
{
    for (uint8_t i = 0; i <= last; i++) {
        const drom_interlock interlock = plan->interlocks.rows[i];
        const uint8_t count = i == last ? place : interlock.outputs.count;
        for (uint8_t j = 0; j < count; j++) {
            if (interlock.outputs.rows[j] == row) {
                return true;
            }
        }
    }
    return false;
}

/* True if another output orders this one directly. */
static bool is_driven_by_other(const drom_outputs_plan DROM_FLASH *plan, uint8_t row)
{
    const void *const state = plan->outputs.rows[row].state;
    bool is_so = false;
    for (uint8_t i = 0; i < plan->outputs.count; i++) {
        const drom_output other = plan->outputs.rows[i];
        const drom_output_kind kind = *other.kind;
        is_so |= kind.drives != NULL && kind.drives(other.settings, state);
    }
    return is_so;
}

static bool check_interlocks(const drom_outputs_plan DROM_FLASH *plan, drom_fault *fault)
{
    if (plan->interlocks.count > 0 && plan->interlocks.rows == NULL) {
        return drom_blame(fault, DROM_PART_INTERLOCKS, 0, 0, DROM_REASON_NULL);
    }
    for (uint8_t i = 0; i < plan->interlocks.count; i++) {
        const drom_interlock interlock = plan->interlocks.rows[i];
        if (interlock.outputs.rows == NULL || interlock.state == NULL) {
            return drom_blame(fault, DROM_PART_INTERLOCKS, i, 0, DROM_REASON_NULL);
        }
        if (interlock.outputs.count > DROM_INTERLOCKED) {
            return drom_blame(fault, DROM_PART_INTERLOCKS, i, DROM_INTERLOCKED, DROM_REASON_LIMITS);
        }
        for (uint8_t j = 0; j < interlock.outputs.count; j++) {
            const uint8_t row = interlock.outputs.rows[j];
            if (row >= plan->outputs.count || is_interlocked(plan, i, j, row)) {
                return drom_blame(fault, DROM_PART_INTERLOCKS, i, j, DROM_REASON_NO_OUTPUT);
            }
            const drom_output_kind kind = *plan->outputs.rows[row].kind;
            if (kind.bar == NULL || kind.is_driven == NULL || kind.is_on == NULL ||
                is_driven_by_other(plan, row)) {
                return drom_blame(fault, DROM_PART_INTERLOCKS, i, j, DROM_REASON_VERB);
            }
        }
    }
    return true;
}

static bool check_posts(const drom_events_plan DROM_FLASH *plan, drom_fault *fault)
{
    const drom_events_plan events = *plan;
    return events.posts.count == 0 || events.posts.rows != NULL ||
           drom_blame(fault, DROM_PART_POSTS, 0, 0, DROM_REASON_NULL);
}

static bool check_kept(const drom_plan DROM_FLASH *plan, drom_fault *fault)
{
    const drom_kept_plan kept = plan->kept;
    if (kept.values.count > DROM_KEPT_VALUES) {
        return drom_blame(fault, DROM_PART_KEPT, DROM_KEPT_VALUES, 0, DROM_REASON_LIMITS);
    }
    if (kept.values.count > 0 &&
        (kept.values.rows == NULL || kept.record == NULL || kept.seen == NULL || kept.state == NULL)) {
        return drom_blame(fault, DROM_PART_KEPT, 0, 0, DROM_REASON_NULL);
    }
    for (uint8_t i = 0; i < kept.values.count; i++) {
        if (kept.values.rows[i] >= plan->rules.values.count) {
            return drom_blame(fault, DROM_PART_KEPT, i, 0, DROM_REASON_NO_VALUE);
        }
    }
    return true;
}

static bool check_guard(const drom_guard_plan DROM_FLASH *plan, uint8_t pins, drom_fault *fault)
{
    const drom_guard_plan guard = *plan;
    if (guard.pins.count > 0 && guard.pins.rows == NULL) {
        return drom_blame(fault, DROM_PART_GUARD, 0, 0, DROM_REASON_NULL);
    }
    if ((guard.pins.count > 0 || guard.ms > 0) &&
        (guard.ms < DROM_GUARD_MIN_MS || guard.ms > DROM_GUARD_MAX_MS)) {
        return drom_blame(fault, DROM_PART_GUARD, 0, 0, DROM_REASON_LIMITS);
    }
    for (uint8_t i = 0; i < guard.pins.count; i++) {
        if (guard.pins.rows[i].pin >= pins) {
            return drom_blame(fault, DROM_PART_GUARD, i, 0, DROM_REASON_PIN);
        }
    }
    return true;
}

drom_status drom_plan_check(const drom_plan DROM_FLASH *plan, const drom_port_facts *facts, drom_fault *fault)
{
    drom_fault unwanted = {0};
    drom_fault *const found = fault != NULL ? fault : &unwanted;
    const bool is_sound = check_receive(&plan->receive, found) && check_keys(plan, found) &&
                          check_contacts(plan, facts->pins, found) && check_doubles(&plan->keys, found) &&
                          check_posts(&plan->events, found) && check_outputs(&plan->outputs, facts, found) &&
                          check_interlocks(&plan->outputs, found) &&
                          check_guard(&plan->guard, facts->pins, found) && check_kept(plan, found) &&
                          drom_check_rules(plan, found);
    return is_sound && drom_check_features(drom_plan_uses(plan), found) ? DROM_OK : DROM_BAD_PLAN;
}
#endif
