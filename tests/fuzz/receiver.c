/* The receiver with every protocol, and the keys behind it: any edges at any times. Each three bytes are a
 * time and a kind. */
#include "fuzz.h"

#include "dromikos/keys.h"

#include "listener.h"

static const uint16_t hold_ms[] = {300};
static drom_code codes[] = {{&drom_nec, 4, 70}, {&drom_unknown, 1, 0}};
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
    ear *const of = context;
    const bool needs_down = (event->gesture & (DROM_REPEAT | DROM_HOLD | DROM_RELEASE)) != 0;
    if ((event->gesture == DROM_PRESS && of->is_down) || (needs_down && !of->is_down)) {
        __builtin_trap();
    }
    of->is_down = event->gesture == DROM_PRESS || (of->is_down && event->gesture != DROM_RELEASE);
}

static void take_frame(void *context, const drom_frame *frame)
{
    ear *const of = context;
    if (frame->code.protocol == NULL || drom_frame_margin(frame) > 100) {
        __builtin_trap();
    }
    if (frame->kind == DROM_FRAME_WHOLE) {
        codes[0] = frame->code; /* so that the keys know it */
    }
    drom_keys_frame(&of->keys, frame);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    ear of = {.is_down = false};
    sim_listener listener;
    drom_keys_init(&of.keys, &plan, check_event, &of);
    sim_listener_open(&listener, NULL, take_frame, &of);
    listener.now = UINT32_MAX - 50000;
    for (size_t i = 0; i + 2 < size; i += 3) {
        const drom_us wait = (data[i] | (drom_us)data[i + 1] << 8) << (data[i + 2] >> 4);
        sim_listener_pass(&listener, listener.now + (wait & 0x3ffffff));
        drom_keys_advance(&of.keys, listener.now);
        const drom_edge edge = {listener.now, (data[i + 2] & 1) != 0, (data[i + 2] & 6) == 6};
        drom_receiver_edge(&listener.receiver, &edge, 0);
    }
    sim_listener_pass(&listener, listener.now + 1000000);
    drom_keys_advance(&of.keys, listener.now);
    return 0;
}
