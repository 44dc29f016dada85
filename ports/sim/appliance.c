/* An appliance that knows some keys: how often each was pressed, as the library's own receiver hears it. A
 * frame goes on with a press when it says the same, and comes no later than the next one of a held key. */
#include "devices.h"
#include "listener.h"

#include <glib.h>

struct sim_appliance {
    sim_listener listener;
    const drom_sender_key *keys;
    unsigned count;
    unsigned *presses; /* of each */
    drom_frame newest;
    bool has_heard;
    int newest_key; /* its row; -1: none of them */
    bool is_new;    /* its frame began a press */
};

static bool goes_on(const sim_appliance *appliance, const drom_frame *frame)
{
    const drom_frame *const newest = &appliance->newest;
    const drom_protocol *const protocol = frame->protocol;
    const drom_us end = newest->at + newest->lasted_us;
    const drom_us pause_us = protocol->period_us > newest->lasted_us ? protocol->period_us - newest->lasted_us
                                                                     : (drom_us)protocol->gap_us;
    return appliance->has_heard && drom_code_equal(&newest->code, &frame->code) &&
           newest->toggle == frame->toggle && frame->at - end < pause_us + pause_us / 2;
}

static void take_frame(void *context, const drom_frame *frame)
{
    sim_appliance *const appliance = context;
    appliance->is_new = false;
    if (frame->kind == DROM_FRAME_REPEAT && appliance->has_heard) {
        appliance->newest.at = frame->at;
        appliance->newest.lasted_us = frame->lasted_us;
    }
    if (frame->kind != DROM_FRAME_WHOLE && frame->kind != DROM_FRAME_HEADERLESS) {
        return;
    }
    const bool is_new = !goes_on(appliance, frame);
    appliance->newest = *frame;
    appliance->has_heard = true;
    appliance->is_new = is_new;
    for (unsigned i = 0; i < appliance->count && is_new; i++) {
        const drom_sender_key *const key = &appliance->keys[i];
        const drom_code code = {key->waveform->protocol->number, key->address, key->command};
        const bool is_pressed = drom_code_equal(&code, &frame->code);
        appliance->presses[i] += is_pressed;
        appliance->newest_key = is_pressed ? (int)i : appliance->newest_key;
    }
}

static bool has(const drom_protocol_ref *protocols, size_t count, drom_protocol_ref wanted)
{
    for (size_t i = 0; i < count; i++) {
        if (protocols[i] == wanted) {
            return true;
        }
    }
    return false;
}

void sim_target_learn(sim_target *target, const drom_sender_key *keys, unsigned count)
{
    sim_appliance *const appliance = g_new0(sim_appliance, 1);
    drom_protocol_ref protocols[SIM_MAX_PROTOCOLS] = {NULL};
    size_t known = 0;
    for (unsigned i = 0; i < count; i++) {
        const drom_protocol_ref protocol = keys[i].waveform->protocol;
        if (known < SIM_MAX_PROTOCOLS && !has(protocols, known, protocol)) {
            protocols[known++] = protocol;
        }
    }
    appliance->newest_key = -1;
    appliance->keys = keys;
    appliance->count = count;
    appliance->presses = g_new0(unsigned, MAX(count, 1));
    sim_listener_open_with(&appliance->listener, protocols, known, take_frame, appliance);
    target->appliance = appliance;
}

unsigned sim_target_presses(const sim_target *target, unsigned key)
{
    return target->appliance->presses[key];
}

int sim_target_newest(const sim_target *target, bool *is_new)
{
    *is_new = target->appliance->is_new;
    return target->appliance->newest_key;
}

void sim_appliance_light(sim_appliance *appliance, double now_us, bool is_on)
{
    sim_listener_edge(&appliance->listener, (drom_us)now_us, is_on);
}

void sim_appliance_pass(sim_appliance *appliance, double now_us)
{
    sim_listener_pass(&appliance->listener, (drom_us)now_us);
}

void sim_appliance_free(sim_appliance *unwanted)
{
    if (unwanted != NULL) {
        g_free(unwanted->presses);
        g_free(unwanted);
    }
}
