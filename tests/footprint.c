/* An array for each piece of a plan's memory, as large as the piece: tests/chips.sh reads their sizes. */
#include "dromikos/dromikos.h"
#include "dromikos/outputs/lamp.h"
#include "dromikos/outputs/relay.h"
#include "dromikos/outputs/sender.h"
#include "dromikos/outputs/stepper.h"
#include "dromikos/outputs/strip.h"

#define PIECE(name, type)                                                                                    \
    extern char name[sizeof(type)];                                                                          \
    char name[sizeof(type)]

PIECE(receive_each_protocol, drom_decoder);
PIECE(receive_fingerprint, drom_fingerprint);
PIECE(receive_ring, drom_ring);
PIECE(receive_receiver, drom_receiver);
PIECE(keys_all, drom_keys);
PIECE(keys_each_handset, drom_hold);
PIECE(outputs_each_relay, drom_relay_state);
PIECE(engine_with_all_rooms, drom_engine);
PIECE(timing_edges, drom_timed_edges);
PIECE(outputs_each_stepper, drom_stepper_state);
PIECE(outputs_each_strip, drom_strip_state);
PIECE(outputs_each_sender, drom_sender_state);
PIECE(outputs_each_lamp, drom_lamp_state);

_Static_assert(sizeof(void *) != 2 || sizeof(drom_decoder) <= 14,
               "a decoder may remember 14 bytes on an 8-bit chip");
