/* The receiver with all protocols, and the keys behind it. First a frame whose edges are moved by bytes; then
 * any edges at any times: each three bytes are a time and a kind. */
#include "fuzz.h"

#include "dromikos/internal/keys.h"

#include "dromikos/encode.h"

#include "listener.h"

static const uint16_t hold_ms[] = {300};
static drom_code codes[] = {{DROM_NEC, 4, 70}, {DROM_UNKNOWN, 1, 0}};
static const drom_handset handsets[] = {{.codes = DROM_ROWS(codes)}};
static drom_hold holds[1];
static drom_ticking ticks[1];
static const drom_keys_plan plan = {.handsets = DROM_ROWS(handsets),
                                    .hold_ms = DROM_ROWS(hold_ms),
                                    .holds = holds,
                                    .ticks = ticks,
                                    .repeat_after_ms = 300,
                                    .repeat_every_ms = 100};

typedef struct ear {
    drom_keys keys;
    bool is_down;
} ear;

/* A key is pressed before it repeats or is released, and not twice. */
static void check_event(void *context, const drom_key_event *event)
{
    ear *const heard = context;
    const bool needs_down = (event->gesture & (DROM_REPEAT | DROM_HOLD | DROM_RELEASE)) != 0;
    if ((event->gesture == DROM_PRESS && heard->is_down) || (needs_down && !heard->is_down)) {
        __builtin_trap();
    }
    heard->is_down = event->gesture == DROM_PRESS || (heard->is_down && event->gesture != DROM_RELEASE);
}

static void take_frame(void *context, const drom_frame *frame)
{
    ear *const heard = context;
    if (frame->protocol == NULL || drom_frame_margin(frame) > 100) {
        __builtin_trap();
    }
    if (frame->kind == DROM_FRAME_WHOLE) {
        codes[0] = frame->code; /* so that the keys have this code */
    }
    drom_keys_frame(&heard->keys, frame);
}

/* A frame of any protocol, each of its intervals changed by a byte. Returns the number of bytes used. */
static size_t send_frame(sim_listener *listener, const uint8_t *data, size_t size)
{
    const drom_waveform *const waveform = drom_waveforms[data[0] % drom_waveform_count];
    const uint64_t addresses = 1 + (uint64_t)waveform->max_address - waveform->min_address;
    const drom_code code = {waveform->protocol->number,
                            waveform->min_address + (uint32_t)(data[1] % addresses),
                            (uint16_t)(data[2] & waveform->max_command)};
    drom_encoder encoder;
    size_t used = 4;
    bool is_mark = true;
    drom_encode_start(&encoder, waveform, &code, data[3] % 2 == 0 ? DROM_SEND_FIRST : DROM_SEND_REPEAT,
                      data[3] & 2);
    sim_listener_pass(listener, listener->now + 100000);
    for (uint16_t us = drom_encode_next(&encoder); us != 0; us = drom_encode_next(&encoder)) {
        const int moved = used < size ? (int8_t)data[used++] : 0;
        sim_listener_edge(listener, listener->now, is_mark);
        listener->now += (drom_us)((int)us + moved > 1 ? (int)us + moved : 1);
        is_mark = !is_mark;
    }
    sim_listener_edge(listener, listener->now, false);
    return used;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    ear heard = {.is_down = false};
    sim_listener listener;
    drom_keys_init(&heard.keys, &plan, check_event, &heard);
    sim_listener_open(&listener, take_frame, &heard);
    listener.now = UINT32_MAX - 50000;
    size_t i = size >= 4 ? send_frame(&listener, data, size) : size;
    for (; i + 2 < size; i += 3) {
        const drom_us wait = (data[i] | (drom_us)data[i + 1] << 8) << (data[i + 2] >> 4);
        sim_listener_pass(&listener, listener.now + (wait & 0x3ffffff));
        (void)drom_keys_advance(&heard.keys, listener.now);
        const drom_edge edge = {listener.now, (data[i + 2] & 1) != 0, (data[i + 2] & 6) == 6};
        drom_receiver_edge(&listener.receiver, &edge, 0);
    }
    sim_listener_pass(&listener, listener.now + 1000000);
    (void)drom_keys_advance(&heard.keys, listener.now);
    return 0;
}
