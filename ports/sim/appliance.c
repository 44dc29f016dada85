/* An appliance that knows some keys: how often each was pressed, as the library's own receiver hears it. What
 * makes a new press of a frame stands in docs/protocols.md, protocol by protocol. */
#include "devices.h"
#include "listener.h"

#include <glib.h>
#include <stdio.h>

struct sim_appliance {
    sim_listener listener;
    const drom_sender_key *keys;
    unsigned count;
    unsigned *presses; /* of each */
    drom_frame newest;
    unsigned frames; /* of the newest press; 0: what comes next begins one */
    unsigned torn;   /* presses that ended before they had all their frames */
    int newest_key;  /* its row; -1: none of them */
    bool is_new;     /* its frame made a press */
    bool has_heard;  /* a frame, since it was last asked */
};

/* The row of a frame's key; -1: it isn't known. */
static int key_of(const sim_appliance *appliance, const drom_frame *frame)
{
    for (unsigned i = 0; i < appliance->count; i++) {
        const drom_sender_key *const key = &appliance->keys[i];
        const drom_code code = {key->waveform->protocol->number, key->address, key->command};
        if (drom_code_equal(&code, &frame->code)) {
            return (int)i;
        }
    }
    return -1;
}

/* Frames per press. */
static unsigned needed(const sim_appliance *appliance)
{
    return appliance->newest_key < 0 ? 1
                                     : MAX(appliance->keys[appliance->newest_key].waveform->min_frames, 1);
}

/* No later than one and a half periods after the frame before. */
static bool is_in_time(const sim_appliance *appliance, const drom_frame *frame)
{
    const drom_frame *const newest = &appliance->newest;
    const drom_protocol *const protocol = frame->protocol;
    const drom_us period_us =
        protocol->period_us != 0 ? protocol->period_us : newest->lasted_us + (drom_us)protocol->gap_us;
    return appliance->frames > 0 && newest->protocol == protocol &&
           frame->at - newest->at <= period_us + period_us / 2;
}

/* Is this frame with numbers one more of the newest press? */
static bool goes_on(const sim_appliance *appliance, const drom_frame *frame)
{
    const bool has_own_repeat = frame->protocol->has_ditto || frame->protocol == &drom_jvc;
    return is_in_time(appliance, frame) && drom_code_equal(&appliance->newest.code, &frame->code) &&
           appliance->newest.toggle == frame->toggle &&
           (!has_own_repeat || frame->kind == DROM_FRAME_HEADERLESS);
}

static void end_press(sim_appliance *appliance)
{
    appliance->torn += appliance->frames > 0 && appliance->frames < needed(appliance);
    appliance->frames = 0;
}

static void take_frame(void *context, const drom_frame *frame)
{
    sim_appliance *const appliance = context;
    appliance->is_new = false;
    appliance->has_heard |= frame->kind != DROM_FRAME_BOUNDARY;
    if (frame->kind == DROM_FRAME_BOUNDARY) {
        end_press(appliance);
        return;
    }
    if (frame->kind == DROM_FRAME_REPEAT) { /* too late, it says nothing */
        if (is_in_time(appliance, frame)) {
            appliance->newest.at = frame->at;
            appliance->newest.lasted_us = frame->lasted_us;
        }
        return;
    }
    if (!goes_on(appliance, frame)) {
        end_press(appliance);
        appliance->newest_key = key_of(appliance, frame);
    }
    appliance->frames++;
    appliance->newest = *frame;
    appliance->is_new = appliance->frames == needed(appliance) && appliance->newest_key >= 0;
    if (appliance->is_new) {
        appliance->presses[appliance->newest_key]++;
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

unsigned sim_target_torn(sim_target *target)
{
    end_press(target->appliance);
    return target->appliance->torn;
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

bool sim_appliance_has_heard(sim_appliance *appliance, char *frame, size_t size)
{
    const drom_frame *const newest = &appliance->newest;
    const bool has_heard = appliance->has_heard && newest->protocol != NULL;
    appliance->has_heard = false;
    if (has_heard) {
        (void)snprintf(frame, size, "%s %u %u", newest->protocol->id, newest->code.address,
                       newest->code.command);
    }
    return has_heard;
}

void sim_appliance_free(sim_appliance *unwanted)
{
    if (unwanted != NULL) {
        g_free(unwanted->presses);
        g_free(unwanted);
    }
}
