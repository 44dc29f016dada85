/* A computer at the USB of a simulated chip: it enumerates the keyboard as an operating system does, and
 * reads its reports. */
#ifndef DROMIKOS_TESTS_HOST_H
#define DROMIKOS_TESTS_HOST_H

#include <simavr/sim_avr.h>

#include <stdbool.h>
#include <stdint.h>

enum { HOST_MAX_REPORTS = 500, HOST_MAX_BYTES = 16 };

typedef struct host_report {
    uint64_t at; /* cycle at which the computer took it */
    uint8_t bytes[HOST_MAX_BYTES];
    unsigned count;
} host_report;

typedef struct usb_host {
    avr_t *avr;
    uint8_t interface;
    uint8_t endpoint;
    unsigned poll_ms;
    bool is_boot; /* it has chosen the boot protocol */
    host_report reports[HOST_MAX_REPORTS];
    unsigned count;
    unsigned busy; /* longest time of an enumeration's request, in cycles */
} usb_host;

/* Resets the bus, reads the descriptors, checks them, and configures the device. The chip runs meanwhile.
 * Returns NULL, or what is wrong. */
const char *host_enumerate(usb_host *host, avr_t *avr);

/* Takes a report, if there is one: ids are checked and removed. Call it each poll_ms. False if a report is
 * wrong. */
bool host_poll(usb_host *host);

/* Chooses the protocol: boot or report. Likewise. */
const char *host_choose(usb_host *host, bool is_boot);

#endif
