/* USB 2.0, 9.4 (standard requests) and 9.6 (descriptors); HID 1.11, 6.2 and 7.2. The simulator gives packets:
 * a request is set up, its data are read or written, and an empty packet the other way ends it. */
#include "host.h"

#include <simavr/avr_usb.h>

#include <string.h>

enum { CONTROL_BYTES = 64, MAX_DESCRIPTOR = 512, PATIENCE_CYCLES = 16000000, STEP_CYCLES = 800 };

typedef struct request {
    uint8_t type;
    uint8_t code;
    uint16_t value;
    uint16_t index;
    uint16_t length;
} request;

static void run(avr_t *avr, uint64_t cycles)
{
    const uint64_t until = avr->cycle + cycles;
    while (avr->cycle < until) {
        (void)avr_run(avr);
    }
}

/* Repeats a packet until the chip takes or gives it. False: it stalls, or doesn't answer for a second. */
static bool transfer(avr_t *avr, uint32_t how, struct avr_io_usb *packet)
{
    const uint64_t until = avr->cycle + PATIENCE_CYCLES;
    const uint32_t size = packet->sz;
    for (;;) {
        packet->sz = size;
        const int answer = avr_ioctl(avr, how, packet);
        if (answer != AVR_IOCTL_USB_NAK) {
            return answer == AVR_IOCTL_USB_OK;
        }
        if (avr->cycle > until) {
            return false;
        }
        run(avr, STEP_CYCLES);
    }
}

/* Makes a request. Data go to, or come from, `data`; returns their number, or -1. */
static int ask(usb_host *host, request asked, uint8_t *data)
{
    struct avr_io_usb packet = {.pipe = 0, .sz = sizeof asked, .buf = (uint8_t *)&asked};
    const uint64_t from = host->avr->cycle;
    const bool is_read = (asked.type & 0x80) != 0;
    unsigned count = 0;
    if (avr_ioctl(host->avr, AVR_IOCTL_USB_SETUP, &packet) != AVR_IOCTL_USB_OK) {
        return -1;
    }
    run(host->avr, STEP_CYCLES);
    while (is_read && count < asked.length) {
        packet = (struct avr_io_usb){.pipe = 0, .sz = CONTROL_BYTES, .buf = data + count};
        if (!transfer(host->avr, AVR_IOCTL_USB_READ, &packet)) {
            return -1;
        }
        count += packet.sz;
        if (packet.sz < CONTROL_BYTES) {
            break;
        }
    }
    uint8_t nothing[CONTROL_BYTES];
    packet = (struct avr_io_usb){.pipe = 0, .sz = is_read ? 0 : CONTROL_BYTES, .buf = nothing};
    if (!transfer(host->avr, is_read ? AVR_IOCTL_USB_WRITE : AVR_IOCTL_USB_READ, &packet)) {
        return -1;
    }
    const unsigned lasted = (unsigned)(host->avr->cycle - from);
    host->busy = lasted > host->busy ? lasted : host->busy;
    return (int)count;
}

/* Finds interface and endpoint of the keyboard in a configuration. Returns the length of its report
 * descriptor; 0: there is none. */
static unsigned find_keyboard(usb_host *host, const uint8_t *bytes, unsigned count)
{
    enum { INTERFACE = 4, ENDPOINT = 5, HID = 0x21, HID_CLASS = 3, BOOT = 1, KEYBOARD = 1, INTERRUPT = 3 };
    bool is_keyboard = false;
    unsigned length = 0;
    for (unsigned at = 0; at + 2 <= count && bytes[at] >= 2; at += bytes[at]) {
        const uint8_t *const one = bytes + at;
        if (one[1] == INTERFACE) {
            is_keyboard = one[5] == HID_CLASS && one[6] == BOOT && one[7] == KEYBOARD;
            host->interface = is_keyboard ? one[2] : host->interface;
        } else if (one[1] == HID && is_keyboard) {
            length = one[7] | (unsigned)one[8] << 8;
        } else if (one[1] == ENDPOINT && is_keyboard && (one[2] & 0x80) != 0 && one[3] == INTERRUPT) {
            host->endpoint = one[2] & 0x7f;
            host->poll_ms = one[6];
        }
    }
    return length;
}

/* Reads a report descriptor: its collections must be a keyboard with id 1 and 64 bits, and media keys with id
 * 2 and 16. */
