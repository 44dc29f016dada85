/* The core on an ATmega328P, in the simulator: each protocol is encoded and decoded there, and a press with a
 * whole plan must reach a pin. Prints a line per protocol on the serial port, and at the end "ok" or
 * "failed". */
#include "dromikos/dromikos.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/internal/receive.h"
#include "dromikos/encode.h"

#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>

static const drom_protocol_ref DROM_FLASH protocols[] = {
#define DROM_PROTOCOL(name, row, number) &drom_##row,
#include "dromikos/protocols.def.h"
};
enum { PROTOCOLS = sizeof protocols / sizeof protocols[0] };
static drom_decoder decoders[PROTOCOLS];
static const drom_receive_plan DROM_FLASH everything = {.protocols = DROM_ROWS(protocols),
                                                        .decoders = decoders};

static const drom_protocol_ref DROM_FLASH nec_only[] = {&drom_nec};
static const drom_code DROM_FLASH keys[] = {{DROM_NEC, 33, 68}, {DROM_NEC, 33, 69}};
static const drom_handset DROM_FLASH handsets[] = {{.codes = DROM_ROWS(keys)}};
static const drom_relay_settings DROM_FLASH spot = {.pin = 4, .is_active_low = true};
static drom_relay_state spot_state;
static const drom_output DROM_FLASH outputs[] = {DROM_RELAY(spot, spot_state)};
static const drom_action DROM_FLASH pulse[] = {DROM_ORDER(0, DROM_RELAY_PULSE, 300)};
static const drom_rule DROM_FLASH rules[] = {DROM_WHEN_KEY(0, 1, DROM_PRESS, pulse)};
static drom_hold holds[1];
static drom_last_press last_presses[1];
static const drom_plan DROM_FLASH stage = {
    .receive = {.protocols = DROM_ROWS(nec_only), .decoders = decoders},
    .keys = {.handsets = DROM_ROWS(handsets), .holds = holds},
    .rules = {.rules = DROM_ROWS(rules), .last_presses = DROM_ROWS(last_presses)},
    .outputs = {.outputs = DROM_ROWS(outputs)},
};

static drom_us now;
static uint8_t writes; /* until the pin changes */
static bool pin_is_high;

static void put(char letter)
{
    while ((UCSR0A & (1 << UDRE0)) == 0) {
    }
    UDR0 = (uint8_t)letter;
}

static void put_text(const char DROM_FLASH *text)
{
    for (; *text != '\0'; text++) {
        put(*text);
    }
}

static drom_us port_now(void *context)
{
    (void)context;
    return now;
}

static void port_write_pin(void *context, uint8_t pin, bool is_high)
{
    (void)context;
    writes = pin == 4 ? (uint8_t)(writes + 1) : writes;
    pin_is_high = is_high;
}

/* Lets time pass as in a poll loop; true if the code was received. */
static bool pass(drom_receiver *receiver, drom_us us, const drom_code *code)
{
    const drom_us until = now + us;
    drom_frame frame;
    bool is_heard = false;
    bool is_there = false;
    while (!is_there) {
        const drom_us wait = drom_receiver_wait(receiver, now);
        is_there = wait >= until - now;
        now = is_there ? until : now + wait;
        while (drom_receiver_advance(receiver, now, &frame)) {
            is_heard |= drom_code_equal(&frame.code, code);
        }
    }
    return is_heard;
}

static bool is_read_back(const drom_waveform DROM_FLASH *waveform)
{
    static drom_receiver receiver;
    const drom_code code = {waveform->protocol->number, waveform->min_address, 9};
    drom_encoder encoder;
    bool is_mark = true;
    bool is_heard = false;
    drom_receiver_init(&receiver, &everything);
    now = UINT32_C(0xffffff00); /* the clock wraps within the frame */
    if (drom_encode_begin(&encoder, waveform, &code, DROM_SEND_FIRST, true) != DROM_OK) {
        return false;
    }
    for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
        drom_receiver_edge(&receiver, &(drom_edge){now, is_mark, false}, 0);
        is_heard |= pass(&receiver, us, &code);
        is_mark = !is_mark;
    }
    drom_receiver_edge(&receiver, &(drom_edge){now, false, false}, 0);
    return pass(&receiver, 20000, &code) || is_heard;
}

/* A poll does one thing at a time. */
static void poll_all(drom_engine *engine)
{
    for (uint8_t i = 0; i < 12 && drom_engine_poll(engine) == 0; i++) {
    }
}

static bool reaches_its_pin(void)
{
    static drom_engine engine;
    static const drom_port_clock DROM_FLASH clock = {.now = port_now};
    static const drom_port_pins DROM_FLASH pins = {.write = port_write_pin};
    static const drom_port DROM_FLASH port = {.facts = {.pins = 20}, .clock = &clock, .pins = &pins};
    const drom_code code = {DROM_NEC, 33, 69};
    drom_encoder encoder;
    bool is_mark = true;
    if (drom_engine_start(&engine, &stage, &port) != DROM_OK || writes != 1 || !pin_is_high) {
        return false;
    }
    (void)drom_encode_begin(&encoder, &drom_nec_waveform, &code, DROM_SEND_FIRST, false);
    for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
        drom_engine_edge(&engine, now, is_mark);
        poll_all(&engine);
        now += us;
        is_mark = !is_mark;
    }
    drom_engine_edge(&engine, now, false);
    poll_all(&engine);
    if (writes != 2 || pin_is_high) {
        return false;
    }
    now += 300000;
    poll_all(&engine);
    return writes == 3 && pin_is_high;
}

int main(void)
{
    static const char DROM_FLASH good[] = " read back\n";
    static const char DROM_FLASH bad[] = " LOST\n";
    static const char DROM_FLASH pin_good[] = "a press reaches its pin\n";
    static const char DROM_FLASH pin_bad[] = "a press is LOST on its way to the pin\n";
    static const char DROM_FLASH ok[] = "ok\n";
    static const char DROM_FLASH failed[] = "failed\n";
    bool is_good = true;
    UCSR0B = 1 << TXEN0;
    for (size_t i = 0; i < drom_waveform_count; i++) {
        const drom_waveform_ref waveform = drom_waveforms[i];
        const bool is_read = is_read_back(waveform);
        put_text(waveform->protocol->id);
        put_text(is_read ? good : bad);
        is_good &= is_read;
    }
    const bool has_reached = reaches_its_pin();
    put_text(has_reached ? pin_good : pin_bad);
    put_text(is_good && has_reached ? ok : failed);
    cli();
    sleep_cpu();
    for (;;) {
    }
}
