/* Contacts bounce: a contact has changed when enough samples in a row say so. Motors and steppers see the
 * change at once; its event is queued when there is room. */
#include "../compiler.h"

#include "../../include/dromikos/internal/keys.h"
#include "../../include/dromikos/internal/queue.h"

void drom_contacts_init(const drom_contacts_plan DROM_FLASH *plan, drom_us now)
{
    for (uint8_t i = 0; i < plan->contacts.count; i++) {
        plan->touches[i] = (drom_touch){0};
    }
    if (plan->contacts.count > 0) {
        drom_deadline_arm(plan->next, now, DROM_CONTACT_LOOK_US);
    }
}

/* Reports a held button at each sample, so that it stays down. */
static void report(const drom_contact *contact, const drom_touch *touch, bool has_changed, drom_keys *keys,
                   drom_events *events, drom_us now)
{
    if (contact->handset != DROM_NONE) {
        drom_keys_touch(keys, contact->handset, contact->row, touch->is_closed, has_changed, now);
    } else {
        (void)drom_events_post(events, &(drom_event){.source = DROM_SOURCE_SWITCH,
                                                     .row = contact->row,
                                                     .key = touch->is_closed ? DROM_CLOSES : DROM_OPENS});
    }
}

/* Posts a change that isn't reported yet: at most one per call, if there is room. False if there was none. */
static bool report_change(const drom_contacts_plan DROM_FLASH *plan, drom_keys *keys, drom_events *events,
                          drom_us now)
{
    for (uint8_t i = 0; i < plan->contacts.count; i++) {
        drom_touch *const touch = &plan->touches[i];
        if (touch->is_closed == touch->was_closed) {
            continue;
        }
        if (drom_events_have_room(events)) {
            const drom_contact contact = plan->contacts.rows[i];
            touch->was_closed = touch->is_closed;
            report(&contact, touch, true, keys, events, now);
        }
        return true;
    }
    return false;
}

static void look(const drom_contacts_plan DROM_FLASH *plan, const drom_port DROM_FLASH *port, drom_keys *keys,
                 drom_events *events, drom_us now)
{
    for (uint8_t i = 0; i < plan->contacts.count; i++) {
        const drom_contact contact = plan->contacts.rows[i];
        drom_touch *const touch = &plan->touches[i];
        const bool is_closed = !port->pins->read(port->context, contact.pin);
        touch->looks = is_closed == touch->is_closed ? 0 : (uint8_t)(touch->looks + 1);
        if (touch->looks >= DROM_CONTACT_LOOKS) {
            touch->is_closed = is_closed;
            touch->looks = 0;
        } else if (touch->is_closed && touch->was_closed && touch->looks == 0 &&
                   contact.handset != DROM_NONE && drom_events_have_room(events)) {
            report(&contact, touch, false, keys, events, now);
        }
    }
}

drom_wait drom_contacts_pass(const drom_contacts_plan DROM_FLASH *plan, const drom_port DROM_FLASH *port,
                             drom_keys *keys, drom_events *events, drom_us now)
{
    if (plan->contacts.count == 0) {
        return DROM_LONG;
    }
    if (drom_deadline_passed(plan->next, now)) {
        look(plan, port, keys, events, now);
        drom_deadline_arm(plan->next, now, DROM_CONTACT_LOOK_US);
    }
    return report_change(plan, keys, events, now) ? 0 : drom_deadline_wait(plan->next, now);
}
