/* Contacts between a pin and ground: buttons, whose presses are a handset's, and switches. */
#ifndef DROMIKOS_CONTACTS_H
#define DROMIKOS_CONTACTS_H

#include "events.h"
#include "keys.h"
#include "port.h"

/** In the place of a contact's handset: it is a switch. */
#define DROM_A_SWITCH 255

/** A contact: closed where its pin, which rests high, is low. */
typedef struct drom_contact {
    uint8_t pin;
    uint8_t handset; /**< row of the handset whose key it is; or DROM_A_SWITCH */
    uint8_t row;     /**< that key, or the row of the rules' switches */
} drom_contact;

/** What is known of a contact. */
typedef struct drom_touch {
    uint8_t looks;   /**< in a row that said the contrary */
    bool is_closed;  /**< as the looks have it: what stops a motor at its end */
    bool was_closed; /**< as its newest event had it */
} drom_touch;

/** What a plan says of its contacts. A button's code is {.protocol = DROM_NO_PROTOCOL}, which no
 * frame has. */
typedef struct drom_contacts_plan {
    DROM_TABLE(drom_contact) contacts; /**< at most DROM_MAX_CONTACTS */
    drom_touch *touches;               /**< as many */
    drom_deadline *next;               /**< when they are looked at */
} drom_contacts_plan;

/** Each is looked at every 4 ms, and has changed when four looks in a row say so: 12 to 16 ms later. It may
 * bounce for 12 ms. */
enum { DROM_MAX_CONTACTS = 16, DROM_CONTACT_LOOK_US = 4000, DROM_CONTACT_LOOKS = 4 };

/** All are open, as far as is known. Main only. */
void drom_contacts_init(const drom_contacts_plan DROM_FLASH *plan, drom_us now);

/** Looks at them, if it is time, and posts at most one change, and what goes on while a button is held, as
 * far as the queue has room: the rest comes with the next call. The wait in µs until it must be called again.
 * Main only; takes 5 µs a contact. */
drom_wait drom_contacts_pass(const drom_contacts_plan DROM_FLASH *plan, const drom_port DROM_FLASH *port,
                             drom_keys *keys, drom_events *events, drom_us now);

#endif
