/* The listener that knows every protocol, apart, so that a program without it needn't have them. */
#include "listener.h"

void sim_listener_open(sim_listener *listener, void (*frame)(void *, const drom_frame *), void *context)
{
    drom_protocol_ref protocols[SIM_MAX_PROTOCOLS];
    size_t count = 0;
    for (size_t i = 0; i < drom_waveform_count && count < SIM_MAX_PROTOCOLS; i++) {
        protocols[count++] = drom_waveforms[i]->protocol;
    }
    sim_listener_open_with(listener, protocols, count, frame, context);
}
