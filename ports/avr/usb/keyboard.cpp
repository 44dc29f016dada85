/* A module of the IDE core's own USB: one interface, one endpoint. Keys and media keys share the endpoint by
 * report ids, but for a computer that has chosen the boot protocol, which has keys only and no ids. Device
 * Class Definition for HID 1.11: 6.2 (descriptors), 7.2 (requests), appendix B.1 (the boot keyboard). */
#include "../../../include/dromikos/config.h"
#include "keyboard.h"

#include <avr/io.h>

#if DROM_WITH_HID && defined(USBCON)
#include <PluggableUSB.h>
#include <avr/pgmspace.h>
#include <string.h>

namespace {

enum { KEYS_ID = 1, MEDIA_ID = 2, KEYS_BYTES = 8, MEDIA_BYTES = 2, POLL_MS = 8 };
enum { GET_REPORT = 1, GET_IDLE = 2, GET_PROTOCOL = 3, SET_IDLE = 10, SET_PROTOCOL = 11 };
enum { BOOT_PROTOCOL = 0, REPORT_PROTOCOL = 1, HID_TYPE = 0x21, REPORT_TYPE = 0x22, BOOT = 1, KEYBOARD = 1 };

const uint8_t reports[] PROGMEM =
    {
        0x05, 0x01, 0x09, 0x06, 0xa1, 0x01, 0x85, KEYS_ID, /* generic desktop, keyboard */
        0x05, 0x07, 0x19, 0xe0, 0x29, 0xe7, 0x15, 0x00,     0x25,
        0x01, 0x75, 0x01, 0x95, 0x08, 0x81, 0x02, /* modifiers */
        0x75, 0x08, 0x95, 0x01, 0x81, 0x03,       /* a byte 0 */
        0x19, 0x00, 0x2a, 0xff, 0x00, 0x15, 0x00, 0x26,     0xff,
        0x00, 0x95, 0x06, 0x81, 0x00, 0xc0,                 /* six keys */
        0x05, 0x0c, 0x09, 0x01, 0xa1, 0x01, 0x85, MEDIA_ID, /* consumer controls */
        0x19, 0x00, 0x2a, 0xff, 0x7f, 0x15, 0x00, 0x26,     0xff,
        0x7f, 0x75, 0x10, 0x95, 0x01, 0x81, 0x00, 0xc0,
};

uint8_t endpoint_types[] = {EP_TYPE_INTERRUPT_IN};

struct __attribute__((packed)) hid_interface {
    InterfaceDescriptor interface;
    uint8_t hid[9];
    EndpointDescriptor endpoint;
};

class keyboard_module : public PluggableUSBModule {
  public:
    keyboard_module() : PluggableUSBModule(1, 1, endpoint_types)
    {
        PluggableUSB().plug(this);
    }

    bool send(const uint8_t *report, uint8_t count)
    {
        uint8_t packet[1 + KEYS_BYTES];
        const uint8_t ids = protocol == REPORT_PROTOCOL ? 1 : 0;
        if (!is_ready() || USB_SendSpace(pluggedEndpoint) < USB_EP_SIZE) {
            return false;
        }
        if (count == KEYS_BYTES) {
            memcpy(last, report, sizeof last);
        } else if (ids == 0) {
            return true; /* the boot protocol has no media keys */
        }
        packet[0] = count == KEYS_BYTES ? KEYS_ID : MEDIA_ID;
        memcpy(packet + ids, report, count);
        return USB_Send(pluggedEndpoint | TRANSFER_RELEASE, packet, ids + count) > 0;
    }

    bool is_ready() const
    {
        return USBDevice.configured() && !USBDevice.isSuspended() && (UDCON & (1 << DETACH)) == 0;
    }

  protected:
    int getInterface(uint8_t *count) override
    {
        const hid_interface shown = {
            D_INTERFACE(pluggedInterface, 1, USB_DEVICE_CLASS_HUMAN_INTERFACE, BOOT, KEYBOARD),
            {9, HID_TYPE, 0x11, 0x01, 0, 1, REPORT_TYPE, sizeof reports, 0},
            D_ENDPOINT(USB_ENDPOINT_IN(pluggedEndpoint), USB_ENDPOINT_TYPE_INTERRUPT, USB_EP_SIZE, POLL_MS)};
        *count += 1;
        return USB_SendControl(0, &shown, sizeof shown);
    }

    int getDescriptor(USBSetup &setup) override
    {
        if (setup.bmRequestType != REQUEST_DEVICETOHOST_STANDARD_INTERFACE || setup.wValueH != REPORT_TYPE ||
            setup.wIndex != pluggedInterface) {
            return 0;
        }
        protocol = REPORT_PROTOCOL; /* at each enumeration */
        return USB_SendControl(TRANSFER_PGM, reports, sizeof reports);
    }

    bool setup(USBSetup &setup) override
    {
        const bool is_asked = setup.bmRequestType == REQUEST_DEVICETOHOST_CLASS_INTERFACE;
        const bool is_told = setup.bmRequestType == REQUEST_HOSTTODEVICE_CLASS_INTERFACE;
        if (setup.wIndex != pluggedInterface) {
            return false;
        }
        if (is_asked && setup.bRequest == GET_REPORT) {
            return USB_SendControl(0, last, sizeof last) >= 0;
        }
        if (is_asked && (setup.bRequest == GET_IDLE || setup.bRequest == GET_PROTOCOL)) {
            return USB_SendControl(0, setup.bRequest == GET_IDLE ? &idle : &protocol, 1) >= 0;
        }
        if (is_told && setup.bRequest == SET_IDLE) {
            idle = setup.wValueH;
            return true;
        }
        if (is_told && setup.bRequest == SET_PROTOCOL) {
            protocol = setup.wValueL;
            return true;
        }
        return false;
    }

  private:
    uint8_t protocol = REPORT_PROTOCOL;
    uint8_t idle = 0;
    uint8_t last[KEYS_BYTES] = {0};
};

keyboard_module keyboard;

} // namespace

bool drom_avr_keyboard_send(const uint8_t *report, uint8_t count)
{
    return keyboard.send(report, count);
}

bool drom_avr_keyboard_is_ready(void)
{
    return keyboard.is_ready();
}
#endif