static bool is_as_it_should_be(const uint8_t *bytes, unsigned count)
{
    unsigned bits[3] = {0};
    uint32_t pages[3] = {0};
    uint32_t page = 0;
    uint32_t size = 0;
    uint32_t number = 0;
    uint32_t id = 0;
    int depth = 0;
    for (unsigned at = 0; at < count;) {
        static const unsigned sizes[] = {0, 1, 2, 4};
        const unsigned length = sizes[bytes[at] & 3];
        uint32_t value = 0;
        for (unsigned i = 0; i < length && at + 1 + i < count; i++) {
            value |= (uint32_t)bytes[at + 1 + i] << 8 * i;
        }
        switch (bytes[at] & 0xfc) {
        case 0x04:
            page = value;
            break;
        case 0x74:
            size = value;
            break;
        case 0x94:
            number = value;
            break;
        case 0x84:
            id = value < 3 ? value : 0;
            break;
        case 0x80:
            bits[id] += size * number;
            pages[id] = page;
            break;
        case 0xa0:
            depth++;
            break;
        case 0xc0:
            depth--;
            break;
        default:
            break;
        }
        at += 1 + length;
    }
    return depth == 0 && bits[0] == 0 && bits[1] == 64 && pages[1] == 7 && bits[2] == 16 && pages[2] == 12;
}

const char *host_enumerate(usb_host *host, avr_t *avr)
{
    enum { DEVICE = 0x100, CONFIGURATION = 0x200, REPORT = 0x2200, RESET_CYCLES = 160000, NEW_ADDRESS = 5 };
    uint8_t bytes[MAX_DESCRIPTOR] = {0};
    *host = (usb_host){.avr = avr};
    (void)avr_ioctl(avr, AVR_IOCTL_USB_VBUS, (void *)1);
    run(avr, RESET_CYCLES);
    (void)avr_ioctl(avr, AVR_IOCTL_USB_RESET, NULL);
    run(avr, RESET_CYCLES);
    if (ask(host, (request){0x80, 6, DEVICE, 0, 18}, bytes) != 18 || bytes[0] != 18 || bytes[1] != 1) {
        return "the device descriptor can't be read";
    }
    if (ask(host, (request){0x00, 5, NEW_ADDRESS, 0, 0}, bytes) < 0) {
        return "the device takes no address";
    }
    if (ask(host, (request){0x80, 6, CONFIGURATION, 0, 9}, bytes) != 9) {
        return "the configuration can't be read";
    }
    const unsigned total = bytes[2] | (unsigned)bytes[3] << 8;
    if (total > sizeof bytes ||
        ask(host, (request){0x80, 6, CONFIGURATION, 0, (uint16_t)total}, bytes) != (int)total) {
        return "the whole configuration can't be read";
    }
    const unsigned length = find_keyboard(host, bytes, total);
    if (length == 0 || host->endpoint == 0 || host->poll_ms == 0) {
        return "the configuration has no keyboard for the boot protocol";
    }
    if (ask(host, (request){0x00, 9, 1, 0, 0}, bytes) < 0) {
        return "the device can't be configured";
    }
    if (ask(host, (request){0x21, 10, 0, host->interface, 0}, bytes) < 0) {
        return "the keyboard refuses an idle rate of 0";
    }
    if (length > sizeof bytes ||
        ask(host, (request){0x81, 6, REPORT, host->interface, (uint16_t)length}, bytes) != (int)length ||
        !is_as_it_should_be(bytes, length)) {
        return "the report descriptor isn't that of a keyboard with media keys";
    }
    return NULL;
}

bool host_poll(usb_host *host)
{
    uint8_t bytes[CONTROL_BYTES];
    struct avr_io_usb packet = {.pipe = host->endpoint, .sz = sizeof bytes, .buf = bytes};
    if (avr_ioctl(host->avr, AVR_IOCTL_USB_READ, &packet) != AVR_IOCTL_USB_OK || packet.sz == 0) {
        return true;
    }
    const unsigned ids = host->is_boot ? 0 : 1;
    const bool is_keys = host->is_boot || bytes[0] == 1;
    const unsigned count = packet.sz - ids;
    if (host->count == HOST_MAX_REPORTS || count != (is_keys ? 8 : 2) || (!is_keys && bytes[0] != 2)) {
        return false;
    }
    host_report *const report = &host->reports[host->count++];
    *report = (host_report){.at = host->avr->cycle, .count = count};
    memcpy(report->bytes, bytes + ids, count);
    return true;
}

const char *host_choose(usb_host *host, bool is_boot)
{
    uint8_t bytes[CONTROL_BYTES];
    if (ask(host, (request){0x21, 11, is_boot ? 0 : 1, host->interface, 0}, bytes) < 0 ||
        ask(host, (request){0xa1, 3, 0, host->interface, 1}, bytes) != 1 || bytes[0] != (is_boot ? 0 : 1)) {
        return "the keyboard can't change its protocol";
    }
    host->is_boot = is_boot;
    return NULL;
}
